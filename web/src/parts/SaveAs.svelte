<script lang="ts">
  import { exportURL } from "../lib/api";

  /** The forms in which a document can be saved. */
  let {
    path,
    query = "",
    label = "Save as",
  }: { path: string; query?: string; label?: string } = $props();
  const forms = ["pdf", "xlsx", "csv", "md"];
  const names: Record<string, string> = { md: "text" };
</script>

<span class="save small"
  >{label}
  {#each forms as f (f)}<a download href={exportURL(`${path}.${f}${query}`)}
      >{names[f] ?? f.toUpperCase()}</a
    >{/each}</span
>

<style>
  .save {
    display: inline-flex;
    gap: 0.5rem;
    align-items: center;
    white-space: nowrap;
  }
  a {
    padding: 0.25rem 0;
  }
</style>
