<script lang="ts">
  import type { Line } from "../lib/types";
  import ClockPointer from "./ClockPointer.svelte";

  /** The line to set now, to be read from the instrument. */
  let {
    current,
    after,
    go,
    back,
    skip,
    ticked,
    all,
    next,
    untick,
    correct,
    save = "",
    spent = 0,
  }: {
    current: Line | undefined;
    /** What comes after it. */
    after: Line[];
    go: (l: Line) => void;
    back?: () => void;
    skip?: () => void;
    ticked: boolean;
    /** How many lines there are, where all are set; else 0. */
    all: number;
    next: () => void;
    untick: () => void;
    /** Sets it otherwise than planned; absent where that cannot be. */
    correct?: () => void;
    /** How long the hands were at it, in seconds. */
    spent?: number;
    /** That it is time to save once this is set. */
    save?: string;
  } = $props();
</script>

<div class="now noprint" role="group" aria-label="The line to set now">
  {#if all > 0}
    <div class="big">
      All {all} lines are set{spent > 60
        ? `, in ${(spent / 60).toFixed(0)} min`
        : ""}.
    </div>
    <p class="reason">
      Raise the monitors last. Compare with the original at equal level, then
      save.
    </p>
  {:else if current}
    <div class="it">
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
      {#if current.where}<p class="small where">{current.where}</p>{/if}
      <p class="reason why">{current.why}</p>
      {#if current.listen}<p class="small listen">
          Listen for {current.listen}.
        </p>{/if}
      {#if save}<p class="small then">Then: {save}</p>{/if}
      <p class="red caution">{current.caution ?? ""}</p>
      <div class="bar">
        <button class="do" onclick={next}
          >{ticked ? "Next" : "Done, next"}
          <kbd>Space</kbd></button
        >
        <button class="side" disabled={!back} onclick={back}>Back</button>
        <button class="side" disabled={!skip} onclick={skip}>Skip</button>
        {#if correct}<button class="side" onclick={correct}
            >Set otherwise <kbd>c</kbd></button
          >{/if}
        {#if ticked}<button class="side" onclick={untick}
            >Take the tick away</button
          >{/if}
      </div>
    </div>
    {#if after.length > 0}
      <div class="after">
        <h2>Then</h2>
        {#each after as l (l.key)}
          <button onclick={() => go(l)}>
            <span class="soft">{l.section}</span>
            <span>{l.label}</span>
            <b class="num"><ClockPointer reading={l.reading} /> {l.reading}</b>
          </button>
        {/each}
      </div>
    {/if}
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
  .now {
    display: grid;
    grid-template-columns: minmax(0, 1fr) minmax(14rem, 22rem);
    gap: 0 2rem;
  }
  .big {
    font-size: 1.75rem;
    line-height: 2.25rem;
    font-weight: 400;
  }
  .big b {
    font-weight: 600;
  }
  .big :global(svg) {
    width: 2.25rem;
    height: 2.25rem;
    vertical-align: -0.5rem;
    margin-right: 0.25rem;
    border: 1px solid var(--rule);
    border-radius: 50%;
  }
  .where,
  .listen,
  .then {
    margin: 0.125rem 0;
  }
  .why,
  .caution {
    margin: 0.125rem 0;
    min-height: 1.25rem;
  }
  .do,
  .side {
    font: inherit;
    min-height: 2.25rem;
    background: var(--ink);
    color: var(--paper);
    border: 1px solid var(--ink);
    padding: 0.375rem 1rem;
    cursor: pointer;
  }
  .side {
    background: none;
    color: var(--ink);
  }
  .side:disabled {
    color: var(--ink-3);
    border-color: var(--rule);
    cursor: default;
  }
  .do kbd {
    color: var(--ink);
    margin-left: 0.5rem;
  }
  .after {
    border-left: 1px solid var(--rule);
    padding-left: 1.25rem;
  }
  .after h2 {
    margin: 0 0 0.25rem;
    font-size: 0.8125rem;
    color: var(--ink-3);
  }
  .after button {
    display: grid;
    grid-template-columns: 1fr auto;
    gap: 0 1rem;
    width: 100%;
    padding: 0.375rem 0;
    font: inherit;
    text-align: left;
    color: inherit;
    background: none;
    border: 0;
    border-bottom: 1px solid var(--rule);
    cursor: pointer;
  }
  .after .soft {
    grid-column: 1 / -1;
    font-size: 0.8125rem;
  }
  @media (max-width: 700px) {
    .now {
      display: block;
      top: 4.25rem;
      padding: 0.625rem 0.75rem 0.75rem;
    }
    .big {
      font-size: 1.5rem;
      line-height: 2rem;
    }
    .big b.num {
      display: block;
      font-size: 2.75rem;
      line-height: 3.25rem;
    }
    .big :global(svg) {
      width: 3.5rem;
      height: 3.5rem;
    }
    .why,
    .caution {
      min-height: 0;
    }
    .bar {
      gap: 0.5rem;
    }
    .do,
    .side {
      min-height: 2.75rem;
      flex: 1 1 auto;
    }
    .do kbd,
    .after {
      display: none;
    }
  }
</style>
