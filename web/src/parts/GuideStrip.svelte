<script lang="ts">
  import { Button } from "carbon-components-svelte";
  import { guide, steps } from "../lib/guide.svelte";
  import { route } from "../lib/route.svelte";

  /** The guide's step, below the view in which it is done. */
  guide.watch();
</script>

{#if guide.now}
  <div class="room"></div>
  <section class="guide noprint" aria-label="Guide">
    <div class="what" role="status">
      <span class="small soft num">{guide.step + 1} of {steps.length}</span>
      <strong>{guide.now.title}</strong>
      {#if guide.done}<span class="done">done</span>{/if}
      <p>{guide.now.text}</p>
    </div>
    <div class="acts">
      {#if guide.now.href && !guide.done}<button
          class="linkish"
          onclick={() => guide.now?.href && route.go(guide.now.href)}
          >Take me there</button
        >{/if}
      {#if guide.step > 0}<button
          class="linkish"
          onclick={() => guide.go(guide.step - 1)}>Back</button
        >{/if}
      <Button
        size="small"
        kind={guide.done ? "primary" : "tertiary"}
        onclick={() => guide.next()}
        >{guide.step === steps.length - 1 ? "That was it" : "Next"}
        &nbsp;<kbd>F2</kbd></Button
      >
      <button class="linkish" onclick={() => guide.end()}>Leave it</button>
    </div>
  </section>
{/if}

<style>
  .guide {
    position: fixed;
    bottom: 0;
    left: 0;
    right: 0;
    z-index: 40;
    display: flex;
    flex-wrap: wrap;
    gap: 0.5rem 2rem;
    align-items: center;
    padding: 0.625rem 1.25rem;
    background: var(--sheet);
    border-top: 3px solid var(--rubric);
  }
  .room {
    height: 7rem;
  }
  .what {
    flex: 1 1 24rem;
  }
  .what p {
    margin: 0.125rem 0 0;
    max-width: 60rem;
    line-height: 1.25rem;
  }
  .done {
    color: var(--rubric);
    font-family: var(--serif);
    font-style: italic;
  }
  .acts {
    display: flex;
    gap: 1rem;
    align-items: center;
  }
</style>
