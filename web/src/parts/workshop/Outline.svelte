<script lang="ts">
  import type { WorkshopState } from "../../lib/workshop.svelte";

  /** Every part of the panel, to be found and chosen. */
  let { s }: { s: WorkshopState } = $props();
  const rows = $derived(s.shown);
  let finder = $state<HTMLInputElement | undefined>();
  export function find() {
    finder?.focus();
    finder?.select();
  }
  export const finding = () => !!finder && document.activeElement === finder;
</script>

<nav aria-label="Parts of the panel">
  <input
    id="find-part"
    bind:this={finder}
    placeholder="Find a part"
    aria-label="Find a part"
    autocomplete="off"
    bind:value={s.find}
  />
  <div class="outline" role="listbox" aria-label="Parts">
    {#each rows as r, i (r.key)}
      {#if rows[i - 1]?.under !== r.under}<div
          class="under small"
          role="presentation"
        >
          {r.under}
        </div>{/if}
      <div
        {@attach s.rows.at(r.key)}
        id={`o-${r.key}`}
        class="row"
        role="option"
        tabindex={r.key === s.chosen?.key ? 0 : -1}
        aria-selected={r.key === s.chosen?.key}
        onclick={() => s.choose(r)}
        ondblclick={s.enter}
        onkeydown={() => undefined}
      >
        <span class:red={r.bad}
          >{r.label || "unnamed"}{#if r.bad}<span class="visually-hidden"
              >, at fault</span
            >
            !{/if}</span
        >
      </div>
    {:else}
      <p class="soft small">No part fits.</p>
    {/each}
  </div>
</nav>

<style>
  nav {
    position: sticky;
    top: 3.25rem;
    height: calc(100vh - 7.5rem);
    display: flex;
    flex-direction: column;
    min-height: 20rem;
  }
  @media (max-width: 48rem) {
    nav {
      position: static;
      height: 11rem;
      min-height: 0;
    }
  }
  #find-part {
    font: inherit;
    font-size: 0.8125rem;
    padding: 0.25rem 0.5rem;
    color: var(--ink);
    background: var(--sheet);
    border: 0;
    border-bottom: 1px solid var(--ink-3);
  }
  #find-part::placeholder {
    color: var(--ink-3);
    opacity: 1;
  }
  .outline {
    overflow: auto;
    flex: 1;
    border: 1px solid var(--rule);
    border-top: 0;
    background: var(--sheet);
    padding-bottom: 0.5rem;
  }
  .under {
    position: sticky;
    top: 0;
    font-weight: 600;
    background: var(--shade);
    padding: 0.125rem 0.5rem;
    color: var(--ink-2);
  }
  .row {
    display: flex;
    justify-content: space-between;
    gap: 0.5rem;
    padding: 0.0625rem 0.5rem;
    font-size: 0.8125rem;
    line-height: 1.25rem;
    cursor: pointer;
    white-space: nowrap;
    scroll-margin: 2rem;
  }
  .row span {
    overflow: hidden;
    text-overflow: ellipsis;
  }
  .row span:first-child {
    flex: 0 1 auto;
    min-width: 5rem;
  }
  .row:hover {
    background: var(--shade);
  }
  .row[aria-selected="true"] {
    background: var(--chosen);
  }
  .row:focus-visible {
    outline-offset: -2px;
  }
</style>
