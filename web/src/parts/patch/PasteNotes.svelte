<script lang="ts">
  import { Button, TextArea } from "carbon-components-svelte";
  import { onMount } from "svelte";
  import { wantedOf } from "../../lib/forms";
  import type { PatchState } from "../../lib/patch.svelte";
  import type { PasteResult, PatchLine } from "../../lib/types";

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
    hand = r.unmatched.map(() => ({ control: "", reading: "", wrong: "" }));
    found = r;
  }
  // what did not land is given to a control by hand
  let hand = $state<{ control: string; reading: string; wrong: string }[]>([]);
  const nameOf = (l: PatchLine) => `${l.section} ${l.label}`;
  async function give(i: number) {
    const h = hand[i];
    if (!h || !found) return;
    const to = p.lines.find(
      (l) => nameOf(l).toLowerCase() === h.control.trim().toLowerCase(),
    );
    if (!to) {
      h.wrong = "choose one of the controls";
      return;
    }
    const [reading, why] = await p.takeOne(to.control, h.reading);
    h.wrong = why;
    if (!reading) return;
    found.guesses.push({
      line: found.unmatched[i]?.line ?? 0,
      text: found.unmatched[i]?.text ?? "",
      control: to.control,
      label: to.label,
      section: to.section,
      reading,
      certainty: 1,
      sure: true,
      others: [],
    });
    wanted.push(true);
    found.unmatched.splice(i, 1);
    hand.splice(i, 1);
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
            {#if hand[i]}
              {@const h = hand[i]}
              <form
                class="hand"
                onsubmit={(e) => {
                  e.preventDefault();
                  void give(i);
                }}
              >
                <input
                  list="paste-controls"
                  aria-label={`Control that ${u.text} is of`}
                  placeholder="which control"
                  autocomplete="off"
                  bind:value={h.control}
                />
                <input
                  class="num"
                  aria-label={`Reading that ${u.text} is`}
                  placeholder="reading"
                  autocomplete="off"
                  bind:value={h.reading}
                />
                <button class="linkish" disabled={!h.control || !h.reading}
                  >Give it</button
                >
                {#if h.wrong}<span class="red">{h.wrong}</span>{/if}
              </form>
            {/if}
          </li>{/each}
      </ul>
      <datalist id="paste-controls"
        >{#each p.lines as l (l.control)}<option value={nameOf(l)}
          ></option>{/each}</datalist
      >
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
  .hand {
    display: inline-flex;
    gap: 0.5rem;
    align-items: baseline;
    margin-left: 0.75rem;
  }
  .hand input {
    font-size: 0.75rem;
    padding: 0.125rem 0.25rem;
    color: var(--ink);
    background: var(--sheet);
    border: 0;
    border-bottom: 1px solid var(--ink-3);
  }
  .hand .num {
    width: 6rem;
  }
  ul {
    margin: 0.25rem 0 0;
    padding: 0;
    list-style: none;
  }
</style>
