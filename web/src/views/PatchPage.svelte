<script lang="ts">
  import { Select, SelectItem, Toggle } from "carbon-components-svelte";
  import { flushSync } from "svelte";
  import { exportURL, part } from "../lib/api";
  import { typing } from "../lib/app.svelte";
  import { Pictures } from "../lib/photographs.svelte";
  import { keys, through } from "../lib/keys.svelte";
  import { PatchState } from "../lib/patch.svelte";
  import { route } from "../lib/route.svelte";
  import Photographs from "../parts/Photographs.svelte";
  import ListenMIDI from "../parts/ListenMIDI.svelte";
  import Cables from "../parts/patch/Cables.svelte";
  import Flavours from "../parts/patch/Flavours.svelte";
  import FromMIDI from "../parts/patch/FromMIDI.svelte";
  import HeadForm from "../parts/patch/HeadForm.svelte";
  import Layers from "../parts/patch/Layers.svelte";
  import PasteNotes from "../parts/patch/PasteNotes.svelte";
  import PatchBar from "../parts/patch/PatchBar.svelte";
  import PatchVersions from "../parts/patch/PatchVersions.svelte";
  import PhraseEditor from "../parts/patch/PhraseEditor.svelte";
  import PhraseLine from "../parts/patch/PhraseLine.svelte";
  import ReadingTable from "../parts/patch/ReadingTable.svelte";

  let { id }: { id: string } = $props();
  // svelte-ignore state_referenced_locally
  const p = new PatchState(id);
  let bar = $state<PatchBar | undefined>();
  let midi = $state<FromMIDI | undefined>();
  // svelte-ignore state_referenced_locally
  const pictures = new Pictures({ patch: id });

  /** Opens the field of the chosen line with the focus in it. */
  function edit(empty = false) {
    if (!p.edit(empty)) return;
    flushSync();
    p.field?.focus();
    if (!empty) p.field?.select();
  }
  keys([
    {
      on: "Escape",
      typing: true,
      while: () => !!p.drawer,
      run: (e) => (typing(e) ? p.closeDrawer() : p.closeAll()),
    },
    {
      keys: "Space",
      does: "play or stop; changes are heard as they are made",
      on: " ",
      run: () => bar?.toggle(),
    },
    {
      keys: "d",
      does: "a variant of the sound: the line to say it in",
      on: "d",
      run: () => document.getElementById("flavour-line")?.focus(),
    },
    {
      keys: "i",
      does: "hear the part of this line alone; again for all",
      on: "i",
      run: () => p.alone(),
    },
    {
      keys: "↑ ↓",
      does: "move through the readings",
      on: ["ArrowUp", "ArrowDown"],
      run: (e) => p.move(e.key === "ArrowDown" ? 1 : -1),
    },
    {
      keys: "0-9 + - ~",
      does: "type another reading",
      on: (e) => /^[0-9+\-~.]$/.test(e.key),
      run: () => {
        edit(true);
        return through; // the key itself goes into the field
      },
    },
    {
      keys: "Enter",
      does: "open the reading; Enter again sets it and goes on to the next, Esc leaves it",
      on: "Enter",
      run: () => edit(),
    },
    {
      keys: "← →",
      does: "a step down or up",
      on: ["ArrowLeft", "ArrowRight"],
      run: (e) => void p.step(e.key === "ArrowRight" ? 1 : -1),
    },
    {
      keys: "Delete",
      does: "back to init",
      on: "Delete",
      run: () => void p.toInit(),
    },
    {
      keys: "w",
      does: "the reading is to taste: what is lost of it counts least",
      on: "w",
      run: () => p.toTaste(),
    },
    {
      keys: "a",
      does: "all readings, or only those that differ from init",
      on: "a",
      run: () => (p.all = !p.all),
    },
    {
      keys: "e",
      does: "name, kind, tempo, tags and notes",
      on: "e",
      run: () => (p.head = true),
    },
    { keys: "p", does: "paste notes", on: "p", run: () => (p.pasting = true) },
    {
      keys: "m",
      does: "readings from a MIDI file or dump",
      on: "m",
      run: () => midi?.choose(),
    },
    {
      keys: "l",
      does: "listen to the instrument by MIDI: what is moved on it is taken",
      on: "l",
      run: () => (p.listening = !p.listening),
    },
    { keys: "f", does: "the phrase", on: "f", run: () => p.show("phrase") },
    {
      keys: "k",
      does: "cables",
      on: "k",
      while: () => !!p.view?.points.length,
      run: () => p.show("cables"),
    },
    {
      keys: "y",
      does: "layers: name, transposition, level; add, delete",
      on: "y",
      run: () => p.show("layer"),
    },
    { keys: "u", does: "the next layer", on: "u", run: () => p.nextLayer() },
    { keys: "v", does: "versions", on: "v", run: () => p.show("versions") },
    {
      keys: "c",
      does: "duplicate the patch",
      on: "c",
      run: () => void p.copy(),
    },
    {
      keys: "o",
      does: "open the sheet on the chosen target",
      on: "o",
      while: () => !!p.target,
      run: () => void p.translate(),
    },
    {
      keys: "s",
      does: "photographs of the panel, beside the readings",
      on: "s",
      run: () => (pictures.open = !pictures.open),
    },
    {
      keys: "b",
      does: "compare targets: which carries it best",
      on: "b",
      run: () => route.go(`/patches/${part(id)}/targets`),
    },
    {
      keys: "Esc",
      does: "close what is open, then back to where you came from",
      on: "Escape",
      run: () => !p.closeAll() && route.back("/patches"),
    },
  ]);
