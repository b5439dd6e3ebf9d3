<script lang="ts">
  import { tick } from "svelte";
  import { Button } from "carbon-components-svelte";
  import { blocksFor } from "../../lib/table.svelte";
  import type { Block, Own, Workshop } from "../../lib/types";
  import type { WorkshopState } from "../../lib/workshop.svelte";

  /** Puts a building block in: found by its name, trimmed to what this instrument has. */
  let { s, w, done }: { s: WorkshopState; w: Workshop; done: () => void } =
    $props();
  let text = $state("");
  let box = $state<HTMLInputElement | undefined>();
  let go = $state<HTMLAnchorElement | HTMLButtonElement | null>(null);
  let shown = $state(false);
  let at = $state(0);
  let own: Own[] = $state([]);
  let block = $state<Block | null>(null);
  let mine = $state<Own | null>(null);
  let label = $state("");
  let usual = $state("");
  let count = $state("8");
  let has: Record<string, boolean> = $state({});
  let wrong = $state("");

  export function open() {
    box?.focus();
    box?.select();
  }
  async function show() {
    shown = true;
    at = 0;
    if (!own.length) own = await s.ownBlocks();
  }
  type Offer = {
    key: string;
    label: string;
    sub: string;
    block?: Block;
    own?: Own;
  };
  const offers: Offer[] = $derived.by(() => {
    const blocks: Offer[] = blocksFor(text).map((b) => ({
      key: b.id,
      label: b.label,
      sub: b.summary,
      block: b,
    }));
    const want = text.trim().toLowerCase().split(/\s+/).filter(Boolean);
    if (!want.length) return blocks;
    const sections = own.filter((o) => {
      const all = `${o.label} ${o.name}`.toLowerCase().split(/\s+/);
      return want.every((x) => all.some((y) => y.startsWith(x)));
    });
    return [
      ...blocks,
      ...sections.slice(0, 12).map((o) => ({
        key: `${o.panel}/${o.section}`,
        label: `${o.label} of ${o.name}`,
        sub: `your own: ${o.controls} controls`,
        own: o,
      })),
    ];
  });
  async function choose(o: Offer | undefined) {
    if (!o) return;
    block = o.block ?? null;
    mine = o.own ?? null;
    text = o.label;
    shown = false;
    wrong = "";
    label = "";
    usual = "";
    has = Object.fromEntries(
      (block?.pieces ?? []).map((p) => [p.label, !p.more]),
    );
    await tick();
    go?.focus();
  }
  let beside = $state(false);
  /** A filter may stand beside the one that is there. */
  const canBeside = $derived(
    !!block &&
      /filter|pass/i.test(block.label) &&
      w.panel.modules.some((m) => m.kind === "filter"),
  );
  function cancel() {
    beside = false;
    block = mine = null;
    text = "";
    shown = false;
    box?.focus();
  }
  async function put() {
    const b = block;
    const pieces = b?.pieces ?? [];
    const want = {
      label: label.trim() || undefined,
      usual: usual.trim() || undefined,
    };
    wrong =
      (await s.putBlock(
        b
          ? {
              block: b.id,
              ...want,
              leave: pieces
                .filter((p) => !p.more && !has[p.label])
                .map((p) => p.label),
              with: pieces
                .filter((p) => p.more && has[p.label])
                .map((p) => p.label),
              beside: (beside && canBeside) || undefined,
              count: b.slots ? Number(count) || undefined : undefined,
            }
          : { panel: mine?.panel, section: mine?.section, ...want },
      )) ?? "";
    if (wrong) return;
    cancel();
    done();
  }
  function keydown(e: KeyboardEvent) {
    const n = offers.length;
    if (e.key === "ArrowDown" || e.key === "ArrowUp") {
      if (!shown) void show();
      else if (n) at = (at + (e.key === "ArrowDown" ? 1 : n - 1)) % n;
    } else if (e.key === "Enter") void choose(offers[at]);
    else if (e.key === "Escape" && (shown || text)) {
      shown = false;
      text = "";
    } else return;
    e.preventDefault();
    e.stopPropagation();
  }
