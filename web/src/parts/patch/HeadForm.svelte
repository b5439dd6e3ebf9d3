<script lang="ts">
  import {
    Button,
    Select,
    SelectItem,
    TextArea,
    TextInput,
  } from "carbon-components-svelte";
  import { onMount, untrack } from "svelte";
  import type { PatchState } from "../../lib/patch.svelte";
  import type { PatchView } from "../../lib/types";
  import { words } from "../../lib/words";

  /** Name, kind, tempo, tags and notes of a patch. */
  let { p, view }: { p: PatchState; view: PatchView } = $props();
  const was = untrack(() => view);
  let name = $state(was.name);
  let kind = $state(was.kind);
  let tempo = $state(was.tempo ? String(was.tempo) : "");
  let tags = $state(was.tags.join(", "));
  let notes = $state(was.notes);
  let wheel = $state(was.wheel ? String(Math.round(was.wheel * 100)) : "");
  let first = $state<HTMLInputElement | null>(null);
  onMount(() => first?.focus());
  const save = () =>
    p.saveHead({
      name,
      kind,
      tempo: Number(tempo) || 0,
      tags: tags
        .split(",")
        .map((t) => t.trim())
        .filter(Boolean),
      notes,
      wheel: (Number(wheel) || 0) / 100,
    });
</script>

<form
  class="head"
  onsubmit={(e) => {
    e.preventDefault();
    void save();
  }}
>
  <TextInput
    id="head-name"
    size="sm"
    labelText="Name"
    bind:ref={first}
    bind:value={name}
  />
  <Select size="sm" labelText="Kind" bind:selected={kind}>
    {#each words.patchKinds as k (k)}<SelectItem value={k} text={k} />{/each}
  </Select>
  <TextInput
    size="sm"
    labelText="Tempo, quarters a minute"
    bind:value={tempo}
  />
  <TextInput
    size="sm"
    labelText="Modulation wheel held at, %"
    placeholder="0"
    bind:value={wheel}
  />
  <TextInput size="sm" labelText="Tags, by commas" bind:value={tags} />
  <div class="wide">
    <TextArea labelText="Notes" rows={3} bind:value={notes} />
  </div>
  <div class="bar">
    <Button size="small" type="submit">Save</Button>
    <button type="button" class="linkish" onclick={() => (p.head = false)}
      >leave it</button
    >
  </div>
</form>

<style>
  .head {
    display: grid;
    grid-template-columns: 2fr 1fr 1fr 1fr 2fr;
    gap: 0.5rem 1rem;
    margin: 0.75rem 0 1rem;
    padding: 0.75rem 1rem 1rem;
    background: var(--sheet);
    border: 1px solid var(--rule);
  }
  .wide {
    grid-column: 1 / -1;
  }
  @media (max-width: 760px) {
    .head {
      grid-template-columns: minmax(0, 1fr);
    }
  }
</style>
