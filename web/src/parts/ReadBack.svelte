<script lang="ts">
  import { Button } from "carbon-components-svelte";
  import { refused } from "../lib/api";
  import { app } from "../lib/app.svelte";
  import type { Found, Taken } from "../lib/types";

  /** What the instrument shows, typed back, beside what is planned: what does not agree stands first. */
  let {
    read,
    name,
    agree,
    go,
    close,
  }: {
    read: (notes: string) => Promise<Found>;
    name: string;
    /** Ticks what stands as planned. */
    agree: (keys: string[]) => void;
    go: (t: Taken) => void;
    close: () => void;
  } = $props();
  let notes = $state("");
  let found = $state.raw<Found | null>(null);
  let wrong = $state("");
  let field = $state<HTMLTextAreaElement | null>(null);
  $effect(() => field?.focus());
  const off = $derived((found?.taken ?? []).filter((t) => !t.same));
  const right = $derived((found?.taken ?? []).filter((t) => t.same));
  async function ask() {
    wrong = "";
    try {
      found = await read(notes);
    } catch (e) {
      wrong = refused(e) ?? "";
      if (!wrong) app.fail(e);
    }
  }
</script>

<form
  class="back noprint"
  aria-label="What the instrument shows"
  onsubmit={(e) => {
    e.preventDefault();
    void ask();
  }}
>
  <label class="small"
    >What {name} shows now, as it stands there: <i>cutoff 47, reso 20</i>
    <textarea
      bind:this={field}
      bind:value={notes}
      rows="3"
      onkeydown={(e) => {
        if (e.key === "Escape") {
          e.stopPropagation();
          close();
        }
        if (e.key === "Enter" && (e.ctrlKey || e.metaKey)) void ask();
      }}></textarea></label
  >
  <div class="bar">
    <Button size="small" type="submit" disabled={!notes.trim()}
      >Hold it against the plan</Button
    >
    <Button size="small" kind="ghost" onclick={close}>Leave it</Button>
    {#if wrong}<span class="red small" role="alert">{wrong}</span>{/if}
  </div>
  {#if found}
    <div role="status">
      {#if off.length > 0}
        <p>
          <strong>{off.length}</strong>
          {off.length === 1 ? "does" : "do"} not stand as planned:
        </p>
        <ul>
          {#each off as t (t.control)}<li>
              <button class="linkish" type="button" onclick={() => go(t)}
                >{t.section} {t.label}</button
              >
              <span class="num">{t.reading}</span>, planned
              <span class="num">{t.stands || "nothing"}</span>
              {#if t.note}<span class="soft small">{t.note}</span>{/if}
            </li>{/each}
        </ul>
      {/if}
      {#if right.length > 0}<p>
          {right.length}
          {right.length === 1 ? "stands" : "stand"} as planned.
          <button
            class="linkish"
            type="button"
            onclick={() => agree(right.map((t) => t.control))}
            >Tick {right.length === 1 ? "it" : "them"}</button
          >
        </p>{/if}
      {#each found.other as o, i (i)}<p class="small soft">{o}</p>{/each}
      {#if found.taken.length + found.other.length === 0}<p class="small soft">
          Nothing of that is a control of {name}.
        </p>{/if}
    </div>
  {/if}
</form>

<style>
  .back {
    background: var(--sheet);
    border-left: 3px solid var(--rubric);
    padding: 0.5rem 0.75rem;
    margin: 0.5rem 0;
  }
  textarea {
    display: block;
    width: 100%;
    max-width: 48rem;
    font: inherit;
    font-family: var(--mono, monospace);
    color: var(--ink);
    background: var(--paper);
    border: 1px solid var(--ink-3);
    padding: 0.375rem;
    margin: 0.25rem 0 0.5rem;
  }
  ul {
    margin: 0.25rem 0;
    padding-left: 1.25rem;
  }
  p {
    margin: 0.25rem 0;
  }
</style>
