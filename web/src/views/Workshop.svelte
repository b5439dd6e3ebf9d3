<script lang="ts">
  import { Button } from "carbon-components-svelte";
  import { tick } from "svelte";
  import { app, plain, pressing, typing } from "../lib/app.svelte";
  import { ask, exportURL, part } from "../lib/api";
  import { load } from "../lib/load.svelte";
  import {
    freeID,
    groupOf,
    groups,
    listOf,
    pairsOf,
    pairsText,
    params,
    placeOf,
    replacing,
    type Group,
    type Item,
  } from "../lib/panel";
  import { route } from "../lib/route.svelte";
  import type {
    Control,
    EditOp,
    Fault,
    PanelRow,
    Vocabulary,
    Workshop,
  } from "../lib/types";
  import ControlForm from "../parts/ControlForm.svelte";
  import DifferenceTable from "../parts/DifferenceTable.svelte";
  import Field from "../parts/Field.svelte";
  import ItemForm from "../parts/ItemForm.svelte";
  import PanelHistory from "../parts/PanelHistory.svelte";

  let { id }: { id: string } = $props();
  let w = $state.raw<Workshop | null>(null);
  let vocabulary = $state.raw<Vocabulary | null>(null);
  let missing = $state("");
  let find = $state("");
  let history = $state(false);
  let changes = $state(false);
  let table = $state<HTMLInputElement | undefined>();

  load<Workshop>(
    () => `/panels/${part(id)}/workshop`,
    take,
    (detail) => (missing = detail),
  );
  ask<Vocabulary>("GET", "/vocabulary")
    .then((v) => (vocabulary = v))
    .catch((e: unknown) => app.fail(e));
  function take(v: Workshop) {
    w = v;
    app.pending = v.pending;
    document.title = `Workshop: ${v.panel.name} - Glossator`;
  }
  $effect(() => {
    app.keys = [
      { keys: "↑ ↓", does: "move through the parts of the panel" },
      { keys: "Enter", does: "into the fields of the part; Esc comes back" },
      { keys: "n", does: "a new part of the same kind after this one" },
      { keys: "c", does: "a copy of it after this one" },
      { keys: "Delete", does: "take it out" },
      { keys: "[ ]", does: "move it up or down" },
      { keys: "/", does: "find a part" },
      { keys: "f", does: "to the next fault" },
      { keys: "s", does: "save as the next revision" },
      { keys: "h", does: "revisions, and what differs" },
      { keys: "Esc", does: "back to the panel" },
    ];
  });

  // the outline: every part of the panel, named in the address as group:id or group:number
  type Row = {
    key: string;
    group: Group;
    n: number;
    label: string;
    sub: string;
    under: string;
    bad: boolean;
  };
  const badPlaces = $derived(
    new Set(
      (w?.faults ?? []).map((f) => {
        const p = placeOf(f.path);
        return `${p.group}:${p.n}`;
      }),
    ),
  );
  const all = $derived.by(() => {
    if (!w) return [];
    const p = w.panel;
    const rows: Row[] = [];
    const seen = new Set<string>(); // a draft may hold an id twice: that is a fault, and shown
    const add = (
      group: Group,
      n: number,
      id: string,
      label: string,
      sub: string,
      under: string,
    ) => {
      const key = `${group}:${id}`;
      rows.push({
        key: seen.has(key) ? `${key}#${n}` : key,
        group,
        n,
        label,
        sub,
        under,
        bad: badPlaces.has(`${group}:${n}`),
      });
      seen.add(key);
    };
    add("head", -1, "head", "Name, kind, dump", "", "Panel");
    p.sections.forEach((s, n) =>
      add("sections", n, s.id, s.label, s.id, "Sections"),
    );
    const known = new Set(p.sections.map((s) => s.id));
    for (const s of [...p.sections, { id: "", label: "no section" }])
      p.controls.forEach((c, n) => {
        if (c.section === s.id || (!s.id && !known.has(c.section)))
          add("controls", n, c.id, c.label, c.id, `Controls: ${s.label}`);
      });
    for (const g of groups) {
      if (g.group === "sections") continue;
      listOf(p, g.group).forEach((x, n) =>
        add(
          g.group,
          n,
          String(x.id ?? x.name ?? n),
          g.label(x, n),
          g.group === "audio" || g.group === "hidden" ? "" : String(x.id ?? ""),
          g.title,
        ),
      );
      if (g.group === "destinations")
        add(
          "sources",
          -1,
          "sources",
          "Sources of slots",
          "",
          "Sources of slots",
        );
    }
    return rows;
  });
  const rows = $derived.by(() => {
    const words = find.trim().toLowerCase().split(/\s+/).filter(Boolean);
    if (!words.length) return all;
    return all.filter((r) => {
      const text = `${r.label} ${r.sub} ${r.under}`.toLowerCase();
      return words.every((x) => text.includes(x));
    });
  });
  const chosen = $derived(all.find((r) => r.key === route.line) ?? all[0]);
  const spec = $derived(chosen ? groupOf(chosen.group) : undefined);
  const item = $derived(
    w && chosen && chosen.n >= 0
      ? listOf(w.panel, chosen.group)[chosen.n]
      : undefined,
  );
  const base = $derived(
    chosen?.group === "controls" ? "/controls" : (spec?.path ?? ""),
  );
  const own = $derived.by(() => {
    if (!w || !chosen || chosen.n < 0) return [];
    const at = `${base}/${chosen.n}`;
    return w.faults
      .filter((f) => f.path === at || f.path.startsWith(at + "/"))
      .map((f) => ({ ...f, path: f.path.slice(at.length) }));
  });

  async function choose(r: Row | undefined, focus = true) {
    if (!r) return;
    route.choose(r.key);
    await tick();
    const row = document.getElementById(`o-${r.key}`);
    row?.scrollIntoView({ block: "nearest" });
    if (focus) row?.focus({ preventScroll: true });
  }
  $effect(() => {
    if (w && route.line)
      document
        .getElementById(`o-${route.line}`)
        ?.scrollIntoView({ block: "nearest" });
  });

  // edits go to the program one after the other
  let busy: Promise<void> = Promise.resolve();
  function post(
    path: string,
    body: unknown,
    after?: () => void,
  ): Promise<void> {
    busy = busy.then(async () => {
      try {
        take(
          await ask<Workshop>(
            "POST",
            `/panels/${part(id)}/workshop${path}`,
            typeof body === "function" ? (body as () => unknown)() : body,
          ),
        );
        after?.();
      } catch (e) {
        app.fail(e);
        app.changed++; // show again what the program has
      }
    });
    return busy;
  }
  /** ops are worked out when their turn comes: on the panel as it is then. */
  const edit = (
    what: string,
    ops: EditOp[] | (() => EditOp[]),
    after?: () => void,
  ) =>
    post(
      "",
      () => ({ what, ops: typeof ops === "function" ? ops() : ops }),
      after,
    );
  function save(what: string, now: unknown) {
    if (!chosen || !item) return;
    const { group, n } = chosen;
    const at = base;
    const id = item.id;
    void edit(`${chosen.label}: ${what}`, () => {
      const list = w ? listOf(w.panel, group) : [];
      const i = id === undefined ? n : list.findIndex((x) => x.id === id);
      return replacing(`${at}/${i}`, list[i], now);
    });
  }
  function rename(to: string) {
    const kind = chosen?.group === "controls" ? "control" : spec?.rename;
    if (!chosen || !item || !kind) return;
    const group = chosen.group;
    void post("/rename", { kind, from: item.id, to }, () => {
      route.choose(`${group}:${to}`);
      // the form is made anew: the one who typed stays in it
      void tick().then(() => {
        if (document.activeElement === document.body) enter();
      });
    });
  }
  function add(copy: boolean) {
    if (!w || !chosen) return;
    const p = w.panel;
    let group = chosen.group;
    if (group === "head" || group === "sources") group = "controls";
    const list = listOf(p, group);
    const g = groupOf(group);
    let now: Item;
    if (copy && item) {
      now = JSON.parse(JSON.stringify(item)) as Item;
      if (now.id) now.id = freeID(list, String(now.id).replace(/\d+$/, ""));
      if (now.label) now.label = `${String(now.label)} (copy)`;
      delete now.midi;
    } else if (g) now = g.fresh(p, freeID(list, g.rename ?? "name"));
    else
      now = {
        id: freeID(list, "control"),
        label: "New control",
        section: item?.section ?? p.sections[0]?.id ?? "",
        face: { kind: "numeric", max: 127, step: 1 },
        init: "0",
      };
    const n =
      group === chosen.group && chosen.n >= 0 ? chosen.n + 1 : list.length;
    const path = group === "controls" ? "/controls" : (g?.path ?? "");
    const ops: EditOp[] = [];
    if ((group === "slots" || group === "destinations") && !p.matrix)
      ops.push({
        op: "add",
        path: "/matrix",
        value: { slots: [], sources: {}, destinations: [] },
      });
    if (list.length === 0) ops.push({ op: "add", path, value: [now] });
    else ops.push({ op: "add", path: `${path}/${n}`, value: now });
    const key = `${group}:${String(now.id ?? now.name ?? n)}`;
    void edit(copy ? `copy of ${chosen.label}` : `new part`, ops, () => {
      find = "";
      void choose(all.find((r) => r.key === key)).then(() => enter());
    });
  }
  function remove() {
    if (!w || !chosen || !item) return;
    const i = rows.findIndex((r) => r.key === chosen.key);
    const next = rows[i + 1] ?? rows[i - 1];
    const at = `${base}/${chosen.n}`;
    const label = chosen.label;
    void edit(
      `take out ${label}`,
      [
        {
          op: "test",
          path: at,
          value: JSON.parse(JSON.stringify(item)) as unknown,
        },
        { op: "remove", path: at },
      ],
      () => {
        app.say(`Took out ${label}`, "Undo brings it back.");
        const stays = all.find((r) => r.key === next?.key) ?? all[0];
        void choose(stays);
      },
    );
  }
  function move(by: number) {
    if (!w || !chosen || !item) return;
    const list = listOf(w.panel, chosen.group);
    // a control moves past the next one of its own section
    let to = chosen.n + by;
    if (chosen.group === "controls")
      while (list[to] && list[to]?.section !== item.section) to += by;
    if (!list[to]) return;
    const key = chosen.key;
    void edit(
      `move ${chosen.label}`,
      [{ op: "move", from: `${base}/${chosen.n}`, path: `${base}/${to}` }],
      () => void choose(all.find((r) => r.key === key)),
    );
  }
  function enter() {
    const f = document.getElementById("first-field");
    f?.focus();
    if (f instanceof HTMLInputElement) f.select();
  }
  async function saveRevision() {
    await busy;
    try {
      const row = await ask<PanelRow>(
        "POST",
        `/panels/${part(id)}/workshop/save`,
      );
      app.say(`Saved as revision ${row.revision}`, row.name);
      app.changed++;
    } catch (e) {
      app.fail(e);
    }
  }
  async function leave() {
    if (!w) return;
    const fresh = w.base === 0;
    try {
      await ask("DELETE", `/panels/${part(id)}/workshop`);
      app.say("Draft taken away", "Undo brings it back.");
      app.changed++;
      route.go(fresh ? "/panels" : `/panels/${part(id)}`);
    } catch (e) {
      app.fail(e);
    }
  }
  async function readTable(files: FileList | null) {
    const file = files?.[0];
    if (!file) return;
    try {
      take(
        await ask<Workshop>(
          "PUT",
          `/panels/${part(id)}/controls.csv?file=${part(file.name)}`,
          await file.text(),
        ),
      );
      app.message = null;
      app.say(
        `${w?.panel.controls.length ?? 0} controls read`,
        "Undo takes the table back.",
      );
    } catch (e) {
      app.fail(e);
    } finally {
      if (table) table.value = "";
    }
  }
  function goFault(f: Fault) {
    const p = placeOf(f.path);
    find = "";
    void tick().then(() =>
      choose(all.find((r) => r.group === p.group && r.n === p.n) ?? all[0]),
    );
  }
  let lastFault = -1;
  function nextFault() {
    const n = w?.faults.length ?? 0;
    if (!n) return app.say("No faults");
    lastFault = (lastFault + 1) % n;
    const f = w?.faults[lastFault];
    if (f) goFault(f);
  }
  function head(name: string, value: unknown, what: string) {
    if (!w) return;
    const was = (w.panel as unknown as Record<string, unknown>)[name];
    if (value === "" || value === undefined)
      void edit(
        what,
        was === undefined ? [] : [{ op: "remove", path: `/${name}` }],
      );
    else void edit(what, [{ op: "add", path: `/${name}`, value }]);
  }
  function keydown(e: KeyboardEvent) {
    if (e.key === "Escape" && typing(e) && !app.help) {
      e.preventDefault();
      (document.activeElement as HTMLElement | null)?.blur();
      void choose(chosen);
      return;
    }
    const inList =
      e.target instanceof HTMLElement && e.target.id === "find-part";
    if (inList && (e.key === "ArrowDown" || e.key === "Enter")) {
      e.preventDefault();
      void choose(rows[0]);
      return;
    }
    if (typing(e) || !plain(e) || app.help) return;
    const onRow =
      e.target instanceof HTMLElement && e.target.id.startsWith("o-");
    if (pressing(e) && !onRow) return;
    const i = rows.findIndex((r) => r.key === chosen?.key);
    if (e.key === "ArrowDown")
      void choose(rows[Math.min(rows.length - 1, i + 1)]);
    else if (e.key === "ArrowUp") void choose(rows[Math.max(0, i - 1)]);
    else if (e.key === "Enter") enter();
    else if (e.key === "n") add(false);
    else if (e.key === "c") add(true);
    else if (e.key === "Delete") remove();
    else if (e.key === "[") move(-1);
    else if (e.key === "]") move(1);
    else if (e.key === "/") document.getElementById("find-part")?.focus();
    else if (e.key === "f") nextFault();
    else if (e.key === "s") void saveRevision();
    else if (e.key === "h") history = !history;
    else if (e.key === "Escape") {
      if (history || changes) history = changes = false;
      else route.go(w?.base === 0 ? "/panels" : `/panels/${part(id)}`);
    } else return;
    e.preventDefault();
  }
  const offers = $derived(w && vocabulary ? params(w.panel, vocabulary) : []);
  const partName = (path: string) => {
    const p = placeOf(path);
    return (
      all.find((r) => r.group === p.group && r.n === p.n)?.label ?? "the panel"
    );
  };
