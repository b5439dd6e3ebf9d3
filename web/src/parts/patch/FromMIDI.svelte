<script lang="ts">
  import { Button } from "carbon-components-svelte";
  import { wantedOf } from "../../lib/forms";
  import type { PatchState } from "../../lib/patch.svelte";
  import type { Found } from "../../lib/types";

  /** Reads a MIDI file or raw bytes as readings; nothing is stored before it is confirmed. */
  let { p }: { p: PatchState } = $props();

  let input: HTMLInputElement;
  let file = $state("");
  let found = $state.raw<Found | null>(null);
  let wanted = $state<boolean[]>([]);
  export function choose() {
    input.click();
  }
  /** Shows what came from somewhere. */
  export function show(r: Found, from: string) {
    wanted = r.taken.map((t) => !t.same);
    file = from;
    found = r;
  }
  async function read(files: FileList | null) {
    const f = files?.[0];
    if (!f) return;
    const r = await p.readMIDI(f);
    input.value = "";
    if (r) show(r, f.name);
  }
  const count = $derived(wanted.filter(Boolean).length);
  async function take() {
    const readings = wantedOf(found?.taken ?? [], wanted);
    if (await p.setReadings(readings)) found = null;
  }
</script>

<input
  bind:this={input}
  type="file"
  accept=".mid,.midi,.syx,.bin,audio/midi"
  class="visually-hidden"
  tabindex="-1"
  aria-label="MIDI file of readings"
  onchange={(e) => read(e.currentTarget.files)}
/>
{#if found}
  <section class="beside found" aria-label="From MIDI">
    <div class="bar">
      <strong class="num">{file}</strong>
      <span class="small soft"
        >{found.taken.length} readings, {count} of them to take; nothing is stored
        yet</span
      >
      <button class="linkish end" onclick={() => (found = null)}
        >leave it</button
      >
    </div>
    {#if found.taken.length > 0}
      <div class="table">
        <table class="lines" aria-label="What the MIDI data means">
          <thead
            ><tr
              ><th>Take</th><th>Section</th><th>Control</th><th>Stands at</th
              ><th>MIDI says</th><th>By</th><th>Remark</th></tr
            ></thead
          >
          <tbody>
            {#each found.taken as t, i (t.control)}
              <tr class:soft={t.same}>
                <td
                  ><input
                    type="checkbox"
                    bind:checked={wanted[i]}
                    aria-label={`Take ${t.section} ${t.label} ${t.reading}`}
                  /></td
                >
                <td>{t.section}</td>
                <td>{t.label}</td>
                <td class="num">{t.stands || "–"}</td>
                <td class="num">{t.reading}</td>
                <td class="num small">{t.from}</td>
                <td class="reason small">{t.note ?? ""}</td>
              </tr>
            {/each}
          </tbody>
        </table>
      </div>
    {/if}
    {#if found.other.length > 0}
      <p class="small"><strong class="red">Not taken</strong></p>
      <ul class="small">
        {#each found.other as o, i (i)}<li class="num">{o}</li>{/each}
      </ul>
    {/if}
    <div class="bar">
      <Button size="small" disabled={count === 0} onclick={take}
        >Take {count} of {found.taken.length} readings</Button
      >
    </div>
  </section>
{/if}

<style>
  .table {
    max-height: 20rem;
    overflow: auto;
    margin: 0.5rem 0;
  }
  ul {
    margin: 0.25rem 0 0.5rem;
    padding: 0;
    list-style: none;
  }
</style>
