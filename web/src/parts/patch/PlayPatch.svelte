<script lang="ts">
  import { Button } from "carbon-components-svelte";
  import { onDestroy, untrack } from "svelte";
  import { app } from "../../lib/app.svelte";
  import { Live } from "../../lib/live.svelte";
  import type { PatchState } from "../../lib/patch.svelte";

  /** Plays a patch as it stands; what is changed while it plays is heard from then on. */
  let { p }: { p: PatchState } = $props();

  const live = new Live((from, seconds, signal) =>
    p.live(from, seconds, signal),
  );
  onDestroy(() => live.close());
  let loudness = $state("");

  const measure = () =>
    app.attempt(async () => {
      const { source } = await p.listen();
      loudness =
        source.loudness > -89 ? `${source.loudness.toFixed(1)} LUFS` : "silent";
    });
  export const toggle = async () => {
    await live.toggle();
    if (live.player.playing) await measure();
  };
  $effect(() => {
    void p.view;
    void p.flavour;
    void p.only;
    untrack(() => {
      if (live.player.playing) void live.changed().then(measure);
    });
  });
</script>

<Button
  size="small"
  kind="tertiary"
  disabled={live.rendering && !live.player.playing}
  onclick={() => void toggle()}
  >{live.player.playing
    ? "Stop"
    : live.rendering
      ? "Rendering"
      : "Play"}&ensp;<kbd>Space</kbd></Button
>
<span class="small soft" role="status"
  >{live.player.playing
    ? [loudness, p.flavour, p.only && `${p.only} alone`]
        .filter(Boolean)
        .join(", ")
    : ""}</span
>
