<script lang="ts">
  import { untrack } from "svelte";
  import type { Differences } from "../../lib/types";
  import type { WorkshopState } from "../../lib/workshop.svelte";
  import DifferenceTable from "./DifferenceTable.svelte";

  /** The revisions of a panel: what differs between two, and the way back to one. */
  let { s, base }: { s: WorkshopState; base: number } = $props();
  const list = $derived(s.revisions);
  let from = $state(0);
  let to = $state(0);
  let found = $state.raw<Differences | null>(null);

  // svelte-ignore state_referenced_locally
  s.readRevisions((v) => {
    to = v.revisions[0]?.revision ?? 0;
    from = v.revisions[1]?.revision ?? to;
  });
  $effect(() => {
    if (!from || !to) return;
    const [a, b] = [from, to];
    untrack(async () => {
      const d = await s.difference(a, b);
      if (d && a === from && b === to) found = d;
    });
  });
  const when = (at: string) =>
    new Date(at).toLocaleString("en-GB", {
      dateStyle: "medium",
      timeStyle: "short",
    });
</script>

<section aria-label="Revisions">
  {#if base === 0 || !list}
    <p class="soft">No revision yet.</p>
  {:else}
    <div class="two">
      <table class="lines">
        <thead
          ><tr
            ><th>Revision</th><th>Name</th><th>Saved</th><th
              ><span class="visually-hidden">Act</span></th
            ></tr
          ></thead
        >
        <tbody>
          {#each list.revisions as r (r.revision)}
            <tr>
              <td class="num">{r.revision}</td>
              <td>{r.name}</td>
              <td class="small">{when(r.at)}</td>
              <td
                ><button class="linkish" onclick={() => s.restore(r.revision)}
                  >Make it the draft</button
                ></td
              >
            </tr>
          {/each}
        </tbody>
      </table>
      <div>
        <div class="bar">
          <label
            >From <select bind:value={from}
              >{#each list.revisions as r (r.revision)}<option
                  value={r.revision}>{r.revision}</option
                >{/each}</select
            ></label
          >
          <label
            >to <select bind:value={to}
              >{#each list.revisions as r (r.revision)}<option
                  value={r.revision}>{r.revision}</option
                >{/each}</select
            ></label
          >
        </div>
        {#if found}
          {#if found.differences.length === 0}
            <p class="soft small">Nothing differs.</p>
          {:else}
            <DifferenceTable differences={found.differences} />
          {/if}
        {/if}
      </div>
    </div>
  {/if}
</section>

<style>
  section {
    max-height: 18rem;
    overflow: auto;
    border: 1px solid var(--rule);
    background: var(--sheet);
    margin-top: 0.5rem;
    padding: 0.25rem 0.75rem;
  }
  .two {
    display: grid;
    grid-template-columns: minmax(20rem, 1fr) 2fr;
    gap: 1.5rem;
    align-items: start;
  }
  select {
    font: inherit;
    color: var(--ink);
    background: var(--sheet);
    border: 0;
    border-bottom: 1px solid var(--ink-3);
  }
</style>
