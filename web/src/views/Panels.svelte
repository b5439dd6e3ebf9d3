<script lang="ts">
  import { Button, Search, TextInput } from "carbon-components-svelte";
  import { tick } from "svelte";
  import { exportURL, part } from "../lib/api";
  import { app } from "../lib/app.svelte";
  import * as panels from "../lib/calls/panels";
  import * as program from "../lib/calls/program";
  import { keys } from "../lib/keys.svelte";
  import { load } from "../lib/load.svelte";
  import { Places } from "../lib/places";
  import { route } from "../lib/route.svelte";
  import type { Desk, FoundControls } from "../lib/types";
  import { words } from "../lib/words";
  import { Shelf } from "../lib/shelf.svelte";
  import ImportFile from "../parts/ImportFile.svelte";
  import ShelfBar from "../parts/ShelfBar.svelte";

  let desk = $state<Desk | null>(null);
  let importer = $state<ImportFile | undefined>();
  const rows = new Places();
  document.title = "Panels - Glossator";
  load(program.desk, (d) => (desk = d));

  let find = $state("");
  let finder = $state<HTMLInputElement | null>(null);
  let found = $state<FoundControls | null>(null);
  $effect(() => {
    const q = find.trim();
    if (!q) {
      found = null;
      return;
    }
    panels
      .find(q)
      .then((f) => {
        if (find.trim() === q) found = f;
      })
      .catch((e: unknown) => app.fail(e));
  });

  // a new panel
  let making = $state(false);
  let name = $state("");
  let like = $state("+blank");
  let usual = $state("");
  let nameField = $state<HTMLInputElement | null>(null);
  function make() {
    making = true;
    void tick().then(() => nameField?.focus());
  }
  const shelf = new Shelf("panel");
  let which = $state("used");
  const shown = $derived(
    (desk?.panels ?? []).filter((p) => !!p.archived === (which === "archived")),
  );
  const byId = (id: string) => desk?.panels.find((p) => p.id === id);
  // the desk leads here to begin: ?line=new, or new:mono
  if (route.line === "new" || route.line.startsWith("new:")) {
    const from = route.line.slice(4);
    if (words.starts.some((x) => x.id === from)) like = `+${from}`;
    make();
  }
  const start = $derived(words.starts.find((x) => `+${x.id}` === like));
  const create = () =>
    app.attempt(async () => {
      const d = await (like.startsWith("+")
        ? panels.begin({
            name,
            start: like.slice(1),
            usual: usual.trim() || undefined,
          })
        : panels.copy(like, name));
      app.say("Begun", `${d.name} is a draft until it is saved.`);
      route.go(`/panels/${part(d.id)}/workshop`);
    });
  keys([
    {
      on: "Escape",
      typing: true,
      while: () => making,
      run: () => (making = false),
    },
    {
      keys: "↑ ↓",
      does: "move through the panels",
      on: ["ArrowUp", "ArrowDown"],
      typing: true,
      run: (e) => rows.walk(e.key === "ArrowDown" ? 1 : -1),
    },
    { keys: "Enter", does: "open the chosen panel" },
    {
      keys: "/",
      does: "find controls of all panels",
      on: "/",
      run: () => (finder?.focus(), finder?.select()),
    },
    {
      keys: "n",
      does: "a new panel, from blank or like another one",
      on: "n",
      run: make,
    },
    {
      keys: "x",
      does: "choose the panel, to rename, archive or delete it",
      on: "x",
      run: () => {
        const id = (
          document.activeElement as HTMLElement | null
        )?.closest<HTMLElement>("tr[data-id]")?.dataset["id"];
        if (id) shelf.toggle(id);
      },
    },
    {
      keys: "i",
      does: "import files",
      on: "i",
      run: () => importer?.choose(),
    },
  ]);
</script>

