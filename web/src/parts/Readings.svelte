<script lang="ts">
  import type { Reading } from "../lib/types";
  import ClockPointer from "./ClockPointer.svelte";
  /** Readings as the instrument shows them. */
  let {
    readings,
    planned,
  }: {
    readings: Reading[];
    /** What was planned where another reading is set by hand. */
    planned?: Map<string, string>;
  } = $props();
</script>

{#each readings as r (r.control)}
  <span class="reading num" class:init={r.init} class:hand={r.overridden}>
    {#if readings.length > 1}<span class="of">{r.label}</span>{/if}<ClockPointer
      reading={r.reading}
    />{#if r.overridden && planned?.has(r.control)}<s class="soft"
        >{planned.get(r.control)}</s
      >
    {/if}{r.reading}
  </span>
{:else}<span class="soft" aria-label="none">&ndash;</span>{/each}

<style>
  .reading {
    display: block;
    white-space: nowrap;
  }
  .of {
    font-family: var(--sans);
    font-size: 0.75rem;
    color: var(--ink-3);
    margin-right: 0.375rem;
  }
  s {
    margin-right: 0.5ch;
  }
  .init {
    color: var(--ink-3);
  }
  .hand {
    text-decoration: underline;
    text-decoration-color: var(--rubric);
    text-decoration-thickness: 2px;
    text-underline-offset: 3px;
  }
</style>
