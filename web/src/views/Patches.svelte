<script lang="ts">
  import {
    Button,
    Search,
    Select,
    SelectItem,
    TextInput,
  } from "carbon-components-svelte";
  import { tick } from "svelte";
  import { exportURL, part } from "../lib/api";
  import { app } from "../lib/app.svelte";
  import * as patches from "../lib/calls/patches";
  import { keys } from "../lib/keys.svelte";
  import { load } from "../lib/load.svelte";
  import { Places } from "../lib/places";
  import { route } from "../lib/route.svelte";
  import type { PatchList } from "../lib/types";
  import { words } from "../lib/words";
  import ImportFile from "../parts/ImportFile.svelte";

  let list = $state.raw<PatchList | null>(null);
  let find = $state("");
  let finder = $state<HTMLInputElement | null>(null);
  let importer = $state<ImportFile | undefined>();
  const rows = new Places();

  document.title = "Patches - Glossator";
  load(
    () => patches.list(find.trim()),
    (l) => (list = l),
  );

  // a new patch
  let making = $state(false);
  let name = $state("");
  let kind = $state("bass");
  let panel = $state("");
  let nameField = $state<HTMLInputElement | null>(null);
  function make() {
    making = true;
    panel ||= list?.panels[0]?.id ?? "";
    void tick().then(() => nameField?.focus());
  }
  const create = () =>
    app.attempt(async () => {
      const row = await patches.blank(name, kind, panel);
      app.say("Started", row.name);
      route.go(`/patches/${part(row.id)}`);
    });

  const shown = $derived(list?.patches ?? []);
  keys([
    {
      keys: "↑ ↓",
      does: "move through the patches",
      on: ["ArrowUp", "ArrowDown"],
      typing: true,
      run: (e) => rows.walk(e.key === "ArrowDown" ? 1 : -1),
    },
    { keys: "Enter", does: "open the chosen patch" },
    {
      keys: "i",
      does: "import a patch file",
      on: "i",
      run: () => importer?.choose(),
    },
    {
      keys: "n",
      does: "start a new patch",
      on: "n",
      while: () => !!list?.panels.length,
      run: make,
    },
    {
      keys: "/",
      does: "find",
      on: "/",
      run: () => (finder?.focus(), finder?.select()),
    },
    { on: "Escape", while: () => making, run: () => (making = false) },
  ]);
</script>

<div class="page">
  <div class="bar">
    <h1>Patches</h1>
    <div class="end bar">
      <Search
        id="find"
        bind:ref={finder}
        size="sm"
        placeholder="Find"
        labelText="Find a patch"
        bind:value={find}
      />
      <Button
        size="small"
        kind="tertiary"
        disabled={!list?.panels.length}
        onclick={make}>New patch</Button
      >
      <ImportFile
        bind:this={importer}
        kind="patch"
        take={patches.take}
        done={(id, name) => {
          app.say("Imported", name);
          route.go(`/patches/${part(id)}`);
        }}
      />
    </div>
  </div>
  {#if making && list}
    <form
      class="new bar"
      onsubmit={(e) => {
        e.preventDefault();
        void create();
      }}
    >
      <TextInput
        id="new-name"
        bind:ref={nameField}
        size="sm"
        labelText="Name"
        bind:value={name}
      />
      <Select size="sm" labelText="Panel" bind:selected={panel}>
        {#each list.panels as p (p.id)}<SelectItem
            value={p.id}
            text={p.name}
          />{/each}
      </Select>
      <Select size="sm" labelText="Kind" bind:selected={kind}>
        {#each words.patchKinds as k (k)}<SelectItem
            value={k}
            text={k}
          />{/each}
      </Select>
      <Button size="small" type="submit">Start it at init</Button>
      <button type="button" class="linkish" onclick={() => (making = false)}
        >leave it</button
      >
    </form>
  {/if}
  {#if !list}
    <p class="soft" role="status">Loading</p>
  {:else if list.all === 0}
    <p>
      There is no patch yet. Import a file by the button, or drop it here; or
      open the sample from the <a href="/">desk</a>.
    </p>
  {:else if shown.length === 0}
    <p>No patch has “{find}” in its name, kind, panel, tags or notes.</p>
  {:else}
    <table class="lines">
      <thead>
        <tr
          ><th>Name</th><th>Kind</th><th>Panel</th><th class="right">Tempo</th
          ><th class="right">Readings</th><th>Tags</th><th>Notes</th><th
            >File</th
          ></tr
        >
      </thead>
      <tbody>
        {#each shown as p (p.id)}
          <tr>
            <td
              ><a {@attach rows.at(p.id)} href={`/patches/${part(p.id)}`}
                >{p.name}</a
              ></td
            >
            <td>{p.kind}</td>
            <td><a href={`/panels/${part(p.panel)}`}>{p.panelName}</a></td>
            <td class="num right">{p.tempo || "–"}</td>
            <td class="num right">{p.changed}</td>
            <td class="small">{p.tags.join(", ")}</td>
            <td class="small notes"><span>{p.notes}</span></td>
            <td
              ><a
                download
                href={exportURL(`/patches/${part(p.id)}/export`)}
                aria-label={`JSON of ${p.name}`}>JSON</a
              ></td
            >
          </tr>
        {/each}
      </tbody>
    </table>
  {/if}
</div>

<style>
  .new {
    align-items: end;
    margin-top: 0.75rem;
    padding: 0.75rem 1rem 1rem;
    background: var(--sheet);
    border: 1px solid var(--rule);
  }
  .new :global(.bx--form-item) {
    flex: 0 1 15rem;
  }
  table {
    margin-top: 1rem;
  }
  .right {
    text-align: right;
  }
  .notes {
    max-width: 26rem;
  }
  .notes span {
    display: block;
    overflow: hidden;
    text-overflow: ellipsis;
    white-space: nowrap;
  }
  .bar :global(.bx--search) {
    width: 14rem;
  }
</style>
