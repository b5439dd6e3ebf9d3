<script lang="ts">
  import { Button, TextArea } from "carbon-components-svelte";
  import { onMount } from "svelte";
  import { wantedOf } from "../../lib/forms";
  import type { PatchState } from "../../lib/patch.svelte";
  import type { PasteResult } from "../../lib/types";

  /** Reads free notes as readings; nothing is stored before it is confirmed. */
  let { p }: { p: PatchState } = $props();

  let notes = $state("");
  let found = $state<PasteResult | null>(null);
  let wanted = $state<boolean[]>([]);
  let field = $state<HTMLTextAreaElement | null>(null);
  onMount(() => field?.focus());

  async function read() {
    const r = await p.readNotes(notes);
    if (!r) return;
    wanted = r.guesses.map((g) => g.sure);
    found = r;
  }
  const count = $derived(wanted.filter(Boolean).length);
  const close = () => (p.pasting = false);
  async function take() {
    const readings = wantedOf(found?.guesses ?? [], wanted);
    if (await p.setReadings(readings)) close();
  }
</script>

<section class="beside found" aria-label="Paste notes">
  <form
    onsubmit={(e) => {
      e.preventDefault();
      void read();
    }}
  >
    <TextArea
      id="paste-notes"
      labelText="Notes, one or more readings a line"
      placeholder="Osc 2 level ~ 3/4&#10;cutoff 61, reso 20&#10;LFO 1 wave tri, division 1/8."
      rows={4}
      bind:ref={field}
      bind:value={notes}
      onkeydown={(e) => {
        if (e.key === "Enter" && (e.ctrlKey || e.metaKey)) void read();
        else if (e.key === "Escape") close();
      }}
    />
    <div class="bar">
      <Button
        size="small"
        kind="tertiary"
        type="submit"
        disabled={!notes.trim()}>Read the notes</Button
      >
      <span class="soft small"
        ><kbd>Ctrl</kbd> <kbd>Enter</kbd> reads; nothing is stored yet</span
      >
      <button type="button" class="linkish end" onclick={close}>leave it</button
      >
    </div>
  </form>
  {#if found}
    {#if found.guesses.length > 0}
      <table class="lines" aria-label="What the notes may mean">
        <thead>
          <tr
            ><th>Take</th><th>Notes</th><th>Section</th><th>Control</th><th
              >Reading</th
            ><th>Certainty</th><th>Might also be</th></tr
          >
        </thead>
        <tbody>
          {#each found.guesses as g, i (i)}
            <tr>
              <td
                ><input
                  type="checkbox"
                  bind:checked={wanted[i]}
                  aria-label={`Take ${g.section} ${g.label} ${g.reading}`}
                /></td
              >
              <td class="small">{g.line}: {g.text}</td>
              <td>{g.section}</td>
              <td>{g.label}</td>
              <td class="num">{g.reading}</td>
              <td class="num" class:red={!g.sure}
                >{Math.round(g.certainty * 100)} %</td
              >
              <td class="reason small">{g.others.join(", ")}</td>
            </tr>
          {/each}
        </tbody>
      </table>
    {/if}
    {#if found.unmatched.length > 0}
      <p class="small"><strong class="red">Not matched</strong></p>
      <ul class="small">
        {#each found.unmatched as u, i (i)}<li>
            <span class="num">{u.line}: {u.text}</span>
            <span class="reason">{u.why}</span>
          </li>{/each}
      </ul>
    {/if}
    <div class="bar">
      <Button size="small" disabled={count === 0} onclick={take}
        >Take {count} of {found.guesses.length} readings</Button
      >
    </div>
  {/if}
</section>

<style>
  section :global(textarea) {
    font-family: var(--mono);
  }
  .bar {
    margin-top: 0.5rem;
  }
  ul {
    margin: 0.25rem 0 0;
    padding: 0;
    list-style: none;
  }
</style>
