<script lang="ts">
  import { Button } from "carbon-components-svelte";
  import { onDestroy, untrack } from "svelte";
  import { app } from "../../lib/app.svelte";
  import type { PatchState } from "../../lib/patch.svelte";
  import { Player } from "../../lib/player.svelte";

  /** Plays a patch as it stands; what is changed while it plays is heard from then on. */
  let { p }: { p: PatchState } = $props();

  const player = new Player();
  onDestroy(() => player.close());
  let loudness = $state("");
  let rendering = $state(false);

  async function fetchSound() {
    rendering = true;
    try {
      const { source } = await p.listen();
      loudness =
        source.loudness > -89 ? `${source.loudness.toFixed(1)} LUFS` : "silent";
      await player.load({ source: source.key }, { source: 1, target: 1 }, true);
    } finally {
      rendering = false;
    }
  }
  export const toggle = () =>
    app.attempt(async () => {
      if (player.playing) {
        player.stop();
        return;
      }
      await fetchSound();
      player.start();
    });
  $effect(() => {
    void p.view;
    untrack(() => {
      if (player.playing) void app.attempt(fetchSound);
    });
  });
</script>

<Button
  size="small"
  kind="tertiary"
  disabled={rendering && !player.playing}
  onclick={() => void toggle()}
  >{player.playing ? "Stop" : rendering ? "Rendering" : "Play"}&ensp;<kbd
    >Space</kbd
  ></Button
>
<span class="small soft" role="status">{player.playing ? loudness : ""}</span>
