<script lang="ts">
  import PlayPatch from "../parts/PlayPatch.svelte";
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
    type LayerView,
    type Opened,
    type PatchLine,
    type Cable,
    type PatchRow,
    type PatchView,
  } from "../lib/types";
  import FromMIDI from "../parts/FromMIDI.svelte";
  import PasteNotes from "../parts/PasteNotes.svelte";
  import PatchVersions from "../parts/PatchVersions.svelte";
  import PhraseEditor from "../parts/PhraseEditor.svelte";
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
  let wheel = $state("");
  let pasting = $state(false);
  let drawer = $state<"" | "phrase" | "versions" | "layer" | "cables">("");
  let player = $state<PlayPatch | null>(null);
  let midi = $state<FromMIDI | undefined>();

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
      {
        keys: "Space",
        does: "play or stop; changes are heard as they are made",
      },
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
      { keys: "m", does: "readings from a MIDI file or dump" },
      { keys: "f", does: "the phrase" },
      { keys: "k", does: "cables" },
      { keys: "y", does: "layers: name, transposition, level; add, delete" },
      { keys: "u", does: "the next layer" },
      { keys: "v", does: "versions" },
      { keys: "c", does: "duplicate the patch" },
      { keys: "o", does: "open the sheet on the chosen target" },
      { keys: "b", does: "compare targets: which carries it best" },
      { keys: "Esc", does: "back to the patches" },
    ];
  });

  const lines = $derived(
    view?.layerViews.find((l) => l.id === layer)?.lines ?? [],
  );
  const onLayer = $derived(view?.layerViews.find((l) => l.id === layer));
  const cables = $derived(onLayer?.cables ?? []);
  const pointName = (id: string) =>
    view?.points.find((p) => p.id === id)?.label ?? id;
  const layerName = (l: LayerView) => l.label || `layer ${l.id}`;
  const shown = $derived(
    all ? lines : lines.filter((l) => !l.atInit || l.control === route.line),
  );
  const chosen = $derived(
    shown.find((l) => l.control === route.line) ?? shown[0],
  );
  $effect(() => {
    app.carry = chosen?.meaning
      ? {
          value: chosen.meaning,
          of: `${view?.name ?? ""}: ${chosen.section} ${chosen.label}`,
          tempo: view?.tempo ?? 0,
        }
      : null;
    return () => (app.carry = null);
  });
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
    wheel = view.wheel ? String(Math.round(view.wheel * 100)) : "";
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
          wheel: (Number(wheel) || 0) / 100,
        }),
      );
      head = false;
      app.say("Changed", view?.name);
    } catch (e) {
      app.fail(e);
    }
  }
  // layers and cables
  let from = $state("");
  let to = $state("");
  async function change(
    what: string,
    method: string,
    path: string,
    body?: unknown,
  ): Promise<boolean> {
    try {
      take(await ask<PatchView>(method, `/patches/${part(id)}${path}`, body));
      app.say(what);
      return true;
    } catch (e) {
      app.fail(e);
      return false;
    }
  }
  const layerPath = () => `/layers/${part(layer)}`;
  async function plug() {
    if (!from || !to) return;
    const kept = cables.filter((c) => c.to !== to);
    const done = await change(
      `${pointName(from)} into ${pointName(to)}`,
      "PUT",
      `${layerPath()}/cables`,
      { cables: [...kept, { from, to }] },
    );
    if (done) [from, to] = ["", ""];
    document.getElementById("cable-from")?.focus();
  }
  const unplug = (c: Cable) =>
    change(
      `Took the cable out of ${pointName(c.to)}`,
      "PUT",
      `${layerPath()}/cables`,
      { cables: cables.filter((x) => x.to !== c.to) },
    );
  async function addLayer(like: string) {
    const before = new Set(view?.layers ?? []);
    if (!(await change("Layer added", "POST", "/layers", { label: "", like })))
      return;
    layer = view?.layers.find((l) => !before.has(l)) ?? layer;
  }
  // one after the other: each sends the other fields as the one before has left them
  let settingLayer: Promise<unknown> = Promise.resolve();
  function setLayer(field: "label" | "transpose" | "level", text: string) {
    settingLayer = settingLayer.then(async () => {
      if (!onLayer) return;
      const { label, transpose, level } = onLayer;
      await change("Layer changed", "PUT", layerPath(), {
        label,
        transpose,
        level,
        [field]: text,
      });
    });
  }
  function nextLayer() {
    const all = view?.layers ?? [];
    layer = all[(all.indexOf(layer) + 1) % all.length] ?? layer;
  }
  function show(which: typeof drawer) {
    drawer = drawer === which ? "" : which;
    if (drawer === "cables" || drawer === "layer")
      void tick().then(() =>
        document
          .getElementById(drawer === "cables" ? "cable-from" : "layer-label")
          ?.focus(),
      );
  }
  function closeDrawer() {
    drawer = "";
    void choose(chosen);
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
    if (e.key === "Escape" && typing(e) && drawer && !app.help) {
      e.preventDefault();
      closeDrawer();
      return;
    }
    if (typing(e) || !plain(e) || app.help || pressing(e)) return;
    const i = shown.findIndex((l) => l.control === chosen?.control);
    if (e.key === " ") void player?.toggle();
    else if (e.key === "ArrowDown")
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
    else if (e.key === "m") midi?.choose();
    else if (e.key === "f") show("phrase");
    else if (e.key === "k" && view?.points.length) show("cables");
    else if (e.key === "y") show("layer");
    else if (e.key === "u") nextLayer();
    else if (e.key === "b") route.go(`/patches/${part(id)}/targets`);
    else if (e.key === "v") show("versions");
    else if (e.key === "o" && target) void translate();
    else if (e.key === "Escape") {
      if (editing || head || pasting || drawer) {
        close();
        head = pasting = false;
        drawer = "";
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
      <PlayPatch bind:this={player} {id} version={view} />
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
        <a href={`/patches/${part(id)}/targets`}>Compare targets</a>
        <a download href={exportURL(`/patches/${part(id)}/export`)}
          >Export JSON</a
        >
        <button class="linkish" onclick={openHead}>Edit head</button>
        <button class="linkish" onclick={() => (pasting = true)}
          >Paste notes</button
        >
        <button class="linkish" onclick={() => midi?.choose()}>From MIDI</button
        >
        <button class="linkish" onclick={() => show("phrase")}>Phrase</button>
        <button class="linkish" onclick={() => show("versions")}
          >Versions</button
        >
        <button class="linkish" onclick={copy}>Duplicate</button>
        <button class="linkish" onclick={remove}>Delete</button>
      </div>
    </div>
    {#if view.behind}
      <p class="behind small">
        <span class="red">{view.behind}.</span>
        Set the readings that differ, or go back to that revision in the
        <a href={`/panels/${part(view.panel)}/workshop`}>workshop</a>.
      </p>
    {/if}
    <FromMIDI
      bind:this={midi}
      path={`/patches/${part(id)}/layers/${part(layer)}`}
      now={Object.fromEntries(lines.map((l) => [l.control, l.reading]))}
      took={(v, n) => {
        take(v);
        app.say(`${n} readings taken`, "Undo takes them away together.");
      }}
    />
    {#if drawer === "phrase"}
      <PhraseEditor
        {id}
        phrase={view.phrase ?? null}
        took={take}
        close={closeDrawer}
      />
    {:else if drawer === "versions"}
      <PatchVersions {id} took={take} />
    {:else if drawer === "layer" && onLayer}
      <section class="drawer" aria-label="Layers">
        <div class="fields">
          {#each [["label", "Name of the layer", ""], ["transpose", "Transposition", "-12 st"], ["level", "Level", "-3 dB"]] as const as [field, label, hint] (field)}
            <label
              >{label}
              <input
                id={`layer-${field}`}
                class:num={field !== "label"}
                value={onLayer[field]}
                placeholder={hint}
                onchange={(e) => setLayer(field, e.currentTarget.value)}
              /></label
            >
          {/each}
          <button class="linkish" onclick={() => addLayer(layer)}
            >Add one like this</button
          >
          <button class="linkish" onclick={() => addLayer("")}
            >Add one at init</button
          >
          {#if view.layers.length > 1}<button
              class="linkish"
              onclick={() =>
                change(`${layerName(onLayer)} deleted`, "DELETE", layerPath())}
              >Delete {layerName(onLayer)}</button
            >{/if}
        </div>
      </section>
    {/if}
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
              text={[layerName(l), l.transpose, l.level]
                .filter(Boolean)
                .join(", ")}
            />{/each}
        </Select>
      {/if}
      <button class="linkish" onclick={() => show("layer")}>Layers</button>
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
    {#if view.points.length > 0}
      <h2 class="sub">Cables</h2>
      {#if cables.length > 0}
        <ul class="cables">
          {#each cables as c (c.to)}<li>
              <span class="num">{pointName(c.from)}</span>
              <span class="soft">into</span>
              <span class="num">{pointName(c.to)}</span>
              <button
                class="linkish small"
                aria-label={`take out the cable into ${pointName(c.to)}`}
                onclick={() => unplug(c)}>take out</button
              >
            </li>{/each}
        </ul>
      {/if}
      {#if drawer === "cables"}
        <form
          class="fields drawer"
          onsubmit={(e) => {
            e.preventDefault();
            void plug();
          }}
        >
          <label
            >From
            <select id="cable-from" bind:value={from}>
              <option value=""></option>
              {#each view.points.filter((p) => p.dir === "out") as p (p.id)}<option
                  value={p.id}>{p.label}</option
                >{/each}
            </select></label
          >
          <label
            >into
            <select bind:value={to}>
              <option value=""></option>
              {#each view.points.filter((p) => p.dir === "in") as p (p.id)}<option
                  value={p.id}
                  >{p.label}{cables.some((c) => c.to === p.id)
                    ? " (in place of its cable)"
                    : ""}</option
                >{/each}
            </select></label
          >
          <Button
            size="small"
            kind="tertiary"
            type="submit"
            disabled={!from || !to}>Plug</Button
          >
          <span class="small soft"
            >Turn the volume down before plugging: a cable can jump in level.</span
          >
        </form>
      {:else}
        <p>
          {#if cables.length === 0}<span class="soft"
              >None: every normal is as the panel has it.</span
            >{/if}
          <button class="linkish" onclick={() => show("cables")}
            >Plug a cable</button
          >
        </p>
      {/if}
    {/if}
    {#if drawer !== "phrase"}
      <h2 class="sub">
        Phrase{#if view.phrase}: {view.phrase.name || "unnamed"}{/if}
      </h2>
      <p class="num phrase">
        {#each (view.phrase?.notes ?? []).slice(0, 24) as n, i (i)}<span
            >{n.at}
            {n.note} for {n.for} at {n.velocity}{n.accent
              ? " accented"
              : ""}{n.slide ? " slid" : ""}</span
          >{/each}
        {#if (view.phrase?.notes.length ?? 0) > 24}<span
            >and {(view.phrase?.notes.length ?? 0) - 24} more</span
          >{/if}
        <button class="linkish" onclick={() => show("phrase")}
          >{view.phrase
            ? "Change the line"
            : "Enter a line to try the sound with"}</button
        >
      </p>
    {/if}
    {#if view.midi}
      <p class="small">
        Readings by MIDI:
        <a
          download
          href={exportURL(`/patches/${part(id)}/layers/${part(layer)}/midi`)}
          >as a MIDI file</a
        >,
        <a
          download
          href={exportURL(
            `/patches/${part(id)}/layers/${part(layer)}/midi?form=raw`,
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
  .drawer {
    margin: 0.5rem 0 1rem;
    padding: 0.5rem 1rem 0.75rem;
    background: var(--sheet);
    border: 1px solid var(--rule);
    border-left: 3px solid var(--ink-3);
  }
  .fields {
    display: flex;
    flex-wrap: wrap;
    align-items: end;
    gap: 0.5rem 1rem;
  }
  .fields label {
    font-size: 0.75rem;
    color: var(--ink-2);
  }
  .fields input,
  .fields select {
    display: block;
    font-size: 0.8125rem;
    font-family: var(--sans);
    padding: 0.25rem 0.375rem;
    min-width: 9rem;
    color: var(--ink);
    background: var(--paper);
    border: 0;
    border-bottom: 1px solid var(--ink-3);
  }
  .fields input.num {
    font-family: var(--mono);
  }
  .fields ::placeholder {
    color: var(--ink-3);
    opacity: 1;
    font-style: italic;
  }
  .cables {
    list-style: none;
    margin: 0.25rem 0;
    padding: 0;
  }
  .cables li {
    padding: 0.125rem 0;
  }
  .behind {
    border-left: 3px solid var(--rubric);
    padding: 0.25rem 0.75rem;
    background: var(--sheet);
    max-width: none;
  }
  .notes {
    max-width: 50rem;
    margin: 0.5rem 0 1rem;
    font-size: 0.9375rem;
    line-height: 1.375rem;
  }
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
