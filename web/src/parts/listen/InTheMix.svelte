<script lang="ts">
  import { app } from "../../lib/app.svelte";
  import type { ListenState } from "../../lib/listen.svelte";

  /** A recording that plays along, so that both sides are heard where they will be. */
  let { s }: { s: ListenState } = $props();
  const b = $derived(s.player.backing);
  const take = (f: File | undefined) =>
    f &&
    app.attempt(async () => {
      try {
        await s.player.setBacking(f);
      } catch {
        app.message = {
          kind: "error",
          title: "It cannot be played",
          text: `${f.name} is no sound that this browser knows: a WAVE, FLAC or MP3 file will do.`,
        };
      }
    });
</script>

<div
  class="drop"
  role="group"
  aria-label="In the mix"
  ondragover={(e) => e.preventDefault()}
  ondrop={(e) => {
    e.preventDefault();
    e.stopPropagation();
    void take(e.dataTransfer?.files[0]);
  }}
>
  <label for="backing">In the mix: a recording that plays along</label>
  <input
    id="backing"
    type="file"
    accept="audio/*"
    onchange={(e) => {
      void take(e.currentTarget.files?.[0]);
      e.currentTarget.value = "";
    }}
  />
  <span class="small soft">or drop it here; it stays in this page</span>
  {#if b}
    <p class="small">
      {b.name}, <span class="num">{b.seconds.toFixed(1)}</span> s
      <button class="linkish" onclick={() => void s.player.setBacking(null)}
        >take it away</button
      >
    </p>
    <div class="bar small">
      <label
        ><input
          type="checkbox"
          checked={b.on}
          onchange={(e) =>
            s.player.changeBacking({ on: e.currentTarget.checked })}
        />
        plays along <kbd>k</kbd></label
      >
      <label
        >The phrase begins at <input
          class="num"
          type="number"
          step="0.01"
          value={b.offset}
          onchange={(e) =>
            s.player.changeBacking({
              offset: Math.max(
                -60,
                Math.min(b.seconds, Number(e.currentTarget.value) || 0),
              ),
            })}
        /> s of it</label
      >
      <label
        >Level <input
          type="range"
          min="-40"
          max="0"
          step="1"
          value={b.level}
          oninput={(e) =>
            s.player.changeBacking({ level: Number(e.currentTarget.value) })}
        />
        <span class="num">{b.level} dB</span></label
      >
    </div>
    <p class="small soft">
      The octave of the line is set above. Both together pass a limiter.
    </p>
  {/if}
</div>

<style>
  .drop {
    margin: 0.5rem 0;
    padding: 0.5rem;
    border: 1px dashed var(--ink-3);
  }
  .drop > label {
    display: block;
    font-size: 0.8125rem;
    margin-bottom: 0.25rem;
  }
  input.num {
    width: 5rem;
    font: inherit;
    color: var(--ink);
    background: var(--paper);
    border: 0;
    border-bottom: 1px solid var(--ink-3);
  }
  p {
    margin: 0.375rem 0;
  }
</style>
