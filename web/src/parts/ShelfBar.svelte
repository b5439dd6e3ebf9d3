<script lang="ts">
  import type { Snippet } from "svelte";
  import { tick } from "svelte";
  import type { Shelf } from "../lib/shelf.svelte";

  /** What can be done with what is chosen of a list: one thing, or several at once. */
  let {
    shelf,
    name,
    archived,
    copy,
    more,
  }: {
    shelf: Shelf;
    name: (id: string) => string;
    /** Tells whether a thing is archived. */
    archived: (id: string) => boolean;
    /** Duplicates a thing. */
    copy?: (id: string) => void;
    more?: Snippet;
  } = $props();
  const ids = $derived([...shelf.chosen]);
  const one = $derived(ids.length === 1 ? (ids[0] ?? "") : "");
  let naming = $state(false);
  let typed = $state("");
  let field = $state<HTMLInputElement | null>(null);
  function call() {
    typed = name(one);
    naming = true;
    void tick().then(() => (field?.focus(), field?.select()));
  }
  $effect(() => {
    if (!one) naming = false;
  });
</script>

{#if ids.length > 0}
  <div class="shelf" role="group" aria-label="What is chosen">
    {#if naming}
      <form
        onsubmit={(e) => {
          e.preventDefault();
          naming = false;
          void shelf.rename(one, typed);
        }}
      >
        <label
          >Name <input
            bind:this={field}
            bind:value={typed}
            maxlength="120"
            onkeydown={(e) => {
              if (e.key !== "Escape") return;
              e.stopPropagation();
              naming = false;
            }}
          /></label
        >
        <button type="submit" disabled={!typed.trim()}>Rename</button>
        <button type="button" onclick={() => (naming = false)}>Leave it</button>
      </form>
    {:else}
      <span><strong>{one ? name(one) : `${ids.length} chosen`}</strong></span>
      {#if one}
        <button onclick={call}>Rename</button>
        {#if copy}<button onclick={() => copy?.(one)}>Duplicate</button>{/if}
      {/if}
      {#if ids.some((x) => !archived(x))}<button
          onclick={() => void shelf.act("archive", name)}>Archive</button
        >{/if}
      {#if ids.some(archived)}<button
          onclick={() => void shelf.act("restore", name)}>Bring back</button
        >{/if}
      <button onclick={() => void shelf.act("delete", name)}>Delete</button>
      {@render more?.()}
      <button class="linkish" onclick={shelf.clear}>Choose none</button>
    {/if}
  </div>
{/if}

<style>
  .shelf,
  .shelf form {
    display: flex;
    flex-wrap: wrap;
    gap: 0.5rem 0.75rem;
    align-items: center;
  }
  .shelf {
    position: sticky;
    top: 2.75rem;
    z-index: 7;
    margin: 0.75rem 0 0;
    padding: 0.5rem 0.75rem;
    background: var(--chosen);
    border: 1px solid var(--ink-3);
  }
  .shelf button:not(.linkish) {
    font: inherit;
    font-size: 0.8125rem;
    min-height: 1.75rem;
    padding: 0.125rem 0.75rem;
    color: var(--ink);
    background: var(--sheet);
    border: 1px solid var(--ink-3);
    cursor: pointer;
  }
  .shelf button:disabled {
    color: var(--ink-3);
    cursor: default;
  }
  input {
    font: inherit;
    width: 18rem;
    max-width: 60vw;
    padding: 0.125rem 0.5rem;
    color: var(--ink);
    background: var(--sheet);
    border: 1px solid var(--ink-3);
  }
  @media (max-width: 640px) {
    .shelf {
      top: 4.25rem;
    }
    .shelf button:not(.linkish) {
      min-height: 2.75rem;
    }
  }
</style>
