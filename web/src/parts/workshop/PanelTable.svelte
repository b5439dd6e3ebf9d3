<script lang="ts">
  import { tick } from "svelte";
  import { Places } from "../../lib/places";
  import { TableState, cells, type Cell } from "../../lib/table.svelte";
  import type { Workshop } from "../../lib/types";
  import { stepTitle } from "../../lib/words";
  import type { WorkshopState } from "../../lib/workshop.svelte";
  import AddBlock from "./AddBlock.svelte";
  import LineStrip from "./LineStrip.svelte";

  /** All controls of a panel, each in one line: label, what is printed, what it sets. */
  let { s, w }: { s: WorkshopState; w: Workshop } = $props();
  // svelte-ignore state_referenced_locally
  const t = new TableState(s);
  let adder = $state<AddBlock | undefined>();
  const headings = new Places();
  /** Shows the section that has just been put in, with the focus where one goes on. */
  async function showPut() {
    await tick();
    headings.show(s.put, false, "start");
    adder?.open();
  }
  export const addBlock = () => adder?.open();
  /** Begins a new control in the section where one was at work last. */
  export function newLine(where?: string) {
    const at = t.at.startsWith("+")
      ? t.at.slice(1)
      : w.panel.controls.find((c) => c.id === t.at)?.section;
    const section = where ?? at ?? s.put;
    void t.go(`+${section || w.panel.sections[0]?.id}`, "label");
  }

  const lines = $derived(new Map(w.lines.map((l) => [l.control, l])));
  const known = $derived(new Set(w.panel.sections.map((x) => x.id)));
  const sections = $derived([
    ...w.panel.sections.map((x) => ({
      ...x,
      controls: w.panel.controls.filter((c) => c.section === x.id),
    })),
    ...[w.panel.controls.filter((c) => !known.has(c.section))].flatMap(
      (controls) =>
        controls.length
          ? [{ id: "", label: "In no section", step: "", controls }]
          : [],
    ),
  ]);
  const titles: Record<Cell, string> = {
    label: "Label",
    printed: "Printed beside it",
    sets: "Sets",
  };
  const hints: Record<Cell, string> = {
    label: "new control",
    printed: "0 to 10",
    sets: "what it sets",
  };
  const kept = (at: string, cell: Cell) =>
    cell === "sets"
      ? "nothing: only written down"
      : (lines.get(at)?.reads ?? "");
  /** What is made of the rest of a new line where a cell is left empty. */
  const guessed = (at: string, cell: Cell): string => {
    if (cell === "label") return hints.label;
    if (t.at !== at) return "";
    return t.drawn?.line[cell] ?? hints[cell];
  };
  // what has been typed into the last line of each section
  let fresh: Record<string, Partial<Record<Cell, string>>> = $state({});
  const sectionOf = (at: string) =>
    at.startsWith("+") ? at.slice(1) : undefined;
  function add(section: string) {
    const said = $state.snapshot(fresh[section]) ?? {};
    if (!said.label?.trim()) return;
    fresh[section] = {};
    t.typed = {};
    t.drawn = null;
    t.close();
    t.add(section, said);
  }
  /** Writes a text into a cell, as if it had been typed. */
  function write(at: string, cell: Cell, text: string) {
    const section = sectionOf(at);
    const f = t.field(at, cell);
    if (f) f.value = text;
    if (section !== undefined)
      fresh[section] = { ...fresh[section], [cell]: text };
    t.typed = { ...t.typed, [cell]: text };
  }
  /** What is pointed at in the open list becomes what the cell holds. */
  function takeOffer(at: string, cell: Cell) {
    const picked =
      t.at === at && t.cell === cell ? t.offers[t.offer] : undefined;
    if (picked) write(at, cell, picked);
    t.close();
  }
  function keydown(e: KeyboardEvent, at: string, cell: Cell) {
    const field = e.currentTarget as HTMLInputElement;
    const section = sectionOf(at);
    const open = t.offers.length > 0;
    const down = e.key === "ArrowDown";
    const stop = () => (e.preventDefault(), e.stopPropagation());
    if (down && e.altKey && cell !== "label") {
      stop();
      void t.look(field.value, true);
    } else if (
      e.key === "ArrowUp" &&
      dropped?.at === at &&
      dropped.cell === cell
    ) {
      stop();
      bringBack();
    } else if ((down || e.key === "ArrowUp") && open) {
      stop();
      const n = t.offers.length;
      t.offer = down ? (t.offer + 1) % n : (Math.max(t.offer, 0) + n - 1) % n;
      t.draw();
    } else if (down || e.key === "ArrowUp") {
      stop();
      t.walk(down ? 1 : -1);
    } else if (e.key === "Enter" && !e.ctrlKey) {
      stop();
      takeOffer(at, cell);
      if (section !== undefined) {
        add(section);
        void t.go(at, "label");
      } else {
        leave(field, at, cell);
        t.walk(1);
      }
    } else if (e.key === "Enter") {
      stop();
      if (section === undefined)
        void s
          .choose(s.all.find((r) => r.key === `controls:${at}`))
          .then(s.enter);
    } else if (e.key === "Escape" && open) {
      stop();
      t.close();
    } else if (e.key === "Escape") {
      const was = value(at, cell);
      if (field.value === was && !t.wrong[`${at}/${cell}`] && !anything(at))
        return;
      stop();
      const line = section === undefined ? {} : { ...fresh[section] };
      dropped = { at, cell, text: field.value, line };
      if (section !== undefined) fresh[section] = {};
      field.value = was;
      t.typed = {};
      delete t.wrong[`${at}/${cell}`];
      t.draw();
    } else if (e.key === "Delete" && e.ctrlKey && section === undefined) {
      stop();
      t.remove(at);
    }
  }
  /** Tells whether something has been typed into the line of a new control. */
  const anything = (at: string) =>
    Object.values(fresh[sectionOf(at) ?? ""] ?? {}).some((x) => x.trim());
  // what Esc took away: a cell, or the whole line of a new control
  let dropped = $state<{
    at: string;
    cell: Cell;
    text: string;
    line: Partial<Record<Cell, string>>;
  } | null>(null);
  function bringBack() {
    if (!dropped) return;
    const { at, cell, text, line } = dropped;
    dropped = null;
    for (const c of cells) {
      const was = line[c];
      if (was !== undefined) write(at, c, was);
    }
    write(at, cell, text);
    void t.go(at, cell);
    t.draw();
  }
  /** What a cell holds as it is kept; of a new control nothing is. */
  const value = (at: string, cell: Cell): string =>
    cell === "label"
      ? (w.panel.controls.find((c) => c.id === at)?.label ?? "")
      : (lines.get(at)?.[cell] ?? "");
  /** Takes what a cell holds when it is left: of a new control when the whole line is. */
  function leave(
    field: HTMLInputElement,
    at: string,
    cell: Cell,
    to?: unknown,
  ) {
    takeOffer(at, cell);
    const section = sectionOf(at);
    if (section !== undefined) {
      if (!field.closest("tr")?.contains(to as Node | null)) add(section);
      return;
    }
    const text = field.value.trim();
    if (text !== value(at, cell)) t.take(at, cell, text);
  }
  function pick(at: string, cell: Cell, text: string) {
    t.close();
    write(at, cell, text);
    const f = t.field(at, cell);
    if (f && sectionOf(at) === undefined) leave(f, at, cell);
    t.draw();
    f?.focus();
  }
