<script lang="ts">
  import { exportURL } from "../lib/api";
  import type { EntryRow } from "../lib/types";

  /** Lines of the log, one under another. */
  let { entries, where = false }: { entries: EntryRow[]; where?: boolean } =
    $props();
  const day = (at: string) =>
    new Date(at).toLocaleDateString(undefined, {
      day: "numeric",
      month: "short",
    });
</script>

<ul class="small" class:wide={where}>
  {#each entries as e (`${e.kind} ${e.id}`)}<li
      class:tried={e.kind === "correction" && !e.kept}
    >
      <span class="soft num">{day(e.at)}</span>
      {#if where}{#if e.sheet}<a href={`/sheets/${e.sheet}`}
            >{e.name} on {e.on}</a
          >{:else}<a href={`/patches/${e.patch}`}>{e.name}</a>{/if}{/if}
      {#if e.kind === "correction"}{e.label}
        <span class="num"
          ><s class="soft">{e.planned}</s>
          {e.reading}</span
        >{#if !e.kept}<span class="soft">, tried and not kept</span>{/if}
      {:else if e.kind === "sign-off"}signed off by {e.who}
      {:else if e.kind !== "note"}{e.kind}{#if e.kind === "recording" && e.reading}
          <a href={exportURL(`/takes/${e.reading}`)}>hear it</a
          >{/if}{/if}{#if e.tags.length > 0}:
        {e.tags.join(", ")}{/if}{#if e.why}{e.kind === "note" ? "" : "; "}<span
          class="reason">{e.why}</span
        >{/if}
    </li>{/each}
</ul>

<style>
  ul {
    list-style: none;
    margin: 0.25rem 0;
    padding: 0;
  }
  li {
    padding: 0.125rem 0;
  }
  ul.wide {
    font-size: 0.9375rem;
  }
  ul.wide li {
    padding: 0.375rem 0;
    border-bottom: 1px solid var(--rule);
  }
  .tried {
    color: var(--ink-3);
  }
</style>
