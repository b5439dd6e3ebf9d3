<script lang="ts">
  import type { Fault } from "../lib/types";
  /** The faults of a document, each with its place. */
  let { faults }: { faults: Fault[] } = $props();
  const shown = $derived(faults.slice(0, 40));
</script>

<!-- svelte-ignore a11y_no_noninteractive_tabindex -->
<div class="faults" role="region" aria-label="Faults" tabindex="0">
  {#each shown as f, i (i)}
    <div>
      {#if f.words}
        {#if f.file}<span class="num">{f.file}</span>{/if}
        <span>{f.words}</span>
      {:else}
        <span class="num"
          >{[f.file, f.path].filter(Boolean).join(" ") || "the file"}</span
        >
        <span>{f.message}</span>
      {/if}
    </div>
  {/each}
  {#if faults.length > shown.length}<div class="soft">
      and {faults.length - shown.length} more
    </div>{/if}
</div>

<style>
  .faults {
    max-height: 14rem;
    overflow: auto;
    background: var(--sheet);
    border: 1px solid var(--rule);
    border-left: 3px solid var(--rubric);
    padding: 0.25rem 0.75rem;
  }
  .faults div {
    padding: 0.25rem 0;
    border-bottom: 1px solid var(--rule);
    display: grid;
    gap: 0 0.75rem;
    line-height: 1.25rem;
  }
  .num {
    color: var(--rubric);
    font-size: 0.75rem;
    overflow-wrap: anywhere;
  }
</style>
