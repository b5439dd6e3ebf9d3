<script lang="ts">
  import {
    Button,
    Search,
    Select,
    SelectItem,
    TextInput,
  } from "carbon-components-svelte";
  import { tick } from "svelte";
  import { app, plain, pressing, typing } from "../lib/app.svelte";
  import { ask, exportURL, part } from "../lib/api";
  import { load } from "../lib/load.svelte";
  import { route } from "../lib/route.svelte";
  import { walkRows } from "../lib/rows";
  import type { PatchList, PatchRow } from "../lib/types";
  import ImportFile from "../parts/ImportFile.svelte";

  let list = $state.raw<PatchList | null>(null);
  let find = $state("");
  let importer = $state<ImportFile | undefined>();

  load<PatchList>(
    () => `/patches?q=${encodeURIComponent(find.trim())}`,
    (l) => (list = l),
  );
  $effect(() => {
    document.title = "Patches - Glossator";
    app.keys = [
      { keys: "↑ ↓", does: "move through the patches" },
      { keys: "Enter", does: "open the chosen patch" },
      { keys: "i", does: "import a patch file" },
      { keys: "n", does: "start a new patch" },
      { keys: "/", does: "find" },
    ];
  });

  // a new patch
  let making = $state(false);
  let name = $state("");
  let kind = $state("bass");
  let panel = $state("");
  function make() {
    making = true;
    panel ||= list?.panels[0]?.id ?? "";
    void tick().then(() =>
      document.querySelector<HTMLInputElement>("#new-name")?.focus(),
    );
  }
  async function create() {
    try {
      const row = await ask<PatchRow>("POST", "/patches/blank", {
        name,
        kind,
        panel,
      });
      app.say("Started", row.name);
      route.go(`/patches/${part(row.id)}`);
    } catch (e) {
      app.fail(e);
    }
  }

  const shown = $derived(list?.patches ?? []);

  function keydown(e: KeyboardEvent) {
    if (typing(e) && e.key === "ArrowDown") walkRows(e); // from the find field to the rows
    if (typing(e) || !plain(e) || app.help || pressing(e) || walkRows(e))
      return;
    if (e.key === "i") importer?.choose();
    else if (e.key === "n" && list?.panels.length) make();
    else if (e.key === "Escape" && making) making = false;
    else if (e.key === "/")
      document.querySelector<HTMLInputElement>("#find")?.focus();
    else return;
    e.preventDefault();
  }
</script>

<svelte:window onkeydown={keydown} />

<div class="page">
  <div class="bar">
    <h1>Patches</h1>
    <div class="end bar">
      <Search
        id="find"
        size="sm"
        placeholder="Find"
        labelText="Find a patch"
        bind:value={find}
      />
      <Button
        size="small"
        kind="tertiary"
        disabled={!list?.panels.length}
        on:click={make}>New patch</Button
      >
      <ImportFile
        bind:this={importer}
        kind="patches"
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
      <TextInput id="new-name" size="sm" labelText="Name" bind:value={name} />
      <Select size="sm" labelText="Panel" bind:selected={panel}>
        {#each list.panels as p (p.id)}<SelectItem
            value={p.id}
            text={p.name}
          />{/each}
      </Select>
      <Select size="sm" labelText="Kind" bind:selected={kind}>
        {#each ["bass", "lead", "pad", "pluck", "other"] as k (k)}<SelectItem
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
            <td><a data-row href={`/patches/${part(p.id)}`}>{p.name}</a></td>
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
