<script lang="ts">
  import type { ListenState } from "../../lib/listen.svelte";

  /** The parts of the patch, to be switched off on both sides. */
  let { s }: { s: ListenState } = $props();
</script>

<section class="parts" aria-label="Parts">
  <h2>Parts</h2>
  <ul>
    {#each s.parts as p, i (p.id)}
      <li class:current={i === s.chosen} class:off={s.off.includes(p.id)}>
        <label
          ><input
            type="checkbox"
            checked={!s.off.includes(p.id)}
            onchange={(e) => {
              s.chosen = i;
              s.toggle(p.id);
              e.currentTarget.blur();
            }}
          />
          <span>{p.label}</span>
          {#if p.target.length === 0}<span class="soft small">source only</span
            >{/if}</label
        >
      </li>
    {/each}
  </ul>
  {#if s.off.length > 0}<button class="linkish" onclick={() => (s.off = [])}
      >all on</button
    >{/if}
  <p class="small soft">
    Switched off on both sides. Notes: <kbd>1</kbd> to <kbd>8</kbd>, from C{3 +
      s.octave}.
  </p>
</section>

<style>
  .parts ul {
    list-style: none;
    margin: 0.25rem 0;
    padding: 0;
    border-top: 1px solid var(--rule);
  }
  .parts li {
    border-bottom: 1px solid var(--rule);
    padding: 0.1875rem 0.25rem;
  }
  .parts li.current {
    background: var(--chosen);
  }
  .parts li.off span {
    text-decoration: line-through;
    color: var(--ink-3);
  }
  .parts label {
    display: flex;
    gap: 0.375rem;
    align-items: baseline;
    cursor: pointer;
    font-size: 0.8125rem;
  }
  .parts input {
    accent-color: var(--ink);
  }
</style>