</script>

<svelte:window onkeydown={keydown} />

<div class="page">
  {#if missing}
    <h1>No such panel</h1>
    <p>{missing} <a href="/panels">All panels</a></p>
  {:else if !w || !vocabulary}
    <p class="soft" role="status">Loading</p>
  {:else}
    <div class="bar">
      <h1>{w.panel.name || w.panel.id}</h1>
      <span class="soft small num"
        >{w.base === 0
          ? "new panel, not saved yet"
          : w.draft
            ? `draft on revision ${w.base}`
            : `revision ${w.base}, nothing edited`}</span
      >
      <div class="end bar">
        <button class="linkish" onclick={() => (changes = !changes)}
          >{w.changes.length === 1
            ? "1 change"
            : `${w.changes.length} changes`}</button
        >
        <button class="linkish" onclick={() => (history = !history)}
          >Revisions</button
        >
        <a download href={exportURL(`/panels/${part(id)}/controls.csv`)}
          >Controls as CSV</a
        >
        <button class="linkish" onclick={() => table?.click()}>Read CSV</button>
        <input
          bind:this={table}
          type="file"
          accept=".csv,.tsv,.txt,text/csv"
          class="visually-hidden"
          tabindex="-1"
          aria-label="Controls table"
          onchange={(e) => readTable(e.currentTarget.files)}
        />
        {#if w.draft}<button class="linkish" onclick={leave}
            >Leave the draft</button
          >{/if}
        <Button
          size="small"
          disabled={!w.draft || w.faults.length > 0}
          on:click={saveRevision}>Save as revision {w.base + 1}</Button
        >
      </div>
    </div>
    {#if changes}
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
    {#if history}<PanelHistory {id} base={w.base} took={take} />{/if}
    <datalist id="workshop-params"
      >{#each new Set(offers) as o (o)}<option value={o}
        ></option>{/each}</datalist
    >
    <div class="desk">
      <nav aria-label="Parts of the panel">
        <input
          id="find-part"
          placeholder="Find a part"
          aria-label="Find a part"
          autocomplete="off"
          bind:value={find}
        />
        <div class="outline" role="listbox" aria-label="Parts">
          {#each rows as r, i (r.key)}
            {#if rows[i - 1]?.under !== r.under}<div
                class="under small"
                role="presentation"
              >
                {r.under}
              </div>{/if}
            <div
              id={`o-${r.key}`}
              class="row"
              role="option"
              tabindex={r.key === chosen?.key ? 0 : -1}
              aria-selected={r.key === chosen?.key}
              onclick={() => choose(r)}
              ondblclick={enter}
              onkeydown={() => undefined}
            >
              <span class:red={r.bad}
                >{r.label || "unnamed"}{#if r.bad}<span class="visually-hidden"
                    >, at fault</span
                  >
                  !{/if}</span
              >
              <span class="num small soft">{r.sub}</span>
            </div>
          {:else}
            <p class="soft small">No part fits.</p>
          {/each}
        </div>
      </nav>
      <div class="editor">
        <div class="faults" class:none={w.faults.length === 0}>
          {#if w.faults.length === 0}
            <span class="small">No faults.</span>
            <span class="small soft"
              >{w.panel.controls.length} controls, {w.panel.modules.length} modules</span
            >
          {:else}
            <strong class="small red"
              >{w.faults.length === 1
                ? "1 fault; it stops"
                : `${w.faults.length} faults; they stop`} only the saving</strong
            >
            <ul>
              {#each w.faults.slice(0, 30) as f, i (i)}
                <li class="small">
                  <button class="linkish" onclick={() => goFault(f)}
                    >{partName(f.path)}</button
                  >
                  <span class="num soft">{f.path}</span>
                  {f.message}
                </li>
              {/each}
              {#if w.faults.length > 30}<li class="small soft">
                  and {w.faults.length - 30} more
                </li>{/if}
            </ul>
          {/if}
        </div>
        {#if chosen}
          <div class="bar title">
            <h2>{chosen.label || "unnamed"}</h2>
            <span class="soft small">{chosen.under}</span>
            <div class="end bar">
              <button class="linkish" onclick={() => add(false)}
                >New {chosen.group === "head" || chosen.group === "sources"
                  ? "control"
                  : "one after it"}</button
              >
              {#if item}
                <button class="linkish" onclick={() => add(true)}>Copy</button>
                <button class="linkish" onclick={() => move(-1)}>Up</button>
                <button class="linkish" onclick={() => move(1)}>Down</button>
                <button class="linkish" onclick={remove}>Take out</button>
              {/if}
            </div>
          </div>
          {#if chosen.group === "head"}
            <div class="form">
              <Field
                id="first-field"
                label="Name"
                mono={false}
                value={w.panel.name}
                wrong={w.faults.find((f) => f.path === "/name")?.message ?? ""}
                take={(t) => {
                  head("name", t.trim(), "name");
                  return undefined;
                }}
              />
              <Field
                label="Kind"
                how="choice"
                value={w.panel.kind}
                options={[
                  { value: "instrument", text: "instrument" },
                  { value: "rack", text: "rack of outboard" },
                ]}
                take={(t) => {
                  head("kind", t, "kind");
                  return undefined;
                }}
              />
              <Field
                label="Has memory and an init to start from"
                how="flag"
                value={w.panel.memory ? "yes" : ""}
                take={(t) => {
                  head("memory", t === "yes", "memory");
                  return undefined;
                }}
              />
              <Field
                wide
                how="area"
                mono={false}
                rows={2}
                label="What it is"
                value={w.panel.summary ?? ""}
                take={(t) => {
                  head("summary", t.trim(), "summary");
                  return undefined;
                }}
              />
              <Field
                label="Dump: header after F0, hexadecimal"
                hint="7D 01"
                value={w.panel.dump?.header ?? ""}
                wrong={w.faults.find((f) => f.path.startsWith("/dump"))
                  ?.message ?? ""}
                take={(t) => {
                  head(
                    "dump",
                    t.trim()
                      ? { length: w?.panel.dump?.length ?? 1, header: t.trim() }
                      : undefined,
                    "dump header",
                  );
                  return undefined;
                }}
              />
              <Field
                label="Dump: bytes between header and F7"
                value={w.panel.dump ? String(w.panel.dump.length) : ""}
                take={(t) => {
                  const n = Number(t);
                  if (!w?.panel.dump) return "expected a header first";
                  if (!Number.isInteger(n) || n < 1)
                    return "expected a whole number above 0";
                  head("dump", { ...w.panel.dump, length: n }, "dump length");
                  return undefined;
                }}
              />
            </div>
          {:else if chosen.group === "sources"}
            <Field
              id="first-field"
              how="area"
              rows={12}
              label="Names that laws use, one a line: name = module or source of play"
              value={pairsText(w.panel.matrix?.sources)}
              wrong={w.faults.find((f) => f.path.startsWith("/matrix/sources"))
                ?.message ?? ""}
              take={(t) => {
                const p = pairsOf(t);
                if (typeof p === "string") return p;
                if (!w?.panel.matrix) return "expected a free slot first";
                void edit("sources of slots", [
                  { op: "add", path: "/matrix/sources", value: p },
                ]);
                return undefined;
              }}
            />
          {:else if chosen.group === "controls" && item}
            {#key chosen.key}
              <ControlForm
                control={item as unknown as Control}
                panel={w.panel}
                {vocabulary}
                faults={own}
                {save}
                {rename}
              />
            {/key}
          {:else if spec && item}
            {#key chosen.key}
              <ItemForm
                {spec}
                {item}
                panel={w.panel}
                {vocabulary}
                faults={own}
                {save}
                {rename}
              />
            {/key}
          {/if}
        {/if}
      </div>
    </div>
    <p class="adders small">
      Add a
      {#each groups as g (g.group)}
        <button
          class="linkish"
          onclick={() => {
            const last = all.filter((r) => r.group === g.group).at(-1);
            if (last) void choose(last).then(() => add(false));
            else if (w) {
              const now = g.fresh(w.panel, `${g.rename ?? "name"}1`);
              const ops: EditOp[] = [];
              if (g.path.startsWith("/matrix") && !w.panel.matrix)
                ops.push({
                  op: "add",
                  path: "/matrix",
                  value: { slots: [], sources: {}, destinations: [] },
                });
              ops.push({ op: "add", path: g.path, value: [now] });
              const key = `${g.group}:${String(now.id ?? now.name ?? 0)}`;
              void edit(
                "new part",
                ops,
                () =>
                  void choose(all.find((r) => r.key === key)).then(() =>
                    enter(),
                  ),
              );
            }
          }}
          >{{
            sections: "section",
            modules: "module",
            routes: "route",
            slots: "free slot",
            destinations: "destination",
            points: "patch point",
            audio: "signal connection",
            hidden: "note",
          }[g.group as string]}</button
        >
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
  nav {
    position: sticky;
    top: 3.25rem;
    height: calc(100vh - 7.5rem);
    display: flex;
    flex-direction: column;
    min-height: 20rem;
  }
  #find-part {
    font: inherit;
    font-size: 0.8125rem;
    padding: 0.25rem 0.5rem;
    color: var(--ink);
    background: var(--sheet);
    border: 0;
    border-bottom: 1px solid var(--ink-3);
  }
  #find-part::placeholder {
    color: var(--ink-3);
    opacity: 1;
  }
  .outline {
    overflow: auto;
    flex: 1;
    border: 1px solid var(--rule);
    border-top: 0;
    background: var(--sheet);
    padding-bottom: 0.5rem;
  }
  .under {
    position: sticky;
    top: 0;
    font-weight: 600;
    background: var(--shade);
    padding: 0.125rem 0.5rem;
    color: var(--ink-2);
  }
  .row {
    display: flex;
    justify-content: space-between;
    gap: 0.5rem;
    padding: 0.0625rem 0.5rem;
    font-size: 0.8125rem;
    line-height: 1.25rem;
    cursor: pointer;
    white-space: nowrap;
    scroll-margin: 2rem;
  }
  .row span {
    overflow: hidden;
    text-overflow: ellipsis;
  }
  .row span:first-child {
    flex: 0 1 auto;
    min-width: 5rem;
  }
  .row:hover {
    background: var(--shade);
  }
  .row[aria-selected="true"] {
    background: var(--chosen);
  }
  .row:focus-visible {
    outline-offset: -2px;
  }
  .faults {
    border: 1px solid var(--rule);
    border-left: 3px solid var(--rubric);
    background: var(--sheet);
    padding: 0.25rem 0.75rem;
    max-height: 8rem;
    overflow: auto;
  }
  .faults.none {
    border-left-color: var(--ink-3);
    display: flex;
    gap: 1rem;
  }
  .faults ul {
    margin: 0;
    padding: 0;
    list-style: none;
  }
  .title {
    margin: 0.75rem 0 0.5rem;
  }
  .title h2 {
    margin: 0;
  }
  .form {
    display: grid;
    grid-template-columns: repeat(3, minmax(0, 1fr));
    gap: 0.5rem 1rem;
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
