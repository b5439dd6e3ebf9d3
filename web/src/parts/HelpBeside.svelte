<script lang="ts">
  import { app } from "../lib/app.svelte";
  import { guide } from "../lib/guide.svelte";
  import { help } from "../lib/help";
  import { route } from "../lib/route.svelte";

  /** What the view is for, beside it. */
  const now = $derived(help[route.place.view]);
  const keys = $derived(app.keys.filter((k) => k.does).slice(0, 8));
</script>

{#if app.beside}
  <aside class="help noprint" aria-label="Help">
    <div class="bar">
      <h2>Help</h2>
      <button class="linkish end" onclick={() => (app.beside = false)}
        >Close <kbd>F1</kbd></button
      >
    </div>
    {#each now.says as p (p)}<p>{p}</p>{/each}
    {#if now.words}
      <dl>
        {#each now.words as [word, means] (word)}<dt>{word}</dt>
          <dd>{means}</dd>{/each}
      </dl>
    {/if}
    {#if keys.length > 0}
      <h3>Keys here</h3>
      <dl class="keys">
        {#each keys as k, i (i)}<dt><kbd>{k.keys}</kbd></dt>
          <dd>{k.does}</dd>{/each}
      </dl>
      <p>
        <button class="linkish" onclick={() => (app.help = true)}
          >All keys <kbd>?</kbd></button
        >
      </p>
    {/if}
    <p>
      <button
        class="linkish"
        onclick={() => {
          app.beside = false;
          guide.begin();
        }}>The first half hour, as a guide</button
      >
    </p>
    <p class="small soft">
      Sound can harm: begin quietly, take breaks, and unplug nothing that may
      jump in level. What rules your house has come first; work inside of
      instruments is for qualified technicians.
    </p>
  </aside>
{/if}

<style>
  .help {
    position: fixed;
    top: 2.75rem;
    right: 0;
    bottom: 0;
    width: 21rem;
    max-width: 100%;
    overflow-y: auto;
    padding: 0.75rem 1.25rem 2rem;
    background: var(--sheet);
    border-left: 1px solid var(--ink-3);
    z-index: 45;
  }
  .help p {
    margin: 0.5rem 0;
    line-height: 1.3125rem;
    font-size: 0.875rem;
  }
  dl {
    margin: 0.75rem 0;
    font-size: 0.8125rem;
  }
  dt {
    font-weight: 600;
  }
  dd {
    margin: 0 0 0.375rem;
    line-height: 1.125rem;
  }
  .help h3 {
    margin-top: 1rem;
  }
</style>
