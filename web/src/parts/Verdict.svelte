<script lang="ts">
  /** A verdict by mark and word. */
  let { verdict, word = true }: { verdict: string; word?: boolean } = $props();
  const marks: Record<string, string> = {
    held: "M2 5h10M2 9h10",
    near: "M2 6q2.5-4 5 0t5 0M2 11h10",
    bent: "M2 9h4l6-6",
    recast: "M2 3v5h9M8 5l3 3l-3 3",
    "left out": "M3 3l8 8M11 3l-8 8",
    idle: "M6 7h2",
  };
  const loud = $derived(
    verdict === "bent" || verdict === "left out" || verdict === "recast",
  );
</script>

<span
  class="verdict"
  class:loud
  class:heavy={verdict === "left out"}
  class:quiet={verdict === "idle"}
>
  <svg viewBox="0 0 14 14" width="14" height="14" aria-hidden="true"
    ><path d={marks[verdict] ?? ""} /></svg
  >
  {#if word}{verdict}{:else}<span class="visually-hidden">{verdict}</span>{/if}
</span>

<style>
  .verdict {
    display: inline-flex;
    align-items: baseline;
    gap: 0.3125rem;
    white-space: nowrap;
  }
  svg {
    align-self: center;
    flex: none;
  }
  path {
    fill: none;
    stroke: currentColor;
    stroke-width: 1.75;
  }
  .loud {
    color: var(--rubric);
  }
  .heavy {
    font-weight: 600;
  }
  .quiet {
    color: var(--ink-3);
  }
</style>
