<script lang="ts">
  import { tick } from "svelte";
  import { app, typing } from "../lib/app.svelte";
  import { pairsOf, pairsText } from "../lib/forms";
  import { groups } from "../lib/groups";
  import { keys } from "../lib/keys.svelte";
  import { route } from "../lib/route.svelte";
  import type { Control } from "../lib/types";
  import { WorkshopState } from "../lib/workshop.svelte";
  import ControlForm from "../parts/workshop/ControlForm.svelte";
  import DifferenceTable from "../parts/workshop/DifferenceTable.svelte";
  import Field from "../parts/workshop/Field.svelte";
  import ItemForm from "../parts/workshop/ItemForm.svelte";
  import Outline from "../parts/workshop/Outline.svelte";
  import PanelFaults from "../parts/workshop/PanelFaults.svelte";
  import PanelHead from "../parts/workshop/PanelHead.svelte";
  import PanelTable from "../parts/workshop/PanelTable.svelte";
  import PanelHistory from "../parts/workshop/PanelHistory.svelte";
  import WorkshopBar from "../parts/workshop/WorkshopBar.svelte";

  let { id }: { id: string } = $props();
  // svelte-ignore state_referenced_locally
  const s = new WorkshopState(id);
  let outline = $state<Outline | undefined>();
  let table = $state<PanelTable | undefined>();

  $effect(() => {
    app.within = id; // undo here undoes the workshop
    return () => (app.within = "");
  });
  keys([
    {
      on: "Escape",
      typing: true,
      run: (e) => {
        if (!typing(e)) return away();
        (e.target as HTMLElement).blur();
        return void s.choose(s.chosen);
      },
    },
    {
      on: ["ArrowDown", "Enter"],
      typing: true,
      while: () => !!outline?.finding(),
      run: () => void s.choose(s.shown[0]),
    },
    {
      keys: "↑ ↓",
      does: "move through the parts of the panel",
      on: ["ArrowUp", "ArrowDown"],
      run: (e) => s.moveChoice(e.key === "ArrowDown" ? 1 : -1),
    },
    {
      keys: "Enter",
      does: "into the fields of the part; Esc comes back",
      on: "Enter",
      run: s.enter,
    },
    {
      keys: "a",
      does: "put in a building block, or a section of another panel",
      on: "a",
      run: async () => {
        await s.choose(s.all[0], false);
        table?.addBlock();
      },
    },
    {
      keys: "n",
      does: "a new control in the table; elsewhere a new part of the same kind",
      on: "n",
      run: fresh,
    },
    {
      keys: "c",
      does: "a copy of it after this one",
      on: "c",
      run: () => s.add(true),
    },
    { keys: "Delete", does: "take it out", on: "Delete", run: s.remove },
    {
      keys: "[ ]",
      does: "move it up or down",
      on: ["[", "]"],
      run: (e) => s.move(e.key === "]" ? 1 : -1),
    },
    { keys: "/", does: "find a part", on: "/", run: () => outline?.find() },
    { keys: "f", does: "to the next fault", on: "f", run: s.nextFault },
    {
      keys: "s",
      does: "save as the next revision",
      on: "s",
      run: () => void s.saveRevision(),
    },
    {
      keys: "h",
      does: "revisions, and what differs",
      on: "h",
      run: () => (s.history = !s.history),
    },
    { keys: "Esc", does: "back to the panel", on: "Escape", run: away },
  ]);
  /** A new control is written into the table; a new part of another kind gets a form. */
  async function fresh() {
    const { chosen, item } = s;
    const forms = ["table", "head", "sources", "controls"];
    if (!chosen || !forms.includes(chosen.group)) return s.add(false);
    await s.choose(s.all[0], false);
    await tick();
    table?.newLine(item?.section as string | undefined);
  }
  // a new panel begins with what to put in
  let begun = false;
  $effect(() => {
    if (begun || !s.w || !table) return;
    begun = true;
    if (s.w.base === 0 && !route.line) table.addBlock();
  });
  function away() {
    if (s.history || s.changes) s.history = s.changes = false;
    else route.go(s.away);
  }
</script>