{#snippet templates()}
  <p class="small soft">
    A spreadsheet becomes a panel, too: a row for each control, with columns
    Section, Control, Printed and Sets. Begin from the
    <a download href={exportURL("/templates/controls.xlsx")}>workbook</a> or the
    <a download href={exportURL("/templates/controls.csv")}>CSV</a> with examples.
  </p>
{/snippet}

<div class="page">
  <div class="bar">
    <h1>Panels</h1>
    <div class="end bar">
      <Search
        id="find-controls"
        bind:ref={finder}
        size="sm"
        placeholder="Find a control: name, module, quantity"
        labelText="Find a control by name, module or quantity"
        bind:value={find}
      />
      {#if desk?.panels.some((p) => p.archived)}
        <select
          class="which"
          aria-label="Shown"
          bind:value={which}
          onchange={shelf.clear}
        >
          <option value="used">In use</option>
          <option value="archived">Archived</option>
        </select>
      {/if}
      <Button size="small" onclick={make}>New panel</Button>
      <ImportFile bind:this={importer} />
    </div>
  </div>
  {#if making}
    <form
      class="make"
      onsubmit={(e) => {
        e.preventDefault();
        void create();
      }}
    >
      <TextInput
        id="new-panel-name"
        bind:ref={nameField}
        size="sm"
        labelText="Name of the instrument"
        bind:value={name}
      />
      <label
        >Begin with <select bind:value={like}>
          {#each words.starts as x (x.id)}<option value={`+${x.id}`}
              >{x.label}</option
            >{/each}
          {#each desk?.panels ?? [] as p (p.id)}<option value={p.id}
              >a copy of {p.name}</option
            >{/each}
        </select></label
      >
      {#if start}<label
          >Its knobs are printed <input
            id="new-panel-usual"
            class="num"
            placeholder="as is usual there"
            bind:value={usual}
          /></label
        >{/if}
      <Button size="small" type="submit" disabled={!name.trim()}>Begin</Button>
      <button type="button" class="linkish" onclick={() => (making = false)}
        >leave it</button
      >
      {#if start}<p class="small soft wide">{start.summary}</p>{/if}
      <div class="wide">{@render templates()}</div>
    </form>
  {/if}
  {#if desk && desk.drafts.length > 0 && !found}
    <p class="drafts">
      In the workshop:
      {#each desk.drafts as d (d.id)}
        <a
          {@attach rows.at(`d-${d.id}`)}
          href={`/panels/${part(d.id)}/workshop`}>{d.name || d.id}</a
        >
        <span class="soft small"
          >{d.base ? `draft on revision ${d.base}` : "not saved yet"}</span
        >
      {/each}
    </p>
  {/if}
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
                  {@attach rows.at(`f-${f.panel}-${f.control}`)}
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
      There is no panel yet. Start a new one, import a file by the button, or
      drop it here; or open the sample from the <a href="/">desk</a>.
    </p>
    {@render templates()}
  {:else}
    <ShelfBar
      {shelf}
      name={(id) => byId(id)?.name ?? id}
      archived={(id) => !!byId(id)?.archived}
      copy={(id) => {
        like = id;
        name = `${byId(id)?.name ?? ""} 2`;
        shelf.clear();
        make();
      }}
    />
    <table class="lines panels">
      <thead>
        <tr
          ><th class="box"><span class="visually-hidden">Chosen</span></th><th
            >Name</th
          ><th class="right">Controls</th><th class="right">Modules</th><th
            >Memory</th
          ><th class="right">Revision</th><th>What it is</th></tr
        >
      </thead>
      <tbody>
        {#each shown as p (p.id)}
          <tr data-id={p.id} class:picked={shelf.chosen.has(p.id)}>
            <td class="box"
              ><input
                type="checkbox"
                tabindex="-1"
                aria-label={`Choose ${p.name || p.id}`}
                checked={shelf.chosen.has(p.id)}
                onchange={() => shelf.toggle(p.id)}
              /></td
            >
            <td
              ><a
                {@attach rows.at(`p-${p.id}`)}
                href={p.fault
                  ? `/panels/${part(p.id)}/workshop`
                  : `/panels/${part(p.id)}`}>{p.name || p.id}</a
              >{#if p.sample}<span class="soft small sample">sample</span
                >{/if}</td
            >
            <td class="num right">{p.controls}</td>
            <td class="num right">{p.modules}</td>
            <td>{p.memory ? "yes" : "none"}</td>
            <td class="num right">{p.revision}</td>
            <td class="small"
              >{#if p.fault}<span class="red">{p.fault}</span
                >{:else}{p.summary}{/if}</td
            >
          </tr>
        {:else}
          <tr
            ><td colspan="7"
              >{which === "archived"
                ? "Nothing is archived."
                : "Every panel is archived."}</td
            ></tr
          >
        {/each}
      </tbody>
    </table>
  {/if}
</div>

<style>
  .bar :global(.bx--search) {
    width: min(20rem, 100%);
  }
  table {
    margin-top: 1rem;
  }
  .make {
    display: flex;
    flex-wrap: wrap;
    align-items: end;
    gap: 0.5rem 1rem;
    margin-top: 0.75rem;
  }
  .make :global(.bx--form-item) {
    flex: 0 1 20rem;
  }
  .make label input {
    padding: 0 0.5rem;
    width: 12rem;
  }
  .make label input::placeholder {
    color: var(--ink-3);
    opacity: 1;
    font-style: italic;
    font-family: var(--sans);
  }
  .make .wide {
    flex: 1 1 100%;
    margin: 0;
  }
  .make .wide :global(p) {
    margin: 0;
  }
  .make label {
    font-size: 0.75rem;
    color: var(--ink-2);
  }
  .make select,
  .make label input {
    display: block;
    box-sizing: border-box;
    font: inherit;
    font-size: 0.875rem;
    height: 2rem;
    color: var(--ink);
    background: var(--sheet);
    border: 0;
    border-bottom: 1px solid var(--ink-3);
  }
  .drafts {
    display: flex;
    flex-wrap: wrap;
    gap: 0.25rem 0.75rem;
    margin-top: 0.75rem;
  }
  .right {
    text-align: right;
  }
  .box {
    width: 1.75rem;
  }
  .sample {
    margin-left: 0.5rem;
  }
  .picked td {
    background: var(--chosen);
  }
  .which {
    font: inherit;
    font-size: 0.875rem;
    height: 2rem;
    color: var(--ink);
    background: var(--sheet);
    border: 0;
    border-bottom: 1px solid var(--ink-3);
  }
  @media (max-width: 48rem) {
    .panels :is(th, td):is(:nth-child(4), :nth-child(5), :nth-child(6)) {
      display: none;
    }
  }
</style>
