<script lang="ts">
  import { words } from "../lib/words";
  import Verdict from "./Verdict.svelte";
  /** How many lines have which verdict; idle lines do not count. */
  let { summary }: { summary: Record<string, number> } = $props();
</script>

<span class="summary">
  {#each words.verdicts as v (v)}
    {#if v !== "idle" && (summary[v] ?? 0) > 0}
      <span class="one"
        ><span class="num">{summary[v]}</span> <Verdict verdict={v} /></span
      >
    {/if}
  {/each}
</span>

<style>
  .summary {
    display: inline-flex;
    flex-wrap: wrap;
    gap: 0 0.875rem;
    font-size: 0.8125rem;
  }
  .one {
    white-space: nowrap;
  }
</style>