</script>

<div class="page">
  {#if p.missing}
    <h1>No such patch</h1>
    <p>{p.missing} <a href="/patches">All patches</a></p>
  {:else if !p.view}
    <p class="soft" role="status">Loading</p>
  {:else}
    {@const view = p.view}
    <PatchBar
      bind:this={bar}
      {p}
      {view}
      openHead={() => (p.head = true)}
      fromMIDI={() => midi?.choose()}
      photographs={() => (pictures.open = !pictures.open)}
    />
    {#if p.listening}<ListenMIDI
        panel={view.panel}
        hint={`Move a control of ${view.panelName}: its reading is taken. A dump is shown first.`}
        hear={p.hear}
        moved={p.moved}
        many={(f) => midi?.show(f, "From the instrument")}
        close={() => (p.listening = false)}
      />{/if}
    <FromMIDI bind:this={midi} {p} />
    {#if p.drawer === "phrase"}<PhraseEditor {p} />
    {:else if p.drawer === "versions"}<PatchVersions {p} />
    {:else if p.drawer === "layer" && p.onLayer}<Layers
        {p}
        {view}
        onLayer={p.onLayer}
      />{/if}
    {#if p.pasting}<PasteNotes {p} />{/if}
    {#if p.head}<HeadForm {p} {view} />
    {:else if view.notes}<p class="reason notes">{view.notes}</p>{/if}
    <div class="bar">
      {#if view.layers.length > 1}
        <Select labelText="Layer" size="sm" bind:selected={p.layer}>
          {#each view.layerViews as l (l.id)}<SelectItem
              value={l.id}
              text={[p.layerName(l), l.transpose, l.level]
                .filter(Boolean)
                .join(", ")}
            />{/each}
        </Select>
      {/if}
      <button class="linkish" onclick={() => p.show("layer")}>Layers</button>
      <Toggle
        size="sm"
        labelText="Readings"
        hideLabel
        labelA="only what differs from init"
        labelB="all readings"
        bind:toggled={p.all}
      />
      <span class="soft small end"
        ><kbd>Enter</kbd> types a reading, <kbd>←</kbd> <kbd>→</kbd> step it,
        <kbd>Delete</kbd> puts it to init</span
      >
    </div>
    <div class:pictured={pictures.open}>
      <div><ReadingTable {p} {edit} /></div>
      {#if pictures.open}<aside><Photographs s={pictures} /></aside>{/if}
    </div>
    {#if view.points.length > 0}<Cables {p} {view} />{/if}
    {#if p.drawer !== "phrase"}<PhraseLine {p} {view} />{/if}
    <Flavours {p} {view} />
    {#if view.midi}
      <p class="small">
        Readings by MIDI:
        <a
          download
          href={exportURL(`/patches/${part(id)}/layers/${part(p.layer)}/midi`)}
          >as a MIDI file</a
        >,
        <a
          download
          href={exportURL(
            `/patches/${part(id)}/layers/${part(p.layer)}/midi?form=raw`,
          )}>as bytes</a
        >.
        <span class="soft"
          >Turn the volume down before sending: every control with an address
          moves.</span
        >
      </p>
    {/if}
  {/if}
</div>

<style>
  .pictured {
    display: grid;
    grid-template-columns: minmax(0, 1fr) minmax(16rem, 28rem);
    gap: 0 1.5rem;
    align-items: start;
  }
  .pictured aside {
    position: sticky;
    top: 0.5rem;
  }
  @media (max-width: 60rem) {
    .pictured {
      grid-template-columns: minmax(0, 1fr);
    }
    .pictured aside {
      position: static;
      order: -1;
    }
  }
  .notes {
    max-width: 50rem;
    margin: 0.5rem 0 1rem;
    font-size: 0.9375rem;
    line-height: 1.375rem;
  }
  .bar :global(.bx--form-item) {
    flex: 0 0 auto;
  }
</style>
