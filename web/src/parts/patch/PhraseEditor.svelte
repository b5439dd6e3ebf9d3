<script lang="ts">
  import { Button } from "carbon-components-svelte";
  import { onMount } from "svelte";
  import { exportURL, part } from "../../lib/api";
  import type { Key } from "../../lib/keys.svelte";
  import { LineState } from "../../lib/line.svelte";
  import type { PatchState } from "../../lib/patch.svelte";
  import Moves from "./Moves.svelte";
  import StepGrid from "./StepGrid.svelte";

  /** Step entry of the line that a sound is tried with. Every change is stored at once. */
  let { p }: { p: PatchState } = $props();
  // svelte-ignore state_referenced_locally
  const l = new LineState(p);
  let grid: StepGrid;
  let file: HTMLInputElement;
  let root = $state("A1");
  const name = $derived(p.view?.phrase?.name ?? "");
  onMount(() => grid.focus());

  const up = (e: KeyboardEvent) => (e.key === "ArrowUp" ? 1 : -1);
  const table: Key[] = [
    {
      on: ["ArrowRight", "ArrowLeft"],
      run: (e) => l.go(l.cursor + (e.key === "ArrowRight" ? 1 : -1)),
    },
    {
      on: ["Home", "End"],
      run: (e) => l.go(e.key === "End" ? l.steps.length : 0),
    },
    {
      keys: "a-g",
      does: "note",
      on: (e) => /^[a-g]$/i.test(e.key) && !e.shiftKey,
      run: (e) => l.letter(e.key),
    },
    {
      keys: "↑ ↓",
      does: "semitone, with Shift octave",
      on: ["ArrowUp", "ArrowDown"],
      run: (e) => l.shift(up(e) * (e.shiftKey ? 12 : 1)),
    },
    { on: "#", run: () => l.shift(1) },
    {
      keys: "+ -",
      does: "length",
      on: ["+", "*", "-", "/"],
      run: (e) => l.longer("+*".includes(e.key) ? 1 : -1),
    },
    {
      keys: "o O",
      does: "overlap",
      on: ["o", "O"],
      run: (e) => l.hold(e.key === "o" ? 1 : -1),
    },
    {
      keys: ", .",
      does: "velocity",
      on: [",", "."],
      run: (e) => l.louder(e.key === "." ? 8 : -8),
    },
    { keys: "h", does: "chord", on: "h", run: () => l.chord() },
    { keys: "n", does: "its next note", on: "n", run: () => l.nextVoice() },
    {
      keys: "x",
      does: "accent",
      on: "x",
      run: () => l.change({ accent: !l.note?.accent }),
    },
    {
      keys: "s",
      does: "slide",
      on: "s",
      run: () => l.change({ slide: !l.note?.slide }),
    },
    {
      keys: "r R",
      does: "rest before",
      on: ["r", "R"],
      run: (e) => l.rest(e.key === "r" ? 1 : -1),
    },
    {
      keys: "Delete",
      does: "take it out",
      on: ["Delete", "Backspace"],
      run: () => l.remove(),
    },
    { keys: "Esc", does: "closes", on: "Escape", run: () => p.closeDrawer() },
  ];
  async function then(work: Promise<unknown>) {
    await work;
    l.go(0);
    grid.focus();
  }
  async function read(files: FileList | null) {
    const f = files?.[0];
    if (f) await p.readPhrase(f);
    file.value = "";
  }
</script>

<section class="beside" aria-label="Phrase">
  <div class="bar">
    <label
      >Name <input
        class="wide"
        value={name}
        disabled={!l.notes.length}
        onchange={(e) => void p.namePhrase(e.currentTarget.value.trim())}
      /></label
    >
    <span class="small soft num"
      >{l.notes.length} notes, {l.fraction(l.end)} long</span
    >
    <div class="end bar">
      <label
        >On <input
          class="num"
          bind:value={root}
          aria-label="Note of the preset"
        /></label
      >
      {#each p.presets?.presets ?? [] as x (x.id)}
        <button
          class="linkish"
          title={`Good for ${x.for}`}
          onclick={() => then(p.makePhrase(x.id, root))}>{x.name}</button
        >
      {/each}
    </div>
  </div>
  {#if p.presets && p.presets.cue.length > 0}
    <div class="bar small">
      <span class="soft">The cue's line, of</span>
      {#each p.presets.cue as c (c.patch)}<button
          class="linkish"
          onclick={() => then(p.setPhrase(c.phrase))}>{c.name}</button
        ><span class="soft">{c.tag}</span>{/each}
    </div>
  {/if}
  <StepGrid bind:this={grid} {l} {table} />
  {#if p.view}<Moves {p} view={p.view} />{/if}
  <p id="phrase-line" class="num small" role="status">{l.says}</p>
  <div class="bar">
    <span class="small soft keys">
      {#each table.filter((k) => k.does) as k, i (k.keys)}{i ? ", " : ""}<kbd
          >{k.keys}</kbd
        >
        {k.does}{/each}
    </span>
    <div class="end bar">
      {#if l.notes.length}<a
          download
          href={exportURL(`/patches/${part(p.id)}/phrase/midi`)}
          >Line as MIDI file</a
        >{/if}
      <button class="linkish" onclick={() => file.click()}
        >Read a MIDI file</button
      >
      <input
        bind:this={file}
        type="file"
        accept=".mid,.midi,audio/midi"
        class="visually-hidden"
        tabindex="-1"
        aria-label="MIDI file of a line"
        onchange={(e) => read(e.currentTarget.files)}
      />
      {#if l.notes.length}<button class="linkish" onclick={() => l.store([])}
          >No line</button
        >{/if}
      <Button size="small" kind="tertiary" onclick={p.closeDrawer}>Done</Button>
    </div>
  </div>
</section>

<style>
  label {
    font-size: 0.75rem;
    color: var(--ink-2);
  }
  input:not([type="file"]) {
    font-size: 0.8125rem;
    width: 3.5rem;
    margin-left: 0.25rem;
    padding: 0.125rem 0.25rem;
    color: var(--ink);
    background: var(--paper);
    border: 0;
    border-bottom: 1px solid var(--ink-3);
  }
  input.wide {
    width: 14rem;
  }
  .keys {
    max-width: 44rem;
    line-height: 1.25rem;
  }
  #phrase-line {
    margin: 0.25rem 0;
    min-height: 1.125rem;
  }
</style>
