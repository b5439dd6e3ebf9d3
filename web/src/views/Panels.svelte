<script lang="ts">
  import { Search } from "carbon-components-svelte";
  import { app, plain, pressing, typing } from "../lib/app.svelte";
  import { ask, exportURL, part } from "../lib/api";
  import { load } from "../lib/load.svelte";
  import { route } from "../lib/route.svelte";
  import { walkRows } from "../lib/rows";
  import type { Desk, FoundControls } from "../lib/types";
  import ImportFile from "../parts/ImportFile.svelte";

  let desk = $state<Desk | null>(null);
  let importer = $state<ImportFile | undefined>();

  let find = $state("");
  let found = $state<FoundControls | null>(null);
  $effect(() => {
    const q = find.trim();
    if (!q) {
      found = null;
      return;
    }
    ask<FoundControls>("GET", `/controls?q=${encodeURIComponent(q)}`)
      .then((f) => {
        if (find.trim() === q) found = f;
      })
      .catch((e: unknown) => app.fail(e));
  });

  load<Desk>(
    () => "/desk",
    (d) => (desk = d),
  );
  $effect(() => {
    document.title = "Panels - Glossator";
    app.keys = [
      { keys: "↑ ↓", does: "move through the panels" },
      { keys: "Enter", does: "open the chosen panel" },
      { keys: "/", does: "find controls of all panels" },
      { keys: "i", does: "import a panel file" },
    ];
  });
  function keydown(e: KeyboardEvent) {
    if (typing(e) && e.key === "ArrowDown") walkRows(e); // from the find field to the rows
    if (typing(e) || !plain(e) || app.help || pressing(e) || walkRows(e))
      return;
    if (e.key === "i") importer?.choose();
    else if (e.key === "/")
      document.querySelector<HTMLInputElement>("#find-controls")?.focus();
    else return;
    e.preventDefault();
  }
</script>

<svelte:window onkeydown={keydown} />

<div class="page">
  <div class="bar">
    <h1>Panels</h1>
    <div class="end bar">
      <Search
        id="find-controls"
        size="sm"
        placeholder="Find a control: name, module, quantity"
        labelText="Find a control by name, module or quantity"
        bind:value={find}
      />
      <ImportFile
        bind:this={importer}
        kind="panels"
        done={(id, name) => {
          app.say("Imported", name);
          route.go(`/panels/${part(id)}`);
        }}
      />
    </div>
  </div>
  {#if !desk}
    <p class="soft" role="status">Loading</p>
  {:else if found}
    <p class="small soft" role="status">
      {found.found.length === 0
        ? "No control of any panel fits."
        : `${found.found.length + found.more} found${found.more ? `, the first ${found.found.length} shown` : ""}`}
    </p>
    {#if found.found.length > 0}
      <table class="lines">
        <thead
          ><tr
            ><th>Panel</th><th>Section</th><th>Control</th><th>Sets</th><th
              >Shows</th
            ></tr
          ></thead
        >
        <tbody>
          {#each found.found as f (f.panel + f.control)}
            <tr>
              <td>{f.panelName}</td>
              <td>{f.section}</td>
              <td
                ><a
                  data-row
                  href={`/panels/${part(f.panel)}?line=${part(f.control)}`}
                  >{f.label}</a
                ></td
              >
              <td class="small">{f.sets || "chooses what else is there"}</td>
              <td class="small num">{f.expects}</td>
            </tr>
          {/each}
        </tbody>
      </table>
    {/if}
  {:else if desk.panels.length === 0}
    <p>
      There is no panel yet. Import a file by the button, or drop it here; or
      open the sample from the <a href="/">desk</a>.
    </p>
  {:else}
    <table class="lines">
      <thead>
        <tr
          ><th>Name</th><th class="right">Controls</th><th class="right"
            >Modules</th
          ><th>Memory</th><th class="right">Revision</th><th>What it is</th><th
            >File</th
          ></tr
        >
      </thead>
      <tbody>
        {#each desk.panels as p (p.id)}
          <tr>
            <td><a data-row href={`/panels/${part(p.id)}`}>{p.name}</a></td>
            <td class="num right">{p.controls}</td>
            <td class="num right">{p.modules}</td>
            <td>{p.memory ? "yes" : "none"}</td>
            <td class="num right">{p.revision}</td>
            <td class="small">{p.summary}</td>
            <td
              ><a
                download
                href={exportURL(`/panels/${part(p.id)}/export`)}
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
  .bar :global(.bx--search) {
    width: 20rem;
  }
  table {
    margin-top: 1rem;
  }
  .right {
    text-align: right;
  }
</style>
