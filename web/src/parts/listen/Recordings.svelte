<script lang="ts">
  import { exportURL, part } from "../../lib/api";
  import InTheMix from "./InTheMix.svelte";
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
        <button class="linkish" onclick={() => void s.keepRecording(side)}
          >keep it in the log</button
        >
        <button class="linkish" onclick={() => s.backToRender(side)}
          >back to the render</button
        >
      </p>
    {/if}
  </div>
{/each}

<InTheMix {s} />
<h2 class="small">Save</h2>
<ul class="small save">
  {#each ["source", "target"] as const as side (side)}
    {@const take = s[side]}
    {#if take}
      <li>
        {side === "source" ? sheet.sheet.source.name : sheet.sheet.target.name}:
        <a download={`${side}.wav`} href={exportURL(`/sounds/${take.key}.wav`)}
          >WAVE</a
        >
        <a
          download={`${side}.flac`}
          href={exportURL(`/sounds/${take.key}.flac`)}>FLAC</a
        >
        <a
          download
          href={exportURL(
            side === "source"
              ? `/patches/${part(sheet.sheet.patch)}/samples`
              : `/sheets/${sheet.id}/samples`,
          )}>samples over the keyboard (SFZ)</a
        >
      </li>
    {/if}
  {/each}
</ul>

<style>
  .save a {
    margin-left: 0.375rem;
  }
  h2 {
    font-weight: 600;
    margin-top: 0.75rem;
  }
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
