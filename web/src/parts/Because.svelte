<script lang="ts">
  import { words } from "../lib/words";

  /** Why something was set otherwise: short reasons to choose, and words. */
  let {
    tags = $bindable(),
    why = $bindable(),
    done,
    leave,
  }: {
    tags: string[];
    why: string;
    /** Enter in the field. */
    done?: () => void;
    leave?: () => void;
  } = $props();
  const toggle = (t: string) =>
    (tags = tags.includes(t) ? tags.filter((x) => x !== t) : [...tags, t]);
</script>

<div class="because">
  <label class="small"
    >because <input
      bind:value={why}
      maxlength="2000"
      autocomplete="off"
      placeholder="in words, or nothing"
      onkeydown={(e) => {
        if (e.key === "Enter" && done) {
          e.preventDefault();
          done();
        } else if (e.key === "Escape" && leave) {
          e.stopPropagation();
          leave();
        }
      }}
    /></label
  >
  <div class="tags" role="group" aria-label="Short reasons">
    {#each words.reasons as t (t)}<button
        type="button"
        aria-pressed={tags.includes(t)}
        onclick={() => toggle(t)}>{t}</button
      >{/each}
  </div>
</div>

<style>
  .because {
    display: grid;
    gap: 0.375rem;
  }
  input {
    font: inherit;
    width: 100%;
    color: var(--ink);
    background: var(--paper);
    border: 0;
    border-bottom: 1px solid var(--ink-3);
    padding: 0.25rem 0.375rem;
  }
  .tags {
    display: flex;
    flex-wrap: wrap;
    gap: 0.25rem;
  }
  .tags button {
    font: inherit;
    font-size: 0.75rem;
    color: var(--ink);
    background: var(--paper);
    border: 1px solid var(--rule);
    padding: 0.0625rem 0.5rem;
    cursor: pointer;
  }
  .tags button[aria-pressed="true"] {
    background: var(--chosen);
    border-color: var(--ink-3);
    font-weight: 600;
  }
  @media (max-width: 700px) {
    .tags button {
      min-height: 2.75rem;
    }
  }
</style>
