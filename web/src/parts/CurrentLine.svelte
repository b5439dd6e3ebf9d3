<script lang="ts">
  import type { Line } from "../lib/types";
  import ClockPointer from "./ClockPointer.svelte";

  /** The line to set now, to be read from the instrument. */
  let {
    current,
    ticked,
    all,
    next,
    untick,
  }: {
    current: Line | undefined;
    ticked: boolean;
    /** How many lines there are, where all are set; else 0. */
    all: number;
    next: () => void;
    untick: () => void;
  } = $props();
</script>

<div class="now noprint" role="group" aria-label="The line to set now">
  {#if all > 0}
    <div class="big">All {all} lines are set.</div>
    <p class="reason">
      Raise the monitors last. Compare with the original at equal level, then
      save.
    </p>
  {:else if current}
    <div class="soft">
      {current.section}{current.hidden ? ", on a hidden page" : ""}
    </div>
    <div class="big">
      {#if current.verb === "patch"}Patch <b>{current.label}</b> into
        <b>{current.reading}</b>
      {:else}
        {current.verb === "switch off" ? "Switch off" : "Set"}
        <b>{current.label}</b>
        {current.verb === "switch off" ? "with" : "to"}
        <b class="num"
          ><ClockPointer reading={current.reading} />{current.reading}</b
        >
      {/if}
    </div>
    <p class="reason why">{current.why}</p>
    <p class="red caution">{current.caution ?? ""}</p>
    <div class="bar">
      <button class="do" onclick={next}
        >{ticked ? "Next" : "Done, next"}
        <kbd>Space</kbd></button
      >
      {#if ticked}<button class="linkish" onclick={untick}
          >take the tick away</button
        >{/if}
    </div>
  {/if}
</div>

<style>
  .now {
    position: sticky;
    top: 2.75rem;
    z-index: 10;
    background: var(--sheet);
    border: 1px solid var(--ink-3);
    border-left: 3px solid var(--rubric);
    padding: 0.75rem 1.25rem 1rem;
    margin: 0.75rem 0 1rem;
    min-height: 10.5rem;
  }
  .big {
    font-size: 1.75rem;
    line-height: 2.25rem;
    font-weight: 400;
  }
  .big b {
    font-weight: 600;
  }
  .why,
  .caution {
    margin: 0.125rem 0;
    min-height: 1.25rem;
  }
  .do {
    font: inherit;
    background: var(--ink);
    color: var(--paper);
    border: 0;
    padding: 0.5rem 1rem;
    cursor: pointer;
  }
  .do kbd {
    color: var(--ink);
    margin-left: 0.5rem;
  }
  @media (max-width: 700px) {
    .big {
      font-size: 1.375rem;
      line-height: 1.75rem;
    }
  }
</style>
