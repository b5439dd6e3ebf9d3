<script lang="ts">
  import {
    Button,
    Select,
    SelectItem,
    TextArea,
    TextInput,
    Toggle,
  } from "carbon-components-svelte";
  import { flushSync, tick } from "svelte";
  import { app, plain, pressing, typing } from "../lib/app.svelte";
  import { ask, exportURL, part, Refusal } from "../lib/api";
  import { load } from "../lib/load.svelte";
  import { route } from "../lib/route.svelte";
  import {
    steps,
    type Opened,
    type PatchLine,
    type PatchRow,
    type PatchView,
  } from "../lib/types";
  import PasteNotes from "../parts/PasteNotes.svelte";
  import ClockPointer from "../parts/ClockPointer.svelte";

  let { id }: { id: string } = $props();
  let view = $state<PatchView | null>(null);
  let missing = $state("");
  let all = $state(false);
  let target = $state("");
  let layer = $state("");

  // the reading that is being typed
  let editing = $state(false);
  let typed = $state("");
  let wrong = $state("");
  let preview = $state<PatchLine | null>(null);

  // the head
  let head = $state(false);
  let name = $state("");
  let kind = $state("");
  let tempo = $state("");
  let tags = $state("");
  let notes = $state("");
  let pasting = $state(false);

  function take(v: PatchView) {
    view = v;
    missing = "";
    app.pending = v.pending;
    if (!v.layers.includes(layer)) layer = v.layers[0] ?? "";
    if (!v.targets.some((t) => t.id === target))
      target = v.targets[0]?.id ?? "";
    document.title = `${v.name} - Glossator`;
  }
  load<PatchView>(
    () => `/patches/${part(id)}`,
    take,
    (detail) => (missing = detail),
  );
  $effect(() => {
    app.keys = [
      { keys: "↑ ↓", does: "move through the readings" },
      { keys: "0-9 + - ~", does: "type another reading" },
      {
        keys: "Enter",
        does: "open the reading; Enter again sets it, Esc leaves it",
      },
      { keys: "← →", does: "a step down or up" },
      { keys: "Delete", does: "back to init" },
      { keys: "a", does: "all readings, or only those that differ from init" },
      { keys: "e", does: "name, kind, tempo, tags and notes" },
      { keys: "p", does: "paste notes" },
      { keys: "c", does: "duplicate the patch" },
      { keys: "o", does: "open the sheet on the chosen target" },
      { keys: "Esc", does: "back to the patches" },
    ];
  });

  const lines = $derived(
    view?.layerViews.find((l) => l.id === layer)?.lines ?? [],
  );
  const cables = $derived(
    view?.layerViews.find((l) => l.id === layer)?.cables ?? [],
  );
  const shown = $derived(
    all ? lines : lines.filter((l) => !l.atInit || l.control === route.line),
  );
  const chosen = $derived(
    shown.find((l) => l.control === route.line) ?? shown[0],
  );
  const base = (l: PatchLine) =>
    `/patches/${part(id)}/layers/${part(layer)}/readings/${part(l.control)}`;

  async function choose(l: PatchLine | undefined) {
    if (!l) return;
    route.choose(l.control);
    await tick();
    const row = document.getElementById(`r-${l.control}`);
    row?.scrollIntoView({ block: "nearest" });
    row?.focus({ preventScroll: true });
  }
  function close() {
    editing = false;
    wrong = "";
    preview = null;
  }
  function edit(empty = false) {
    if (!chosen) return;
    route.choose(chosen.control);
    typed = empty ? "" : chosen.reading;
    wrong = "";
    preview = null;
    editing = true;
    flushSync();
    const field = document.querySelector<HTMLInputElement>("#typed");
    field?.focus();
    if (!empty) field?.select();
  }
  let asked = 0;
  async function tryOut() {
    const l = chosen;
    if (!l || !typed.trim()) return;
    const n = ++asked;
    try {
      const p = await ask<PatchLine>(
        "GET",
        `${base(l)}/try?text=${encodeURIComponent(typed)}`,
      );
      if (n === asked) [preview, wrong] = [p, ""];
    } catch (e) {
      if (n === asked && e instanceof Refusal)
        [preview, wrong] = [null, e.problem.detail];
    }
  }
  async function put(
    l: PatchLine | undefined,
    method: string,
    path: string,
    body?: unknown,
  ) {
    if (!l) return;
    try {
      take(await ask<PatchView>(method, base(l) + path, body));
      close();
      const now = lines.find((x) => x.control === l.control);
      app.say(
        `${l.label}: ${now?.reading ?? ""}`,
        now?.meaning ? `It means ${now.meaning}.` : "",
      );
      await choose(now);
    } catch (e) {
      if (e instanceof Refusal && e.problem.status === 422 && editing)
        wrong = e.problem.detail;
      else app.fail(e);
    }
  }
  function openHead() {
    if (!view) return;
    [name, kind, tempo, tags, notes] = [
      view.name,
      view.kind,
      view.tempo ? String(view.tempo) : "",
      view.tags.join(", "),
      view.notes,
    ];
    head = true;
    void tick().then(() =>
      document.querySelector<HTMLInputElement>("#head-name")?.focus(),
    );
  }
  async function saveHead() {
    try {
      take(
        await ask<PatchView>("PUT", `/patches/${part(id)}`, {
          name,
          kind,
          tempo: Number(tempo) || 0,
          tags: tags
            .split(",")
            .map((t) => t.trim())
            .filter(Boolean),
          notes,
        }),
      );
      head = false;
      app.say("Changed", view?.name);
    } catch (e) {
      app.fail(e);
    }
  }
  async function copy() {
    try {
      const row = await ask<PatchRow>("POST", `/patches/${part(id)}/copy`);
      app.say("Duplicated", row.name);
      route.go(`/patches/${part(row.id)}`);
    } catch (e) {
      app.fail(e);
    }
  }
  async function translate() {
    try {
      const s = await ask<Opened>("POST", "/sheets", {
        patch: id,
        target,
        layer,
      });
      route.go(`/sheets/${s.id}`);
    } catch (e) {
      app.fail(e);
    }
  }
  async function remove() {
    try {
      await ask("DELETE", `/patches/${part(id)}`);
      app.say("Deleted", `${view?.name ?? id}; undo brings it back.`);
      app.changed++;
      route.go("/patches");
    } catch (e) {
      app.fail(e);
    }
  }
  function keydown(e: KeyboardEvent) {
    if (typing(e) || !plain(e) || app.help || pressing(e)) return;
    const i = shown.findIndex((l) => l.control === chosen?.control);
    if (e.key === "ArrowDown")
      void choose(shown[Math.min(shown.length - 1, i + 1)]);
    else if (e.key === "ArrowUp") void choose(shown[Math.max(0, i - 1)]);
    else if (e.key === "ArrowRight")
      void put(chosen, "POST", "/step", { by: 1 });
    else if (e.key === "ArrowLeft")
      void put(chosen, "POST", "/step", { by: -1 });
    else if (e.key === "Delete") void put(chosen, "DELETE", "");
    else if (e.key === "Enter") edit();
    else if (/^[0-9+\-~.]$/.test(e.key)) {
      edit(true); // the key itself goes into the field
      return;
    } else if (e.key === "a") all = !all;
    else if (e.key === "e") openHead();
    else if (e.key === "p") pasting = true;
    else if (e.key === "c") void copy();
    else if (e.key === "o" && target) void translate();
    else if (e.key === "Escape") {
      if (editing || head || pasting) {
        close();
        head = pasting = false;
      } else route.go("/patches");
    } else return;
    e.preventDefault();
  }
