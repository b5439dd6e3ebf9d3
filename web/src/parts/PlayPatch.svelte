<script lang="ts">
  import { Button } from "carbon-components-svelte";
  import { onDestroy, untrack } from "svelte";
  import { app } from "../lib/app.svelte";
  import { ask, part } from "../lib/api";
  import { Player } from "../lib/player.svelte";
  import type { Listening } from "../lib/types";

  /** Plays a patch as it stands; what is changed while it plays is heard from then on. */
  let { id, version }: { id: string; version: unknown } = $props();

  const player = new Player();
  onDestroy(() => player.close());
  let loudness = $state("");
  let rendering = $state(false);

  async function fetchSound() {
    rendering = true;
    try {
      const v = await ask<Listening>("POST", `/patches/${part(id)}/listen`, {
        phrase: "",
        octaves: 0,
        off: [],
        plain: false,
      });
      loudness =
        v.source.loudness > -89
          ? `${v.source.loudness.toFixed(1)} LUFS`
          : "silent";
      await player.load(
        { source: v.source.key },
        { source: 1, target: 1 },
        true,
      );
    } finally {
      rendering = false;
    }
  }
  export async function toggle() {
    if (player.playing) {
      player.stop();
      return;
    }
    try {
      await fetchSound();
      player.start();
    } catch (e) {
      app.fail(e);
    }
  }
  $effect(() => {
    void version;
    untrack(() => {
      if (player.playing) fetchSound().catch((e: unknown) => app.fail(e));
    });
  });
</script>

<Button
  size="small"
  kind="tertiary"
  disabled={rendering && !player.playing}
  on:click={() => void toggle()}
  >{player.playing ? "Stop" : rendering ? "Rendering" : "Play"}&ensp;<kbd
    >Space</kbd
  ></Button
>
<span class="small soft" role="status">{player.playing ? loudness : ""}</span>
