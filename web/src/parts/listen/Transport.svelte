<script lang="ts">
  import {
    Button,
    Checkbox,
    InlineLoading,
    Select,
    SelectItem,
  } from "carbon-components-svelte";
  import type { ListenState } from "../../lib/listen.svelte";
  import type { Listening } from "../../lib/types";

  /** What is played, and how loud. */
  let { s, loaded }: { s: ListenState; loaded: Listening } = $props();
  const player = $derived(s.player);
  const gains = $derived(s.gains);
  const dB = (g: number) => 20 * Math.log10(g);
</script>

<div class="transport" class:hidden={s.blind}>
  <Button size="small" onclick={s.play}
    >{player.playing ? "Stop" : "Play"}&ensp;<kbd>Space</kbd></Button
  >
  <div class="switch" role="group" aria-label="What is heard">
    {#each ["source", "target"] as const as side (side)}
      <button
        aria-pressed={player.side === side}
        class:on={player.side === side}
        onclick={() => player.turn(side)}
        >{side === "source" ? "Source" : "Target"}</button
      >
    {/each}
    <kbd>s</kbd>
  </div>
  <Checkbox labelText="Loop" bind:checked={s.loop} />
  <Select size="sm" inline labelText="Line" bind:selected={s.phrase}>
    <SelectItem
      value=""
      text={loaded.line && !s.phrase ? loaded.line : "Phrase of the patch"}
    />
    {#each loaded.lines as l (l.id)}<SelectItem
        value={l.id}
        text={l.name}
      />{/each}
  </Select>
  <Select
    size="sm"
    inline
    labelText="Octave"
    bind:selected={() => String(s.octaves), (v) => (s.octaves = Number(v))}
  >
    {#each [-2, -1, 0, 1, 2] as o (o)}<SelectItem
        value={String(o)}
        text={o > 0 ? `+${o}` : String(o)}
      />{/each}
  </Select>
  <label class="volume"
    >Volume
    <input
      type="range"
      min="0"
      max="1"
      step="0.05"
      value={player.volume}
      oninput={(e) => s.setVolume(Number(e.currentTarget.value))}
    /></label
  >
  <div
    class="meter"
    role="meter"
    aria-label="Level that is heard"
    aria-valuemin="-60"
    aria-valuemax="0"
    aria-valuenow={Math.round(Math.max(-60, player.level))}
  >
    <i
      style:width={`${Math.max(0, Math.min(100, ((player.level + 60) / 60) * 100))}%`}
    ></i>
  </div>
  <span class="state" role="status"
    >{#if s.rendering || player.loading}<InlineLoading
        description={s.rendering && s.waiting > 0
          ? `${s.waiting} in the queue before it is rendered`
          : s.rendering && s.share > 0.01
            ? `Rendering, ${Math.round(100 * s.share)} %`
            : "Rendering"}
      />{/if}</span
  >
</div>
<p class="small soft caution">
  Start quiet and raise slowly: parts that are switched on, resonance and drive
  can jump in level. Source and target are played equally loud ({gains.source <
  1
    ? `source ${(-dB(gains.source)).toFixed(1)} dB down`
    : gains.target < 1
      ? `target ${(-dB(gains.target)).toFixed(1)} dB down`
      : "neither is turned down"}). These are simulations from the panels’ laws,
  not recordings.
</p>
{#if loaded.unkept}<p class="small" role="status">{loaded.unkept}</p>{/if}
{#if loaded.level && !s.recordings.source && !s.recordings.target && !s.blind}
  {@const l = loaded.level}
  <p class="small aloud">
    The translation is {Math.abs(l.by + l.missing).toFixed(1)} dB {l.by > 0
      ? "quieter"
      : "louder"} than the source. {l.label} at
    <span class="num">{l.to}</span>
    instead of <span class="num">{l.from}</span>
    {#if l.behind}
      brings it nearer: {l.behind} stands behind it, so less comes of it than the
      {Math.abs(l.by).toFixed(1)} dB of the scale.
    {:else if Math.abs(l.missing) < 0.5}
      makes it about as loud.
    {:else}
      brings {Math.abs(l.by).toFixed(1)} dB of it.
    {/if}
    <button class="linkish" disabled={s.rendering} onclick={s.level}
      >Set {l.label} to {l.to}</button
    >
  </p>
{/if}

<style>
  .hidden {
    display: none !important;
  }
  .transport {
    display: flex;
    flex-wrap: wrap;
    align-items: center;
    gap: 0.5rem 1rem;
    padding: 0.375rem 0;
    border-top: 1px solid var(--rule);
    border-bottom: 1px solid var(--rule);
  }
  .transport :global(.bx--form-item) {
    flex: 0 0 auto;
  }
  .transport :global(.bx--select--inline .bx--select-input) {
    width: auto;
    min-width: 0;
    max-width: 16rem;
  }
  .switch {
    display: flex;
    align-items: center;
  }
  .switch button {
    font: inherit;
    color: inherit;
    background: var(--sheet);
    border: 1px solid var(--ink-3);
    padding: 0.3125rem 0.875rem;
    cursor: pointer;
  }
  .switch button + button {
    border-left: 0;
  }
  .switch button.on {
    background: var(--ink);
    color: var(--paper);
    font-weight: 600;
  }
  .switch kbd {
    margin-left: 0.5rem;
  }
  .volume {
    display: flex;
    align-items: center;
    gap: 0.5rem;
    font-size: 0.75rem;
    color: var(--ink-2);
  }
  .volume input {
    width: 6rem;
    accent-color: var(--ink);
  }
  .meter {
    width: 8rem;
    height: 0.5rem;
    background: var(--shade);
    border: 1px solid var(--rule);
  }
  .meter i {
    display: block;
    height: 100%;
    background: var(--ink-2);
  }
  .state {
    min-width: 6rem;
  }
  .caution {
    margin: 0.375rem 0 0.5rem;
  }
</style>
