<script lang="ts">
  import { tick } from "svelte";
  import { press, type Key } from "../../lib/keys.svelte";
  import type { LineState } from "../../lib/line.svelte";
  import { Places } from "../../lib/places";

  /** The line drawn, and its steps; the keys of the table work on it. */
  let { l, table }: { l: LineState; table: Key[] } = $props();

  let grid = $state<HTMLElement | undefined>();
  let width = $state(800);
  const places = new Places();
  export const focus = () => grid?.focus();

  const rows = $derived.by(() => {
    const keys = l.notes.map((n) => n.key);
    if (!keys.length) return { low: 33, high: 45 };
    return { low: Math.min(...keys) - 2, high: Math.max(...keys) + 2 };
  });
  const total = $derived(Math.max(l.whole, l.end));
  const quarters = $derived(
    Array.from(
      { length: Math.floor((total * 4) / l.whole) + 1 },
      (_, i) => (i * l.whole) / 4,
    ),
  );
  const x = (v: number) => 40 + (v / total) * (width - 56);
  const high = 132;
  const y = (key: number) =>
    8 + ((rows.high - key) / Math.max(1, rows.high - rows.low)) * (high - 24);
  function keydown(e: KeyboardEvent) {
    if (e.ctrlKey || e.metaKey || e.altKey || !press(table, e)) return;
    e.stopPropagation();
    void tick().then(() =>
      places
        .get(String(l.cursor))
        ?.scrollIntoView({ block: "nearest", inline: "nearest" }),
    );
  }
</script>

<!-- svelte-ignore a11y_no_noninteractive_tabindex, a11y_no_noninteractive_element_interactions -->
<div
  bind:this={grid}
  bind:clientWidth={width}
  id="phrase-grid"
  class="grid"
  role="application"
  aria-label="Step entry of the phrase"
  aria-describedby="phrase-line"
  tabindex="0"
  onkeydown={keydown}
>
  <svg {width} height={high} aria-hidden="true">
    {#each quarters as b (b)}
      <line
        class:bar1={b % l.whole === 0}
        x1={x(b)}
        x2={x(b)}
        y1="4"
        y2={high - 14}
      />
      {#if b % l.whole === 0 || total <= 2 * l.whole}<text x={x(b)} y={high - 3}
          >{l.fraction(b)}</text
        >{/if}
    {/each}
    {#each l.notes as n (n)}
      {@const from = x(n.at)}
      <line
        class="note"
        class:chosen={n === l.note}
        class:accent={n.accent}
        x1={from + 1}
        x2={Math.max(from + 3, x(n.at + n.for) - 2)}
        y1={y(n.key)}
        y2={y(n.key)}
        stroke-width={1.5 + (n.velocity / 127) * 5}
      />
      {#if n.slide}<line
          class="slide"
          x1={from - 6}
          x2={from + 1}
          y1={y(n.key) + 8}
          y2={y(n.key)}
        />{/if}
    {/each}
    <line
      class="cursor"
      x1={x(l.step?.at ?? l.end)}
      x2={x(l.step?.at ?? l.end)}
      y1="2"
      y2={high - 12}
    />
    <text class="end" x="36" y={y(rows.high - 2) + 4}
      >{l.name(rows.high - 2)}</text
    >
    {#if rows.high - rows.low > 6}<text
        class="end"
        x="36"
        y={y(rows.low + 2) + 4}>{l.name(rows.low + 2)}</text
      >{/if}
  </svg>
  <div class="steps num small">
    {#each l.steps as s, i (s.at)}
      <!-- svelte-ignore a11y_click_events_have_key_events, a11y_no_static_element_interactions -->
      <span
        {@attach places.at(String(i))}
        aria-current={i === l.cursor}
        onclick={() => l.go(i)}
        >{#each s.notes as n, k (k)}<b class:now={n === l.note}
            >{l.name(n.key)}{n.accent ? "›" : ""}{n.slide ? "~" : ""}</b
          >{/each}</span
      >
    {/each}
    <!-- svelte-ignore a11y_click_events_have_key_events, a11y_no_static_element_interactions -->
    <span
      {@attach places.at(String(l.steps.length))}
      aria-current={l.cursor >= l.steps.length}
      onclick={() => l.go(l.steps.length)}>end</span
    >
  </div>
</div>

<style>
  .grid {
    margin-top: 0.5rem;
    background: var(--paper);
    border: 1px solid var(--rule);
    overflow: hidden;
  }
  svg {
    display: block;
  }
  line {
    stroke: var(--rule);
  }
  .bar1 {
    stroke: var(--ink-3);
  }
  .note {
    stroke: var(--ink-2);
  }
  .accent {
    stroke: var(--ink);
    stroke-dasharray: none;
  }
  .chosen {
    stroke: var(--rubric);
  }
  .slide {
    stroke: var(--ink);
    stroke-width: 1.5;
  }
  .cursor {
    stroke: var(--rubric);
    stroke-width: 1;
    stroke-dasharray: 3 2;
  }
  text {
    font-family: var(--mono);
    font-size: 10.5px;
    fill: var(--ink-3);
    text-anchor: middle;
  }
  text.end {
    text-anchor: end;
  }
  .steps {
    display: flex;
    gap: 0.25rem;
    overflow-x: auto;
    padding: 0.25rem 0.5rem;
    border-top: 1px solid var(--rule);
  }
  .steps span {
    padding: 0.0625rem 0.375rem;
    border: 1px solid transparent;
    cursor: pointer;
    white-space: nowrap;
    color: var(--ink-2);
  }
  .steps span[aria-current="true"] {
    background: var(--chosen);
    border-color: var(--ink-3);
  }
  .steps b {
    font-weight: 400;
    margin-right: 0.25rem;
  }
  .steps b.now {
    color: var(--rubric);
    font-weight: 600;
  }
</style>