</script>

<div class="add">
  <div class="bar">
    <label for="add-block">Put in</label>
    <div class="find">
      <input
        id="add-block"
        bind:this={box}
        bind:value={text}
        placeholder="oscillator, filter, envelope, LFO, matrix, delay, or a section of another panel"
        role="combobox"
        aria-expanded={shown && offers.length > 0}
        aria-controls="add-offers"
        aria-activedescendant={shown && offers.length
          ? `add-offer-${at}`
          : undefined}
        autocomplete="off"
        onclick={show}
        oninput={show}
        onblur={() => (shown = false)}
        onkeydown={keydown}
      />
      {#if shown && offers.length}
        <ul id="add-offers" role="listbox" aria-label="What can be put in">
          {#each offers as o, i (o.key)}
            <li
              id={`add-offer-${i}`}
              role="option"
              aria-selected={i === at}
              onmousedown={(e) => (e.preventDefault(), void choose(o))}
            >
              {o.label} <span class="small soft">{o.sub}</span>
            </li>
          {/each}
        </ul>
      {:else if shown && text.trim()}
        <ul id="add-offers">
          <li class="soft">No block and no section is called that.</li>
        </ul>
      {/if}
    </div>
  </div>
  {#if block || mine}
    <form
      onsubmit={(e) => {
        e.preventDefault();
        void put();
      }}
    >
      <label
        >Label <input
          bind:value={label}
          placeholder={block?.label ?? mine?.label}
        /></label
      >
      {#if block?.slots}<label
          >Slots <input class="num short" bind:value={count} /></label
        >{/if}
      {#if block}<label
          >Its knobs are printed <input
            class="num"
            bind:value={usual}
            placeholder={w.usual}
          /></label
        >{/if}
      {#each block?.pieces ?? [] as p (p.label)}
        <label class="piece"
          ><input type="checkbox" bind:checked={has[p.label]} />
          {p.label}</label
        >
      {/each}
      {#if canBeside}
        <label class="piece"
          ><input type="checkbox" bind:checked={beside} /> beside the filter that
          is there</label
        >
      {/if}
      <Button size="small" type="submit" bind:ref={go}>Put it in</Button>
      <button type="button" class="linkish" onclick={cancel}>leave it</button>
      {#if wrong}<span class="red small" role="alert">{wrong}</span>{/if}
    </form>
  {/if}
</div>

<style>
  .add {
    margin-top: 0.5rem;
  }
  .find {
    position: relative;
    flex: 1;
  }
  input:not([type="checkbox"]) {
    box-sizing: border-box;
    font: inherit;
    font-size: 0.8125rem;
    padding: 0.25rem 0.5rem;
    color: var(--ink);
    background: var(--sheet);
    border: 0;
    border-bottom: 1px solid var(--ink-3);
  }
  .find input {
    width: 100%;
  }
  .short {
    width: 3.5rem;
  }
  ul {
    position: absolute;
    z-index: 30;
    left: 0;
    right: 0;
    max-height: 20rem;
    overflow: auto;
    margin: 0;
    padding: 0.125rem 0;
    list-style: none;
    background: var(--sheet);
    border: 1px solid var(--ink-3);
  }
  li {
    padding: 0.1875rem 0.5rem;
    cursor: pointer;
  }
  li[aria-selected="true"],
  li[role]:hover {
    background: var(--chosen);
  }
  form {
    display: flex;
    flex-wrap: wrap;
    align-items: center;
    gap: 0.375rem 1rem;
    padding: 0.5rem 0.75rem;
    background: var(--shade);
    border-left: 3px solid var(--rule);
    font-size: 0.8125rem;
  }
  .piece {
    display: flex;
    align-items: center;
    gap: 0.25rem;
  }
  ::placeholder {
    color: var(--ink-3);
    opacity: 1;
    font-style: italic;
    font-family: var(--sans);
  }
</style>