<div class="page" data-busy={s.working ? "yes" : "no"}>
  {#if s.missing}
    <h1>No such panel</h1>
    <p>{s.missing} <a href="/panels">All panels</a></p>
  {:else if !s.w}
    <p class="soft" role="status">Loading</p>
  {:else}
    {@const w = s.w}
    {@const chosen = s.chosen}
    <WorkshopBar {s} {w} />
    {#if s.changes}
      <section class="drawer" aria-label="Changes since the last revision">
        {#if w.changes.length === 0}
          <p class="soft">
            {w.base === 0
              ? "A new panel: everything is new."
              : "Nothing differs from the last revision."}
          </p>
        {:else}
          <DifferenceTable differences={w.changes} />
        {/if}
      </section>
    {/if}
    {#if s.history}<PanelHistory {s} base={w.base} />{/if}
    <datalist id="workshop-params"
      >{#each s.params as o (o)}<option value={o}></option>{/each}</datalist
    >
    <div class="desk">
      <Outline bind:this={outline} {s} />
      <div class="editor">
        <PanelFaults {s} {w} />
        {#if chosen}
          {#if chosen.group !== "table"}
            <div class="bar title">
              <h2>{chosen.label || "unnamed"}</h2>
              <span class="soft small">{chosen.under}</span>
              <div class="end bar">
                <button class="linkish" onclick={fresh}
                  >New {["head", "sources", "table"].includes(chosen.group)
                    ? "control"
                    : "one after it"}</button
                >
                {#if s.item}
                  <button class="linkish" onclick={() => s.add(true)}
                    >Copy</button
                  >
                  <button class="linkish" onclick={() => s.move(-1)}>Up</button>
                  <button class="linkish" onclick={() => s.move(1)}>Down</button
                  >
                  <button class="linkish" onclick={s.remove}>Take out</button>
                {/if}
              </div>
            </div>
          {/if}
          {#if chosen.group === "table"}
            <PanelTable bind:this={table} {s} {w} />
          {:else if chosen.group === "head"}
            <PanelHead {s} {w} />
          {:else if chosen.group === "sources"}
            <Field
              id="first-field"
              bind:el={s.first}
              how="area"
              rows={12}
              label="Names that laws use, one a line: name = module or source of play"
              value={pairsText(w.panel.matrix?.sources)}
              wrong={w.faults.find((f) => f.path.startsWith("/matrix/sources"))
                ?.message ?? ""}
              take={(t) => {
                const p = pairsOf(t);
                if (typeof p === "string") return p;
                if (!w.panel.matrix) return "expected a free slot first";
                void s.edit("sources of slots", [
                  { op: "add", path: "/matrix/sources", value: p },
                ]);
                return undefined;
              }}
            />
          {:else if chosen.group === "controls" && s.item}
            {#key s.form}
              <ControlForm
                {s}
                control={s.item as unknown as Control}
                panel={w.panel}
              />
            {/key}
          {:else if s.spec && s.item}
            {#key s.form}
              <ItemForm {s} spec={s.spec} item={s.item} panel={w.panel} />
            {/key}
          {/if}
        {/if}
      </div>
    </div>
    <p class="adders small">
      Add a
      {#each groups as g (g.group)}
        <button class="linkish" onclick={() => s.addOne(g)}>{g.one}</button>
      {/each}
    </p>
  {/if}
</div>

<style>
  .desk {
    display: grid;
    grid-template-columns: 17rem minmax(0, 1fr);
    gap: 1.25rem;
    margin-top: 0.75rem;
  }
  @media (max-width: 48rem) {
    .desk {
      grid-template-columns: minmax(0, 1fr);
    }
  }
  .title {
    margin: 0.75rem 0 0.5rem;
  }
  .title h2 {
    margin: 0;
  }
  .drawer {
    max-height: 18rem;
    overflow: auto;
    border: 1px solid var(--rule);
    background: var(--sheet);
    margin-top: 0.5rem;
    padding: 0.25rem 0.5rem;
  }
  .adders {
    display: flex;
    flex-wrap: wrap;
    gap: 0.25rem 1rem;
    margin-top: 1rem;
  }
</style>