</script>

<svelte:window onkeydown={keydown} />

<div class="page">
  {#if missing}
    <h1>No such patch</h1>
    <p>{missing} <a href="/patches">All patches</a></p>
  {:else if !view}
    <p class="soft" role="status">Loading</p>
  {:else}
    <div class="bar">
      <h1>{view.name}</h1>
      <span
        >{view.kind} on
        <a href={`/panels/${part(view.panel)}`}>{view.panelName}</a
        >{#if view.tempo}, <span class="num">{view.tempo}</span> a minute{/if}</span
      >
      <span class="soft small">{view.tags.join(", ")}</span>
      <div class="end bar">
        <Select labelText="Target" hideLabel size="sm" bind:selected={target}>
          {#each view.targets as t (t.id)}
            <SelectItem
              value={t.id}
              text={t.id === view.panel ? `${t.name} (its own)` : t.name}
            />
          {/each}
        </Select>
        <Button size="small" disabled={!target} on:click={translate}
          >Open the sheet</Button
        >
        <a download href={exportURL(`/patches/${part(id)}/export`)}
          >Export JSON</a
        >
        <button class="linkish" onclick={openHead}>Edit head</button>
        <button class="linkish" onclick={() => (pasting = true)}
          >Paste notes</button
        >
        <button class="linkish" onclick={copy}>Duplicate</button>
        <button class="linkish" onclick={remove}>Delete</button>
      </div>
    </div>
    {#if pasting}
      <PasteNotes
        path={`/patches/${part(id)}/layers/${part(layer)}`}
        took={(v, n) => {
          take(v);
          pasting = false;
          app.say(`${n} readings taken`, "Undo takes them away together.");
        }}
        close={() => (pasting = false)}
      />
    {/if}
    {#if head}
      <form
        class="head"
        onsubmit={(e) => {
          e.preventDefault();
          void saveHead();
        }}
      >
        <TextInput
          id="head-name"
          size="sm"
          labelText="Name"
          bind:value={name}
        />
        <Select size="sm" labelText="Kind" bind:selected={kind}>
          {#each ["bass", "lead", "pad", "pluck", "other"] as k (k)}<SelectItem
              value={k}
              text={k}
            />{/each}
        </Select>
        <TextInput
          size="sm"
          labelText="Tempo, quarters a minute"
          bind:value={tempo}
        />
        <TextInput size="sm" labelText="Tags, by commas" bind:value={tags} />
        <div class="wide">
          <TextArea labelText="Notes" rows={3} bind:value={notes} />
        </div>
        <div class="bar">
          <Button size="small" type="submit">Save</Button>
          <button type="button" class="linkish" onclick={() => (head = false)}
            >leave it</button
          >
        </div>
      </form>
    {:else if view.notes}<p class="reason notes">{view.notes}</p>{/if}
    <div class="bar">
      {#if view.layers.length > 1}
        <Select labelText="Layer" size="sm" bind:selected={layer}>
          {#each view.layerViews as l (l.id)}<SelectItem
              value={l.id}
              text={l.label || l.id}
            />{/each}
        </Select>
      {/if}
      <Toggle
        size="sm"
        labelText="Readings"
        hideLabel
        labelA="only what differs from init"
        labelB="all readings"
        bind:toggled={all}
      />
      <span class="soft small end"
        ><kbd>Enter</kbd> types a reading, <kbd>←</kbd> <kbd>→</kbd> step it,
        <kbd>Delete</kbd> puts it to init</span
      >
    </div>
    <table class="lines" role="grid" aria-label="Readings">
      <thead>
        <tr
          ><th>Step</th><th>Section</th><th>Control</th><th>Reading</th><th
            >Meaning</th
          ><th>k = 2</th><th>Remark</th></tr
        >
      </thead>
      <tbody>
        {#each shown as l, i (l.control)}
          <tr
            id={`r-${l.control}`}
            class="open"
            tabindex={l.control === chosen?.control ? 0 : -1}
            aria-selected={l.control === chosen?.control}
            onclick={() => {
              if (l.control !== chosen?.control) close();
              if (!editing) void choose(l);
            }}
            ondblclick={() => edit()}
          >
            <td class="small soft"
              >{shown[i - 1]?.step !== l.step ? steps[l.step] : ""}</td
            >
            <td>{shown[i - 1]?.section !== l.section ? l.section : ""}</td>
            <td>{l.label}</td>
            {#if editing && l.control === chosen?.control}
              <td colspan="4">
                <form
                  class="type"
                  onsubmit={(e) => {
                    e.preventDefault();
                    void put(l, "PUT", "", { reading: typed });
                  }}
                >
                  <input
                    id="typed"
                    class="num"
                    aria-label={`${l.section} ${l.label}`}
                    aria-invalid={!!wrong}
                    aria-describedby="typed-says"
                    list={l.entries.length ? "entries" : undefined}
                    autocomplete="off"
                    spellcheck="false"
                    bind:value={typed}
                    oninput={tryOut}
                    onkeydown={(e) => {
                      if (e.key !== "Escape") return;
                      e.stopPropagation();
                      close();
                      void choose(l);
                    }}
                  />
                  {#if l.entries.length}
                    <datalist id="entries"
                      >{#each l.entries as x (x)}<option value={x}
                        ></option>{/each}</datalist
                    >
                  {/if}
                  <span id="typed-says" class="small" aria-live="polite">
                    {#if wrong}<span class="red">{wrong}</span>
                    {:else if preview}<span class="num"
                        >{preview.meaning || "–"} {preview.tol}</span
                      > <span class="reason">{preview.idle}</span>
                    {:else}<span class="soft">{l.expects}; ~ for by eye</span
                      >{/if}
                  </span>
                </form>
              </td>
            {:else}
              <td class="num" class:soft={l.atInit}
                ><ClockPointer reading={l.reading} /> {l.reading}</td
              >
              <td class="num">{l.meaning || "–"}</td>
              <td class="num soft">{l.tol}</td>
              <td class="reason small">{l.idle}</td>
            {/if}
          </tr>
        {:else}
          <tr
            ><td colspan="7"
              >Everything stands at init. <button
                class="linkish"
                onclick={() => (all = true)}>Show all readings</button
              ></td
            ></tr
          >
        {/each}
      </tbody>
    </table>
    {#if cables.length > 0}
      <h2 class="sub">Cables</h2>
      <ul>
        {#each cables as c (c.to)}<li class="num">
            {c.from} into {c.to}
          </li>{/each}
      </ul>
    {/if}
    {#if view.phrase}
      <h2 class="sub">Phrase: {view.phrase.name || "unnamed"}</h2>
      <p class="num phrase">
        {#each view.phrase.notes as n, i (i)}<span
            >{n.at} {n.note} for {n.for} at {n.velocity}</span
          >{/each}
      </p>
    {/if}
    <p class="soft small">
      Cables, layers and phrases are edited in the file for now: export, edit,
      import.
    </p>
  {/if}
</div>

<style>
  .notes {
    max-width: 50rem;
    margin: 0.5rem 0 1rem;
    font-size: 0.9375rem;
    line-height: 1.375rem;
  }
  .head {
    display: grid;
    grid-template-columns: 2fr 1fr 1fr 2fr;
    gap: 0.5rem 1rem;
    margin: 0.75rem 0 1rem;
    padding: 0.75rem 1rem 1rem;
    background: var(--sheet);
    border: 1px solid var(--rule);
  }
  .wide {
    grid-column: 1 / -1;
  }
  .type {
    display: flex;
    flex-wrap: wrap;
    gap: 0 0.75rem;
    align-items: baseline;
  }
  .type input {
    font-size: 0.875rem;
    width: 11rem;
    padding: 0.0625rem 0.375rem;
    color: var(--ink);
    background: var(--sheet);
    border: 0;
    border-bottom: 2px solid var(--ink);
  }
  .type input[aria-invalid="true"] {
    border-bottom-color: var(--rubric);
  }
  .sub {
    margin: 1.25rem 0 0.25rem;
  }
  .phrase {
    display: flex;
    flex-wrap: wrap;
    gap: 0.25rem 1.5rem;
    font-size: 0.8125rem;
  }
  .bar :global(.bx--form-item) {
    flex: 0 0 auto;
  }
  tr {
    scroll-margin: 4rem 0 2rem;
  }
</style>
