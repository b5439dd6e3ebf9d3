<script lang="ts">
  import {
    Button,
    Search,
    Select,
    SelectItem,
    TextInput,
  } from "carbon-components-svelte";
  import { tick } from "svelte";
  import { part } from "../lib/api";
  import { app } from "../lib/app.svelte";
  import * as patches from "../lib/calls/patches";
  import { keys } from "../lib/keys.svelte";
  import { load } from "../lib/load.svelte";
  import { Places } from "../lib/places";
  import { route } from "../lib/route.svelte";
  import type { PatchList } from "../lib/types";
  import { words } from "../lib/words";
  import * as shelves from "../lib/calls/shelf";
  import { Shelf } from "../lib/shelf.svelte";
  import ImportFile from "../parts/ImportFile.svelte";
  import ShelfBar from "../parts/ShelfBar.svelte";

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

  // what of them is shown: all that are in use, those of a set in its order, or what is archived
  const shelf = new Shelf("patch");
  let which = $state("all");
  const sets = $derived(list?.sets ?? []);
  const set = $derived(sets.find((x) => `set-${x.id}` === which));
  $effect(() => {
    if (list && which.startsWith("set-") && !set) which = "all";
  });
  const shown = $derived.by(() => {
    const all = list?.patches ?? [];
    if (set)
      return set.patches.flatMap((id) => all.find((p) => p.id === id) ?? []);
    return all.filter((p) => !!p.archived === (which === "archived"));
  });
  const byId = (id: string) => list?.patches.find((p) => p.id === id);
  const nameOf = (id: string) => byId(id)?.name ?? id;
  const putSet = (change: Partial<NonNullable<typeof set>>) =>
    app.attempt(async () => {
      if (!set) return;
      await shelves.put({ ...set, ...change });
      app.changed++;
    });
  /** Moves a patch up or down in the order of the set. */
  async function shift(id: string, by: number) {
    if (!set) return;
    const ids = shown.map((p) => p.id);
    const at = ids.indexOf(id);
    const to = at + by;
    if (at < 0 || to < 0 || to >= ids.length) return;
    ids.splice(at, 1);
    ids.splice(to, 0, id);
    await putSet({ patches: ids });
    await tick();
    setTimeout(() => rows.show(id), 60);
  }
  let setName = $state("");
  let naming = $state<"" | "new" | "rename">("");
  let setField = $state<HTMLInputElement | null>(null);
  function nameSet(how: "new" | "rename") {
    naming = how;
    setName = how === "rename" ? (set?.name ?? "") : "";
    void tick().then(() => (setField?.focus(), setField?.select()));
  }
  const keepSet = () =>
    app.attempt(async () => {
      const name = setName.trim();
      if (naming === "rename") await putSet({ name });
      else {
        const s = await shelves.begin(name, [...shelf.chosen]);
        shelf.clear();
        list = await patches.list(find.trim());
        app.pending = list.pending;
        which = `set-${s.id}`;
        app.say("Set begun", `${s.name}; its order is yours.`);
      }
      naming = "";
    });
  const into = (id: string) =>
    app.attempt(async () => {
      if (id === "new") {
        nameSet("new");
        return;
      }
      const s = sets.find((x) => String(x.id) === id);
      if (!s) return;
      await shelves.put({
        ...s,
        patches: [...new Set([...s.patches, ...shelf.chosen])],
      });
      app.say("Put into the set", s.name);
      shelf.clear();
      app.changed++;
    });
  const dropSet = () =>
    app.attempt(async () => {
      if (!set) return;
      await shelves.drop(set.id);
      app.say(
        "Set deleted",
        `${set.name}; its patches stay. Undo brings it back.`,
      );
      app.changed++;
    });
  const chosenRow = () =>
    (document.activeElement as HTMLElement | null)?.closest<HTMLElement>(
      "tr[data-id]",
    )?.dataset["id"];
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
      keys: "x",
      does: "choose the patch, to rename, archive or delete it, or to put it into a set",
      on: "x",
      run: () => {
        const id = chosenRow();
        if (id) shelf.toggle(id);
      },
    },
    {
      keys: "[ ]",
      does: "up or down in the order of the set",
      on: ["[", "]"],
      while: () => !!set,
      run: (e) => void shift(chosenRow() ?? "", e.key === "]" ? 1 : -1),
    },
    {
      keys: "i",
      does: "import files",
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
      {#if sets.length > 0 || list?.patches.some((p) => p.archived)}
        <Select
          size="sm"
          labelText="Shown"
          hideLabel
          bind:selected={which}
          onchange={shelf.clear}
        >
          <SelectItem value="all" text="All in use" />
          {#each sets as x (x.id)}<SelectItem
              value={`set-${x.id}`}
              text={`Set: ${x.name}`}
            />{/each}
          <SelectItem value="archived" text="Archived" />
        </Select>
      {/if}
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
      <ImportFile bind:this={importer} />
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
  {#if set && !naming}
    <p class="bar small set">
      <span>{shown.length} in this order</span>
      <button class="linkish" onclick={() => nameSet("rename")}
        >Rename the set</button
      >
      <button class="linkish" onclick={dropSet}>Delete the set</button>
    </p>
  {/if}
  {#if naming}
    <form
      class="new bar"
      onsubmit={(e) => {
        e.preventDefault();
        void keepSet();
      }}
    >
      <TextInput
        size="sm"
        labelText="Name of the set"
        bind:ref={setField}
        bind:value={setName}
      />
      <Button size="small" type="submit" disabled={!setName.trim()}
        >{naming === "new" ? "Begin the set" : "Rename"}</Button
      >
      <button type="button" class="linkish" onclick={() => (naming = "")}
        >leave it</button
      >
    </form>
  {/if}
  <ShelfBar
    {shelf}
    name={nameOf}
    archived={(id) => !!byId(id)?.archived}
    copy={(id) =>
      app.attempt(async () => {
        const row = await patches.copy(id);
        app.say("Duplicated", row.name);
        shelf.clear();
        app.changed++;
      })}
  >
    {#snippet more()}
      <label class="into"
        >Put into <select
          onchange={(e) => {
            const to = e.currentTarget.value;
            e.currentTarget.value = "";
            void into(to);
          }}
        >
          <option value="">a set</option>
          {#each sets as x (x.id)}<option value={String(x.id)}>{x.name}</option
            >{/each}
          <option value="new">a new set</option>
        </select></label
      >
      {#if set}<button
          onclick={() =>
            void putSet({
              patches: set.patches.filter((id) => !shelf.chosen.has(id)),
            }).then(shelf.clear)}>Take out of the set</button
        >{/if}
    {/snippet}
  </ShelfBar>
  {#if !list}
    <p class="soft" role="status">Loading</p>
  {:else if list.all === 0}
    <p>
      There is no patch yet. Import a file by the button, or drop it here; or
      open the sample from the <a href="/">desk</a>.
    </p>
  {:else if shown.length === 0 && !find.trim()}
    <p>
      {which === "archived"
        ? "Nothing is archived."
        : set
          ? "Nothing is in this set. Choose patches by x or the boxes before them, and put them into it."
          : "Every patch is archived."}
      <button class="linkish" onclick={() => (which = "all")}>All in use</button
      >
    </p>
  {:else if shown.length === 0}
    <p>No patch has “{find}” in its name, kind, panel, tags or notes.</p>
  {:else}
    <table class="lines">
      <thead>
        <tr
          ><th class="box"><span class="visually-hidden">Chosen</span></th><th
            >Name</th
          ><th>Kind</th><th>Panel</th><th class="right">Tempo</th><th
            class="right">Readings</th
          ><th>Tags</th><th>Notes</th>{#if set}<th>Order</th>{/if}</tr
        >
      </thead>
      <tbody>
        {#each shown as p (p.id)}
          <tr data-id={p.id} class:picked={shelf.chosen.has(p.id)}>
            <td class="box"
              ><input
                type="checkbox"
                tabindex="-1"
                aria-label={`Choose ${p.name}`}
                checked={shelf.chosen.has(p.id)}
                onchange={() => shelf.toggle(p.id)}
              /></td
            >
            <td
              ><a {@attach rows.at(p.id)} href={`/patches/${part(p.id)}`}
                >{p.name}</a
              >{#if p.sample}<span class="soft small sample">sample</span
                >{/if}</td
            >
            <td>{p.kind}</td>
            <td><a href={`/panels/${part(p.panel)}`}>{p.panelName}</a></td>
            <td class="num right">{p.tempo || "–"}</td>
            <td class="num right">{p.changed}</td>
            <td class="small">{p.tags.join(", ")}</td>
            <td class="small notes"><span>{p.notes}</span></td>
            {#if set}<td class="order"
                ><button
                  class="linkish"
                  aria-label={`${p.name} up`}
                  onclick={() => void shift(p.id, -1)}>up</button
                >
                <button
                  class="linkish"
                  aria-label={`${p.name} down`}
                  onclick={() => void shift(p.id, 1)}>down</button
                ></td
              >{/if}
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
  .box {
    width: 1.75rem;
  }
  .box input,
  .order button {
    vertical-align: middle;
  }
  .sample {
    margin-left: 0.5rem;
  }
  .picked td {
    background: var(--chosen);
  }
  .into {
    font-size: 0.8125rem;
  }
  .into select {
    font: inherit;
    color: var(--ink);
    background: var(--sheet);
    border: 1px solid var(--ink-3);
    min-height: 1.75rem;
  }
  .set {
    margin: 0.75rem 0 0;
    gap: 1rem;
  }
  .bar :global(.bx--select) {
    width: 12rem;
  }
  @media (max-width: 48rem) {
    table
      :is(th, td):is(
        :nth-child(3),
        :nth-child(5),
        :nth-child(6),
        :nth-child(7),
        :nth-child(8)
      ) {
      display: none;
    }
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
