<script lang="ts">
  import type { Difference } from "../../lib/types";
  /** What was, and what is. */
  let { differences }: { differences: Difference[] } = $props();
</script>

<table class="lines">
  <thead><tr><th>What</th><th>Was</th><th>Is</th></tr></thead>
  <tbody>
    {#each differences as d, i (i)}
      <tr
        ><td>{d.where}</td><td class="num small">{d.was || "–"}</td><td
          class="num small">{d.is || "–"}</td
        ></tr
      >
    {/each}
  </tbody>
</table>
