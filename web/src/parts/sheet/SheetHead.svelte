<script lang="ts">
  import { Button, Select, SelectItem } from "carbon-components-svelte";
  import { exportURL, part } from "../../lib/api";
  import type { Live } from "../../lib/live.svelte";
  import type { SheetState } from "../../lib/sheet.svelte";
  import type { SheetView } from "../../lib/types";
  import { words } from "../../lib/words";
  import More from "../More.svelte";
  import Verdict from "../Verdict.svelte";

  /** What is translated to what, how it came out, and where one goes from here. */
  let { s, view, live }: { s: SheetState; view: SheetView; live: Live } =
    $props();
  const id = $derived(s.id);
  const sheet = $derived(view.sheet);
  const failing = $derived(s.failing);
</script>

<div class="top bar">
  <h1 title={sheet.patchName}>
    <a href={`/patches/${part(sheet.patch)}`}>{sheet.patchName}</a>
  </h1>
  <span class="from">{sheet.source.name} to</span>
  <Select
    size="sm"
    labelText="Target"
    hideLabel
    inline
    bind:selected={
      () => sheet.target.id, (v) => s.turnTo(String(v), sheet.school)
    }
  >
    {#each view.targets as t (t.id)}<SelectItem
        value={t.id}
        text={t.name}
      />{/each}
  </Select>
  <Select
    size="sm"
    labelText="School"
    hideLabel
    inline
    bind:selected={
      () => sheet.school, (v) => s.turnTo(sheet.target.id, String(v))
    }
  >
    {#each view.schools as x (x.school)}<SelectItem
        value={x.school}
        text={x.label}
      />{/each}
  </Select>
  <div
    class="sum"
    role="group"
    aria-label="Verdicts; press one to see only those lines"
  >
    {#each words.verdicts as v (v)}
      {#if (sheet.summary[v] ?? 0) > 0}
        <button aria-pressed={s.only.includes(v)} onclick={() => s.filter(v)}>
          <span class="num">{sheet.summary[v]}</span>
          <Verdict verdict={v} />
        </button>
      {/if}
    {/each}
  </div>
  <div class="end bar">
    <details class="audit">
      <summary class:red={failing.length > 0}
        >{failing.length === 0
          ? "checks hold"
          : `${failing.length} of ${s.checks.length} checks fail${failing.length === 1 ? "s" : ""}`}</summary
      >
      <ul>
        {#each s.checks as c (c.id)}
          <li class:red={!c.ok}>
            <strong>{c.id}</strong>
            {c.ok ? "holds" : "fails"}: {c.what}{c.detail
              ? `: ${c.detail}`
              : ""}
          </li>
        {/each}
        <li class="soft">
          What is lost weighs {sheet.plan.cost.toFixed(2)}; {sheet.plan.nodes} ways
          to play it were looked at{sheet.plan.exact
            ? ", none loses less"
            : ", until the limit was reached"}
        </li>
      </ul>
    </details>
    <Button size="small" href={`/sheets/${id}/dial-in`}>Dial in</Button>
    <Button size="small" kind="tertiary" href={`/sheets/${id}/listen`}
      >Listen</Button
    >
    <button
      class="linkish"
      aria-pressed={live.player.playing}
      disabled={live.rendering}
      onclick={() => void live.toggle()}
      >{live.player.playing
        ? "Stop"
        : live.rendering
          ? "Rendering"
          : "Hear"}</button
    >
    <button
      class="linkish"
      aria-expanded={s.plan}
      onclick={() => (s.plan = !s.plan)}>Plan</button
    >
    <More
      acts={[
        { text: "MIDI to and from it", run: () => (s.midi = !s.midi) },
        ...(sheet.target.memory
          ? [
              {
                text: `Slots of ${sheet.target.name}`,
                href: `/panels/${part(sheet.target.id)}/slots`,
              },
            ]
          : []),
        {
          text: "Compare targets",
          href: `/patches/${part(sheet.patch)}/targets`,
        },
        {
          text: "Print or save as text",
          href: exportURL(`/sheets/${id}/export.md`),
        },
        ...["pdf", "xlsx", "csv"].map((form) => ({
          text: `Save as ${form.toUpperCase()}`,
          href: exportURL(`/sheets/${id}/papers/sheet.${form}`),
        })),
        { text: "Save as JSON", href: exportURL(`/sheets/${id}/export.json`) },
        {
          text: "Delete this sheet",
          run: () => void s.remove(),
          danger: true,
        },
      ]}
    />
  </div>
</div>

<p class="heard small" role="status" class:red={s.heard?.silent === "target"}>
  {#if s.opening}Plans are rendered and compared by ear: a second or two.
  {:else if s.heard}{`${s.heard.headline} `}{#each s.heard.checks.filter((c) => !c.ok) as c (c.id)}
      <span class="red">{`${c.id} fails: ${c.detail}. `}</span>{/each}
  {:else if s.unheard}<span class="red"
      >Nobody could listen to this sheet: {s.unheard}</span
    >
  {:else}Listening to both sides{/if}
</p>

<style>
  .heard {
    margin: 0;
    padding: 0.1875rem 1.25rem;
    height: 1.625rem;
    overflow: hidden;
    white-space: nowrap;
    text-overflow: ellipsis;
    border-bottom: 1px solid var(--rule);
  }
  .top {
    padding: 0.3125rem 1.25rem;
    border-bottom: 1px solid var(--rule);
    gap: 0.25rem 0.625rem;
  }
  h1 a {
    text-decoration: none;
  }
  .from {
    white-space: nowrap;
  }
  .top :global(.bx--form-item) {
    flex: 0 0 auto;
  }
  .top :global(.bx--select--inline .bx--select-input) {
    font-weight: 600;
    width: auto;
    min-width: 0;
  }
  .top :global(.bx--select--inline),
  .top :global(.bx--select--inline .bx--select-input__wrapper) {
    width: auto;
    max-width: 10rem;
  }
  .sum {
    display: flex;
    flex-wrap: wrap;
    font-size: 0.8125rem;
  }
  .sum button {
    font: inherit;
    color: inherit;
    background: none;
    border: 1px solid transparent;
    padding: 0.125rem 0.4375rem;
    cursor: pointer;
    white-space: nowrap;
  }
  .sum button:hover {
    background: var(--shade);
  }
  .sum button[aria-pressed="true"] {
    background: var(--chosen);
    border-color: var(--ink-3);
  }
  .audit {
    position: relative;
    font-size: 0.8125rem;
  }
  .audit summary {
    cursor: pointer;
    white-space: nowrap;
  }
  .audit ul {
    position: absolute;
    right: 0;
    z-index: 30;
    width: 26rem;
    margin: 0.25rem 0 0;
    padding: 0.5rem 0.75rem;
    list-style: none;
    background: var(--sheet);
    border: 1px solid var(--ink-3);
  }
  .audit li {
    padding: 0.1875rem 0;
  }
  h1 {
    max-width: 24rem;
    overflow: hidden;
    text-overflow: ellipsis;
    white-space: nowrap;
  }
  .from {
    line-height: 1.25em;
    max-width: 12rem;
    overflow: hidden;
    text-overflow: ellipsis;
  }
</style>
