<script lang="ts">
  import { Button, Select, SelectItem } from "carbon-components-svelte";
  import { exportURL, part } from "../../lib/api";
  import type { PatchState } from "../../lib/patch.svelte";
  import type { PatchView } from "../../lib/types";
  import More from "../More.svelte";
  import PlayPatch from "./PlayPatch.svelte";

  /** What the patch is, and what can be done with it as a whole. */
  let {
    p,
    view,
    openHead,
    fromMIDI,
    photographs,
  }: {
    p: PatchState;
    view: PatchView;
    openHead: () => void;
    fromMIDI: () => void;
    photographs: () => void;
  } = $props();
  const id = $derived(p.id);
  let player = $state<PlayPatch | null>(null);
  export const toggle = () => player?.toggle();
</script>

<div class="bar">
  <h1>{view.name}</h1>
  <span
    >{view.kind} on
    <a href={`/panels/${part(view.panel)}`}>{view.panelName}</a
    >{#if view.tempo}, <span class="num">{view.tempo}</span> a minute{/if}</span
  >
  <span class="soft small">{view.tags.join(", ")}</span>
  <PlayPatch bind:this={player} {p} />
  <div class="end bar">
    <Select labelText="Target" hideLabel size="sm" bind:selected={p.target}>
      {#each view.targets as t (t.id)}
        <SelectItem
          value={t.id}
          text={t.id === view.panel ? `${t.name} (its own)` : t.name}
        />
      {/each}
    </Select>
    <Button size="small" disabled={!p.target} onclick={p.translate}
      >Open the sheet</Button
    >
    <a href={`/patches/${part(id)}/targets`}>Compare targets</a>
    <button class="linkish" onclick={() => (p.pasting = true)}
      >Paste notes</button
    >
    <More
      acts={[
        { text: "Name, kind and tempo", run: openHead },
        { text: "Phrase", run: () => p.show("phrase") },
        { text: "Versions", run: () => p.show("versions") },
        { text: "Readings from MIDI", run: fromMIDI },
        {
          text: "Listen to the instrument",
          run: () => (p.listening = !p.listening),
        },
        { text: "Photographs of the panel", run: photographs },
        { text: "Duplicate", run: () => void p.copy() },
        {
          text: "Save as a file",
          href: exportURL(`/patches/${part(id)}/export`),
        },
        {
          text: "Save with its sheets (archive)",
          href: exportURL(`/archive?patches=${part(id)}`),
        },
        {
          text: "Save as samples (SFZ)",
          href: exportURL(`/patches/${part(id)}/samples`),
        },
        { text: "Delete", run: () => void p.remove(), danger: true },
      ]}
    />
  </div>
</div>
{#if view.behind}
  <p class="behind small">
    <span class="red">{view.behind}.</span>
    Set the readings that differ, or go back to that revision in the
    <a href={`/panels/${part(view.panel)}/workshop`}>workshop</a>.
  </p>
{/if}

<style>
  .behind {
    border-left: 3px solid var(--rubric);
    padding: 0.25rem 0.75rem;
    background: var(--sheet);
    max-width: none;
  }
  .bar :global(.bx--form-item) {
    flex: 0 0 auto;
  }
</style>
