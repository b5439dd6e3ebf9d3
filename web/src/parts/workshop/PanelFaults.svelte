<script lang="ts">
  import type { Fault, Workshop } from "../../lib/types";
  import type { WorkshopState } from "../../lib/workshop.svelte";

  /** What is wrong with the draft; it stops only the saving. */
  let { s, w }: { s: WorkshopState; w: Workshop } = $props();
  const assumed = $derived(
    w.lines.filter((l) => l.source === "assumed").length,
  );
</script>

{#snippet line(f: Fault)}
  <li class="small">
    <button class="linkish said" onclick={() => s.goFault(f)}
      >{f.words || f.message}</button
    >
  </li>
{/snippet}

<!-- svelte-ignore a11y_no_noninteractive_tabindex -->
<div
  class="faults"
  class:none={w.faults.length === 0}
  role="region"
  aria-label="Faults"
  tabindex={w.faults.length + (w.notices?.length ?? 0) > 4 ? 0 : undefined}
>
  {#if w.faults.length === 0}
    <span class="small">No faults.</span>
    <span class="small soft"
      >{w.panel.controls.length} controls, {w.panel.modules.length} modules</span
    >
    {#if assumed}<span class="small soft"
        >{assumed} of their laws are only assumed</span
      >{/if}
  {:else}
    <strong class="small red"
      >{w.faults.length === 1
        ? "1 fault; it stops"
        : `${w.faults.length} faults; they stop`} only the saving</strong
    >
    <ul>
      {#each w.faults.slice(0, 30) as f, i (i)}{@render line(f)}{/each}
      {#if w.faults.length > 30}<li class="small soft">
          and {w.faults.length - 30} more
        </li>{/if}
    </ul>
  {/if}
  {#if w.notices?.length}
    <ul>
      <li class="small soft">Forgotten? It stops nothing:</li>
      {#each w.notices.slice(0, 30) as f, i (i)}{@render line(f)}{/each}
    </ul>
  {/if}
</div>

<style>
  .faults {
    border: 1px solid var(--rule);
    border-left: 3px solid var(--rubric);
    background: var(--sheet);
    padding: 0.25rem 0.75rem;
    max-height: 8rem;
    overflow: auto;
  }
  .faults.none {
    border-left-color: var(--ink-3);
    display: flex;
    flex-wrap: wrap;
    gap: 0 1rem;
  }
  .said {
    text-align: left;
    text-decoration-color: var(--rule);
  }
  .faults ul {
    margin: 0;
    padding: 0;
    list-style: none;
  }
</style>
