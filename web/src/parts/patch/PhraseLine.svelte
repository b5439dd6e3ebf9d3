<script lang="ts">
  import type { PatchState } from "../../lib/patch.svelte";
  import type { PatchView } from "../../lib/types";

  /** The phrase of a patch in one line. */
  let { p, view }: { p: PatchState; view: PatchView } = $props();
</script>

<h2 class="sub">
  Phrase{#if view.phrase}: {view.phrase.name || "unnamed"}{/if}
</h2>
<p class="num phrase">
  {#each (view.phrase?.notes ?? []).slice(0, 24) as n, i (i)}<span
      >{n.at}
      {n.note} for {n.for} at {n.velocity}{n.accent ? " accented" : ""}{n.slide
        ? " slid"
        : ""}</span
    >{/each}
  {#if (view.phrase?.notes.length ?? 0) > 24}<span
      >and {(view.phrase?.notes.length ?? 0) - 24} more</span
    >{/if}
  {#each view.moves as m, i (i)}<span
      >{m.label} {m.from} to {m.to}, {m.when}</span
    >{/each}
  <button class="linkish" onclick={() => p.show("phrase")}
    >{view.phrase
      ? "Change the line"
      : "Enter a line to try the sound with"}</button
  >
</p>

<style>
  .sub {
    margin: 1.25rem 0 0.25rem;
  }
  .phrase {
    display: flex;
    flex-wrap: wrap;
    gap: 0.25rem 1.5rem;
    font-size: 0.8125rem;
  }
</style>
