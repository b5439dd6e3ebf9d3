<script lang="ts">
  import type { PatchState } from "../../lib/patch.svelte";
  import type { MoveView, PatchView } from "../../lib/types";

  /** What is moved while the phrase is played: said in a line, or drawn by keys. */
  let { p, view }: { p: PatchState; view: PatchView } = $props();
  const moves = $derived(view.moves);
  const whole = $derived(
    Math.max(1, ...moves.map((m) => m.end), (p.lineEnd ?? 0) / 1),
  );
  let line = $state("");
  let wrong = $state("");
  let rows: HTMLElement[] = $state([]);

  async function add() {
    wrong = await p.moveLine(line);
    if (!wrong) line = "";
  }
  const x = (at: number) => (at / whole) * 100;
  const y = (v: number, both: boolean) =>
    both ? 10 - 8 * v : 18 - 16 * Math.min(1, Math.max(0, v));

  /** Keys on a move: where it begins, how long it is, and where it goes. */
  function key(e: KeyboardEvent, m: MoveView, i: number) {
    const by = e.key === "ArrowRight" || e.key === "ArrowUp" ? 1 : -1;
    const keys: Record<string, () => void> = {
      ArrowLeft: () => p.shiftMove(m, by, e.shiftKey ? "for" : "at"),
      ArrowRight: () => p.shiftMove(m, by, e.shiftKey ? "for" : "at"),
      ArrowUp: () => p.shiftMove(m, by, e.shiftKey ? "from" : "to"),
      ArrowDown: () => p.shiftMove(m, by, e.shiftKey ? "from" : "to"),
      Delete: () => p.dropMove(m),
      Backspace: () => p.dropMove(m),
      j: () => rows[i + 1]?.focus(),
      k: () => rows[i - 1]?.focus(),
    };
    const run = keys[e.key];
    if (!run) return;
    e.preventDefault();
    e.stopPropagation();
    run();
  }
</script>

<div class="moves" role="group" aria-label="What is moved while it is played">
  <form
    class="bar"
    onsubmit={(e) => {
      e.preventDefault();
      void add();
    }}
  >
    <label for="move-line">Moved while it is played</label>
    <input
      id="move-line"
      bind:value={line}
      placeholder="cutoff 40 to 90, bars 5 to 8"
      autocomplete="off"
      spellcheck="false"
      disabled={!view.phrase}
      aria-invalid={!!wrong}
      aria-describedby="move-says"
      onkeydown={(e) => {
        if (e.key !== "Escape") return;
        e.stopPropagation();
        e.currentTarget.blur();
      }}
    />
    <button class="linkish" type="submit" disabled={!line.trim()}>Add</button>
    <span id="move-says" class="small" role="status"
      >{#if wrong}<span class="red">{wrong}</span>{:else if !view.phrase}<span
          class="soft">enter notes first</span
        >{:else}<span class="soft"
          >wheel, bend, pressure, pedal, breath, hold or a control; a bar is
          four quarters</span
        >{/if}</span
    >
  </form>
  {#each moves as m, i (i)}
    {@const both = m.what === "bend"}
    <!-- svelte-ignore a11y_no_noninteractive_tabindex, a11y_no_noninteractive_element_interactions -->
    <div
      class="move"
      role="group"
      tabindex="0"
      bind:this={rows[i]}
      aria-label={`${m.label} from ${m.from} to ${m.to}, ${m.when}`}
      onkeydown={(e) => key(e, m, i)}
    >
      <span class="what">{m.label}</span>
      <span class="num">{m.from} <span class="soft">to</span> {m.to}</span>
      <span class="small">{m.when}</span>
      <svg viewBox="0 0 100 20" preserveAspectRatio="none" aria-hidden="true">
        {#each Array.from({ length: Math.ceil(whole) + 1 }, (_, n) => n) as n (n)}
          <line class="bar-line" x1={x(n)} x2={x(n)} y1="0" y2="20" />
        {/each}
        <polyline
          points={`${x(m.start)},${y(m.first, both)} ${x(m.end)},${y(m.last, both)}`}
        />
        <circle cx={x(m.end)} cy={y(m.last, both)} r="1" />
      </svg>
      <button
        class="linkish small"
        aria-label={`Take out: ${m.label}, ${m.when}`}
        onclick={() => p.dropMove(m)}>take out</button
      >
    </div>
  {/each}
  {#if moves.length > 0}
    <p class="small soft">
      On a move: <kbd>←</kbd> <kbd>→</kbd> when, with Shift how long,
      <kbd>↑</kbd>
      <kbd>↓</kbd> where it goes, with Shift where it begins, <kbd>Delete</kbd> takes
      it out
    </p>
  {/if}
</div>

<style>
  .moves {
    margin-top: 0.5rem;
    border-top: 1px solid var(--rule);
    padding-top: 0.5rem;
  }
  form {
    gap: 0.25rem 0.75rem;
    align-items: baseline;
  }
  label {
    font-size: 0.75rem;
    color: var(--ink-2);
  }
  input {
    font: inherit;
    font-size: 0.875rem;
    width: 20rem;
    max-width: 100%;
    padding: 0.125rem 0.375rem;
    color: var(--ink);
    background: var(--paper);
    border: 0;
    border-bottom: 1px solid var(--ink-3);
  }
  .move {
    display: grid;
    grid-template-columns: 12rem 10rem 12rem 1fr auto;
    gap: 0 1rem;
    align-items: center;
    padding: 0.1875rem 0.375rem;
    border-bottom: 1px solid var(--rule);
  }
  .what {
    overflow: hidden;
    text-overflow: ellipsis;
    white-space: nowrap;
  }
  svg {
    width: 100%;
    height: 1.25rem;
    background: var(--paper);
  }
  polyline {
    fill: none;
    stroke: var(--ink);
    stroke-width: 1.5;
    vector-effect: non-scaling-stroke;
  }
  circle {
    fill: var(--ink);
  }
  .bar-line {
    stroke: var(--rule);
    stroke-width: 1;
    vector-effect: non-scaling-stroke;
  }
  p {
    margin: 0.25rem 0 0;
  }
  @media (max-width: 760px) {
    .move {
      grid-template-columns: 1fr auto;
    }
    svg {
      grid-column: 1 / -1;
    }
  }
</style>
