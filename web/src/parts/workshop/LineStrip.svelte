<script lang="ts">
  import type { TableState } from "../../lib/table.svelte";
  import ScaleStrip from "../ScaleStrip.svelte";

  /** The line that has the focus, drawn as it would be. */
  let {
    t,
    dropped,
    bringBack,
  }: {
    t: TableState;
    dropped: { text: string } | null;
    bringBack: () => void;
  } = $props();
  const d = $derived(t.at ? t.drawn : null);
  const mean = $derived(d?.means[0]);
</script>

<aside class="strip" aria-label="The line as it would be">
  {#if dropped}
    <span class="small"
      >Dropped “{dropped.text}”: ↑ brings it back.
      <button class="linkish" onclick={bringBack}>Bring it back</button></span
    >
  {/if}
  {#if !d}
    <span class="small soft"
      >Write what is printed beside each knob: <span class="num">0 to 10</span>,
      <span class="num">clock</span>,
      <span class="num">20 Hz to 20 kHz</span>,
      <span class="num">saw / pulse</span>. <kbd>Enter</kbd> goes on,
      <kbd>Tab</kbd> to the next cell, <kbd>Alt</kbd> <kbd>↓</kbd> shows what can
      be picked.</span
    >
  {:else if d.faults.length}
    <span class="small red">{d.faults.map((f) => f.message).join("; ")}</span>
  {:else}
    <div class="bar small">
      <span>{d.line.sets || "Only written down"}</span>
      <span class="soft">{d.expects}; init {d.init || "nothing"}</span>
      {#if mean?.law}<span class="soft end">{mean.law}</span>{/if}
    </div>
    {#if mean && mean.ticks.length}<ScaleStrip {mean} />{/if}
    {#each d.doubts ?? [] as x (x)}<div class="small red">{x}</div>{/each}
  {/if}
</aside>

<style>
  .strip {
    position: sticky;
    bottom: 0;
    z-index: 10;
    min-height: 4.25rem;
    box-sizing: border-box;
    padding: 0.375rem 0.75rem;
    background: var(--sheet);
    border: 1px solid var(--rule);
    border-top: 2px solid var(--ink-3);
  }
</style>
