<script lang="ts">
  import type { Workshop } from "../../lib/types";
  import type { WorkshopState } from "../../lib/workshop.svelte";

  /** What is wrong with the draft; it stops only the saving. */
  let { s, w }: { s: WorkshopState; w: Workshop } = $props();
</script>

<div class="faults" class:none={w.faults.length === 0}>
  {#if w.faults.length === 0}
    <span class="small">No faults.</span>
    <span class="small soft"
      >{w.panel.controls.length} controls, {w.panel.modules.length} modules</span
    >
  {:else}
    <strong class="small red"
      >{w.faults.length === 1
        ? "1 fault; it stops"
        : `${w.faults.length} faults; they stop`} only the saving</strong
    >
    <ul>
      {#each w.faults.slice(0, 30) as f, i (i)}
        <li class="small">
          <button class="linkish" onclick={() => s.goFault(f)}
            >{s.partName(f.path)}</button
          >
          <span class="num soft">{f.path}</span>
          {f.message}
        </li>
      {/each}
      {#if w.faults.length > 30}<li class="small soft">
          and {w.faults.length - 30} more
        </li>{/if}
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
    gap: 1rem;
  }
  .faults ul {
    margin: 0;
    padding: 0;
    list-style: none;
  }
</style>