</script>

{#snippet offers(at: string, cell: Cell)}
  {#if t.at === at && t.cell === cell && t.offers.length}
    <ul class="offers" role="listbox" id="t-offers" aria-label={titles[cell]}>
      {#each t.offers as o, i (o)}
        <li
          id={`t-offer-${i}`}
          role="option"
          aria-selected={i === t.offer}
          onmousedown={(e) => (e.preventDefault(), pick(at, cell, o))}
        >
          {o}
        </li>
      {/each}
    </ul>
  {/if}
{/snippet}

{#snippet box(at: string, cell: Cell, name: string)}
  {@const section = sectionOf(at)}
  {@const open = t.at === at && t.cell === cell && t.offers.length > 0}
  {@const bad = t.wrong[`${at}/${cell}`]}
  <input
    {@attach t.fields.at(`${cell}/${at}`)}
    id={`t-${cell}-${at}`}
    class:num={cell === "printed"}
    value={section === undefined
      ? value(at, cell)
      : (fresh[section]?.[cell] ?? "")}
    placeholder={section === undefined ? kept(at, cell) : guessed(at, cell)}
    aria-label={`${titles[cell]} of ${name}`}
    aria-invalid={!!bad}
    role={cell === "label" ? undefined : "combobox"}
    aria-expanded={cell === "label" ? undefined : open}
    aria-controls={open ? "t-offers" : undefined}
    aria-activedescendant={open && t.offer >= 0
      ? `t-offer-${t.offer}`
      : undefined}
    autocomplete="off"
    spellcheck="false"
    onfocus={(e) => (t.enter(at, cell), e.currentTarget.select())}
    onclick={(e) => cell !== "label" && t.look(e.currentTarget.value, true)}
    oninput={(e) => {
      dropped = null;
      write(at, cell, e.currentTarget.value);
      t.type(e.currentTarget.value);
    }}
    onblur={(e) => leave(e.currentTarget, at, cell, e.relatedTarget)}
    onkeydown={(e) => keydown(e, at, cell)}
  />
  {#if bad}<div class="red small">{bad}</div>{/if}
  {@render offers(at, cell)}
{/snippet}

<AddBlock bind:this={adder} {s} {w} done={showPut} />
<table class="lines say">
  <thead
    ><tr
      >{#each cells as c (c)}<th>{titles[c]}</th>{/each}<th>By which law</th><th
        ><span class="visually-hidden">Act</span></th
      ></tr
    ></thead
  >
  <tbody>
    {#each sections as x (x.id)}
      <tr
        {@attach headings.at(x.id)}
        class="section"
        class:put={s.put === x.id && x.id}
        ><th colspan="5" scope="rowgroup"
          ><button
            class="linkish"
            onclick={() =>
              s.choose(s.all.find((r) => r.key === `sections:${x.id}`))}
            >{x.label || x.id}</button
          > <span class="soft small">{stepTitle(x.step)}</span></th
        ></tr
      >
      {#each x.controls as c (c.id)}
        {@const l = lines.get(c.id)}
        <tr
          data-line={c.id}
          aria-selected={t.at === c.id}
          class:bad={s.bad.has(c.id)}
        >
          {#each cells as cell (cell)}<td class={cell}
              >{@render box(c.id, cell, c.label)}</td
            >{/each}
          <td class="law small"
            ><span class="num">{l?.law ?? ""}</span>
            <span class="soft"
              >{l?.source ?? ""}{#if l?.more}, sets {l.more} more{/if}</span
            ></td
          >
          <td class="act"
            ><button
              class="linkish"
              tabindex="-1"
              title="All of its fields (Ctrl Enter)"
              aria-label={`All fields of ${c.label}`}
              onclick={() =>
                s
                  .choose(s.all.find((r) => r.key === `controls:${c.id}`))
                  .then(s.enter)}>More</button
            >
            <button
              class="linkish"
              tabindex="-1"
              title="Take it out (Ctrl Delete)"
              aria-label={`Take out ${c.label}`}
              onclick={() => t.remove(c.id)}>×</button
            ></td
          >
        </tr>
      {/each}
      {#each t.coming.filter((k) => k.section === x.id) as k (k.n)}
        <tr class="coming">
          {#each cells as cell (cell)}
            <td class={cell}>
              <input
                class:num={cell === "printed"}
                aria-label={`${titles[cell]} of a control that is not taken yet`}
                aria-invalid={k.faults.some((f) => f.path === cell)}
                bind:value={k.said[cell]}
                onkeydown={(e) => {
                  if (e.key !== "Enter" && e.key !== "Escape") return;
                  e.preventDefault();
                  e.stopPropagation();
                  if (e.key === "Enter") t.send(k);
                  else t.drop(k);
                }}
              />
              {#each k.faults.filter((f) => f.path === cell || (cell === "label" && !cells.includes(f.path as Cell))) as f, i (i)}
                <div class="red small">{f.message}</div>
              {/each}
            </td>
          {/each}
          <td class="small soft" colspan="2"
            >{#if k.faults.length}<button
                class="linkish"
                onclick={() => t.send(k)}>Try again</button
              >
              <button class="linkish" onclick={() => t.drop(k)}>Leave it</button
              >{:else}on its way{/if}</td
          >
        </tr>
      {/each}
      {#if x.id}
        {@const at = `+${x.id}`}
        <tr data-line={at} class="new" aria-selected={t.at === at}>
          {#each cells as cell (cell)}<td class={cell}
              >{@render box(at, cell, `a new control of ${x.label}`)}</td
            >{/each}
          <td colspan="2"></td>
        </tr>
      {/if}
    {/each}
  </tbody>
</table>
<LineStrip {t} {dropped} {bringBack} />

<style>
  table.say {
    margin-top: 0.5rem;
    table-layout: fixed;
  }
  th:nth-child(1) {
    width: 21%;
  }
  th:nth-child(2) {
    width: 27%;
  }
  th:nth-child(3) {
    width: 25%;
  }
  th:nth-child(5) {
    width: 4.5rem;
  }
  /* where the page is narrow the law is told below, for the line that has the focus */
  @media (max-width: 48rem) {
    thead th:nth-child(n + 4),
    td.law,
    td.act {
      display: none;
    }
    thead th:nth-child(-n + 3) {
      width: 33%;
    }
  }
  tr.section th {
    padding-top: 0.75rem;
    border-bottom-color: var(--rule);
  }
  tr.section th button {
    font-weight: 600;
    color: var(--ink);
  }
  tr.put th {
    border-left: 3px solid var(--rubric);
  }
  td {
    position: relative;
    padding: 0 !important;
    vertical-align: top !important;
  }
  td.law,
  td.act,
  tr.coming td:last-child {
    padding: 0.1875rem 0.5rem !important;
    overflow: hidden;
    text-overflow: ellipsis;
    white-space: nowrap;
  }
  td.act {
    text-align: right;
    visibility: hidden;
  }
  tr:hover td.act,
  tr[aria-selected="true"] td.act {
    visibility: visible;
  }
  input {
    box-sizing: border-box;
    width: 100%;
    height: 1.625rem;
    padding: 0 0.5rem;
    font: inherit;
    font-size: 0.8125rem;
    color: var(--ink);
    background: transparent;
    border: 0;
    border-radius: 0;
    text-overflow: ellipsis;
  }
  input.num {
    font-family: var(--mono);
    font-size: 0.75rem;
  }
  input:focus {
    background: var(--sheet);
    outline: 2px solid var(--focus);
    outline-offset: -2px;
  }
  input[aria-invalid="true"] {
    border-bottom: 2px solid var(--rubric);
  }
  ::placeholder {
    color: var(--ink-3);
    opacity: 1;
    font-style: italic;
    font-family: var(--sans);
  }
  tr.bad td:first-child {
    border-left: 3px solid var(--rubric);
  }
  td .red {
    padding: 0 0.5rem 0.25rem;
  }
  .offers {
    position: absolute;
    z-index: 20;
    top: 1.625rem;
    left: 0;
    min-width: 100%;
    max-height: 15rem;
    overflow: auto;
    margin: 0;
    padding: 0.125rem 0;
    list-style: none;
    background: var(--sheet);
    border: 1px solid var(--ink-3);
    white-space: nowrap;
  }
  .offers li {
    padding: 0.125rem 0.5rem;
    font-size: 0.8125rem;
    cursor: pointer;
  }
  .offers li[aria-selected="true"],
  .offers li:hover {
    background: var(--chosen);
  }
</style>
