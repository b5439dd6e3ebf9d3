<script lang="ts">
  import { Modal } from "carbon-components-svelte";
  import { app } from "../lib/app.svelte";
  import { everywhere, withControl } from "../lib/everywhere";
  import { goHome } from "../lib/keys.svelte";

  /** The keys of the view and of the whole page, from the tables that do what they say. */
  const all = $derived(
    [...app.keys, ...everywhere, ...withControl].filter((k) => k.does),
  );
  // what had the focus before the list was shown has it again afterwards
  let before: HTMLElement | null = null;
  $effect(() => {
    if (app.help) {
      before = document.activeElement as HTMLElement | null;
      return;
    }
    const to = before;
    before = null;
    if (to?.isConnected && to !== document.body) to.focus();
    else goHome();
  });
</script>

<Modal
  bind:open={app.help}
  passiveModal
  modalHeading="Keys"
  size="sm"
  hasScrollingContent
>
  {#if app.help}
    <dl class="keys">
      {#each all as k, i (i)}
        <div>
          <dt><kbd>{k.keys}</kbd></dt>
          <dd>{k.does}</dd>
        </div>
      {/each}
    </dl>
  {/if}
</Modal>

<style>
  .keys div {
    display: flex;
    gap: 1rem;
    padding: 0.25rem 0;
    border-bottom: 1px solid var(--rule);
  }
  dt {
    flex: 0 0 9rem;
  }
  dd {
    margin: 0;
  }
</style>
