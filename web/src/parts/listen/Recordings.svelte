<script lang="ts">
  import type { ListenState } from "../../lib/listen.svelte";
  import type { SheetView } from "../../lib/types";

  /** Recordings of the instruments in place of the renders. */
  let { s, sheet }: { s: ListenState; sheet: SheetView } = $props();
  const recordings = $derived(s.recordings);
</script>

<p class="small soft">
  A recording (WAVE, up to 60 s) of the real instrument takes the place of a
  side. It is shifted in time for the comparison, not changed.
</p>
{#each ["source", "target"] as const as side (side)}
  <div
    class="drop"
    role="group"
    aria-label={`Recording of the ${side}`}
    ondragover={(e) => e.preventDefault()}
    ondrop={(e) => {
      e.preventDefault();
      void s.record(side, e.dataTransfer?.files[0]);
    }}
  >
    <label for={`rec-${side}`}
      >Recording of the {side === "source"
        ? sheet.sheet.source.name
        : sheet.sheet.target.name}</label
    >
    <input
      id={`rec-${side}`}
      type="file"
      accept=".wav,audio/wav"
      onchange={(e) => void s.record(side, e.currentTarget.files?.[0])}
    />
    <span class="small soft">or drop it here</span>
    {#if recordings[side]}
      <p class="small">
        {recordings[side].label}: {recordings[side].seconds.toFixed(1)} s,
        {recordings[side].loudness.toFixed(1)} LUFS
        <button class="linkish" onclick={() => s.backToRender(side)}
          >back to the render</button
        >
      </p>
    {/if}
  </div>
{/each}

<style>
  .drop {
    margin: 0.5rem 0;
    padding: 0.5rem;
    border: 1px dashed var(--ink-3);
  }
  .drop label {
    display: block;
    font-size: 0.8125rem;
    margin-bottom: 0.25rem;
  }
</style>
