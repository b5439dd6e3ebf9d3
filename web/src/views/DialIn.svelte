<script lang="ts">
  import { Button, ProgressBar } from "carbon-components-svelte";
  import { onDestroy, tick } from "svelte";
  import { app } from "../lib/app.svelte";
  import { exportURL, refused } from "../lib/api";
  import * as sheets from "../lib/calls/sheets";
  import { goHome, keys } from "../lib/keys.svelte";
  import { Live } from "../lib/live.svelte";
  import { load } from "../lib/load.svelte";
  import { Places } from "../lib/places";
  import { Pictures } from "../lib/photographs.svelte";
  import { route } from "../lib/route.svelte";
  import type { Line, SheetView, Taken } from "../lib/types";
  import { stayAwake } from "../lib/awake.svelte";
  import Because from "../parts/Because.svelte";
  import Entries from "../parts/Entries.svelte";
  import ClockPointer from "../parts/ClockPointer.svelte";
  import CurrentLine from "../parts/CurrentLine.svelte";
  import Photographs from "../parts/Photographs.svelte";
  import ReadBack from "../parts/ReadBack.svelte";
  import More from "../parts/More.svelte";
  import SendMIDI from "../parts/SendMIDI.svelte";

  let { id }: { id: number } = $props();
  // svelte-ignore state_referenced_locally
  const pictures = new Pictures({ sheet: id });
  let view = $state<SheetView | null>(null);
  let missing = $state("");
  let sending = $state(false);
  let reading = $state(false);
  let midi = $state<SendMIDI | undefined>();
  const rows = new Places();

  function take(v: SheetView) {
    view = v;
    missing = "";
    app.pending = v.pending;
    document.title = `Dial in ${v.sheet.patchName} - Glossator`;
  }
  load(
    () => sheets.get(id),
    take,
    (detail) => (missing = detail),
  );

  const list = $derived(view?.dialIn);
  /** By the place on the panel, from its first control to its last, instead of in the order of work. */
  let sweep = $state(localStorage.getItem("glossator-sweep") === "yes");
  type Shown = { key: string; title: string; lines: Line[]; save?: string };
  const groups: Shown[] = $derived.by(() => {
    const work = (list?.groups ?? []).map((g) => ({ key: g.step, ...g }));
    if (!sweep) return work;
    const all = work
      .flatMap((g) => g.lines)
      .map((l, i) => ({ l, at: l.place < 0 ? 1e6 + i : l.place }))
      .sort((a, b) => a.at - b.at)
      .map((x) => x.l);
    const out: Shown[] = [];
    for (const l of all) {
      const last = out.at(-1);
      if (last?.title === l.section) last.lines.push(l);
      else
        out.push({
          key: `${out.length} ${l.section}`,
          title: l.section,
          lines: [l],
        });
    }
    return out;
  });
  function turnOrder() {
    sweep = !sweep;
    localStorage.setItem("glossator-sweep", sweep ? "yes" : "no");
  }
  const lines: Line[] = $derived(groups.flatMap((g) => g.lines));
  /** What is to be saved once the current line is set: it is the last of its group. */
  const saveNow = $derived.by(() => {
    const g = groups.find((x) => x.lines.some((l) => l.key === current?.key));
    return g?.save &&
      g.lines.every((l) => l.key === current?.key || ticks.has(l.key))
      ? g.save
      : "";
  });
  const ticks = $derived(new Set(view?.ticks ?? []));
  const entries = $derived(view?.entries ?? []);
  const done = $derived(lines.filter((l) => ticks.has(l.key)).length);
  const current = $derived(
    lines.find((l) => l.key === route.line) ??
      lines.find((l) => !ticks.has(l.key)) ??
      lines[0],
  );

  async function choose(l: Line | undefined) {
    if (!l) return;
    route.choose(l.key);
    await tick();
    rows.show(l.key, false, "center");
  }
  let queue: Promise<void> = Promise.resolve();
  let waiting = 0;
  let spent = $state(0);
  // what another device ticks is seen here a moment later
  $effect(() => {
    const look = setInterval(() => {
      if (document.hidden || waiting > 0) return;
      sheets
        .ticks(id)
        .then((v) => {
          spent = v.spent;
          if (view && waiting === 0 && v.ticks.join() !== view.ticks.join()) {
            view.ticks = v.ticks;
            app.pending = v.pending;
          }
        })
        .catch(() => undefined); // the next look may do
    }, 4000);
    return () => clearInterval(look);
  });
  /** Ticks a line: it is seen at once, and taken back where it could not be kept. */
  function mark(l: Line, on: boolean): Promise<void> {
    if (view)
      view.ticks = on
        ? [...view.ticks.filter((k) => k !== l.key), l.key]
        : view.ticks.filter((k) => k !== l.key);
    waiting++;
    queue = queue.then(async () => {
      const v = await app.attempt(() => sheets.tick(id, l.key, on));
      waiting--;
      if (!view) return;
      if (v) app.pending = v.pending;
      if (waiting > 0) return; // what comes after is seen already
      if (v) [view.ticks, spent] = [v.ticks, v.spent];
      else app.changed++;
      void live.changed();
    });
    return queue;
  }
  function tickKey(key: string) {
    const l = lines.find((x) => x.key === key);
    if (l && !ticks.has(key)) void mark(l, true);
  }
  /** A control was moved on the instrument: its line is chosen, and ticked where it stands as planned. */
  async function moved(t: Taken): Promise<string> {
    const l = lines.find((x) => x.key === t.control);
    if (l) await choose(l);
    if (t.same) tickKey(t.control);
    return t.same
      ? `${t.section} ${t.label} stands at ${t.reading}, as planned`
      : `${t.section} ${t.label} stands at ${t.reading}; planned is ${t.stands || "nothing"}`;
  }
  async function tickOn() {
    const l = current;
    if (!l) return;
    const i = lines.indexOf(l);
    const next =
      lines.slice(i + 1).find((x) => !ticks.has(x.key)) ??
      lines.find((x) => x !== l && !ticks.has(x.key));
    void mark(l, true);
    await choose(next ?? l);
  }
  /** The next two that are not set, in the order of work. */
  const after = $derived.by(() => {
    const i = current ? lines.indexOf(current) : 0;
    return lines
      .slice(i + 1)
      .filter((x) => !ticks.has(x.key))
      .slice(0, 2);
  });
  // a correction: set otherwise than planned, and why
  let correcting = $state(false);
  let set = $state("");
  let why = $state("");
  let tags: string[] = $state([]);
  let wrong = $state("");
  let field = $state<HTMLInputElement | null>(null);
  const plannedOf = (l: Line) =>
    entries.find((e) => e.control === l.key && e.kept)?.planned ?? l.reading;
  async function correct() {
    if (!current || current.key.startsWith("cable:")) return;
    correcting = true;
    [set, why, tags, wrong] = [current.reading, "", [], ""];
    await tick();
    field?.focus();
    field?.select();
  }
  function leaveIt() {
    correcting = false;
    void tick().then(goHome);
  }
  async function keepIt() {
    const l = current;
    if (!l) return;
    try {
      take(await sheets.correct(id, l.key, { reading: set, tags, why }));
    } catch (e) {
      wrong = refused(e) ?? "";
      if (!wrong) app.fail(e);
      return;
    }
    leaveIt();
    const now = lines.find((x) => x.key === l.key);
    app.say(
      `${l.label} set to ${now?.reading ?? set}`,
      `Planned was ${plannedOf(l)}; the sheet goes by what is set.`,
    );
    if (now) await mark(now, true);
    await choose(lines[lines.findIndex((x) => x.key === l.key) + 1] ?? now);
  }
  // what was heard, and who signs it off
  let noting = $state(false);
  let text = $state("");
  let who = $state("");
  let noteField = $state<HTMLInputElement | null>(null);
  const note = (signs = false) =>
    app.attempt(async () => {
      const l = await sheets.entry(
        id,
        signs
          ? { kind: "sign-off", why: text, who }
          : { kind: "note", why: text },
      );
      if (view) view = { ...view, entries: l.entries };
      app.pending = l.pending;
      app.say(
        signs ? `Signed off by ${who}` : "The note is kept",
        "It stands in the log.",
      );
      text = "";
    });
  // another round after listening: a sheet of its own
  let wanted = $state("");
  const round = () =>
    app.attempt(async () => {
      const made = await sheets.round(id, wanted);
      app.changed++;
      route.go(`/sheets/${made.id}`);
    });
  stayAwake();
  /** The part of the instrument that is heard alone while one builds; empty for all. */
  let only = $state("");
  const soloed = $derived(
    only ? (lines.find((l) => l.part === only)?.section ?? only) : "",
  );
  function alone() {
    const part = current?.part ?? "";
    if (!only && !part) {
      app.say(
        "This line is of no part that sounds by itself",
        "Choose a line of an oscillator, noise or an operator.",
      );
      return;
    }
    only = only ? "" : part;
    void live.changed();
  }
  // what the instrument sounds like as far as it is set
  const live = new Live((from, seconds, signal) =>
    sheets.live(id, { from, seconds, ticked: true, only }, signal),
  );
  onDestroy(() => live.close());
  const at = $derived(current ? lines.indexOf(current) : 0);
  function takeBack() {
    const before =
      current && ticks.has(current.key)
        ? current
        : lines.slice(0, at).findLast((x) => ticks.has(x.key));
    if (before) void mark(before, false).then(() => choose(before));
  }
  keys([
    {
      keys: "Space or Enter",
      does: "tick the line and go on to the next",
      on: [" ", "Enter"],
      run: () => void tickOn(),
    },
    {
      keys: "↑ ↓",
      does: "move through the list",
      on: ["ArrowUp", "ArrowDown"],
      run: (e) =>
        void choose(
          lines[
            e.key === "ArrowDown"
              ? Math.min(lines.length - 1, at + 1)
              : Math.max(0, at - 1)
          ],
        ),
    },
    {
      keys: "n",
      does: "go to the next line that is not ticked",
      on: "n",
      run: () =>
        void choose(
          lines.slice(at + 1).find((x) => !ticks.has(x.key)) ??
            lines.find((x) => !ticks.has(x.key)),
        ),
    },
    {
      keys: "Backspace",
      does: "take the last line's tick away and go back to it",
      on: "Backspace",
      run: takeBack,
    },
    {
      keys: "h",
      does: "hear it as far as it is set, round and round",
      on: "h",
      run: () => void live.toggle(),
    },
    {
      keys: "i",
      does: "hear the part of this line alone as one builds; again for all",
      on: "i",
      run: alone,
    },
    {
      keys: "m",
      does: "MIDI: send what is planned, first shown; read what stands",
      on: "m",
      run: () => (sending = !sending),
    },
    {
      keys: ".",
      does: "send this line alone",
      on: ".",
      while: () => sending,
      run: () => void midi?.sendOne(),
    },
    {
      keys: "w",
      does: "by place on the panel, or in the order of work",
      on: "w",
      run: turnOrder,
    },
    {
      keys: "y",
      does: "type what the instrument shows, to hold it against the plan",
      on: "y",
      run: () => (reading = !reading),
    },
    {
      keys: "c",
      does: "set otherwise than planned: to what, and why",
      on: "c",
      run: () => void correct(),
    },
    {
      keys: "e",
      does: "note what is heard, or sign it off",
      on: "e",
      run: () => {
        noting = true;
        void tick().then(() => noteField?.focus());
      },
    },
    {
      keys: "o",
      does: "change over from another patch on it: only what changes",
      on: "o",
      run: () => route.go(`/sheets/${id}/changeover`),
    },
    { keys: "p", does: "print", on: "p", run: () => print() },
    {
      keys: "Esc",
      does: "back to where you came from",
      on: "Escape",
      run: () => route.back(`/sheets/${id}`),
    },
  ]);
</script>

<div class="page">
  {#if missing}
    <h1>No such sheet</h1>
    <p>{missing} <a href="/">To the desk</a></p>
  {:else if !view || !list}
    <p class="soft" role="status">Loading</p>
  {:else}
    <div class="bar">
      <h1>Dial in {view.sheet.patchName} on {view.sheet.target.name}</h1>
      <div class="end noprint">
        <button
          class="linkish"
          aria-pressed={live.player.playing}
          onclick={() => void live.toggle()}
          >{live.player.playing ? "Stop" : "Hear it so far"}</button
        >{#if soloed}
          <button class="linkish" onclick={alone}>{soloed} alone</button>{/if}
        &nbsp; <a href={`/sheets/${id}`}>Sheet</a> &nbsp;
        <a href={`/sheets/${id}/changeover`}>Changeover</a> &nbsp;
        <More
          acts={[
            { text: "MIDI to and from it", run: () => (sending = !sending) },
            {
              text: "Type back what it shows",
              run: () => (reading = !reading),
            },
            {
              text: sweep ? "In the order of work" : "By place on the panel",
              run: turnOrder,
            },
            { text: "Print", run: () => print() },
            ...["pdf", "xlsx", "csv", "md"].map((form) => ({
              text: `Save as ${form === "md" ? "text" : form.toUpperCase()}`,
              href: exportURL(`/sheets/${id}/papers/dial-in.${form}`),
            })),
          ]}
        />
      </div>
    </div>
    <div class="noprint">
      <ProgressBar
        size="sm"
        labelText="Progress"
        hideLabel
        value={done}
        max={Math.max(1, lines.length)}
        helperText={`${done} of ${lines.length} done`}
      />
    </div>

    {#if sending}<SendMIDI
        bind:this={midi}
        ask={(of) => sheets.sending(id, of)}
        hear={(before, now) => sheets.received(id, before, now)}
        sound={(unit, bytes) => sheets.onStandIn(id, unit, bytes)}
        file={exportURL(`/sheets/${id}/midi`)}
        panel={view.sheet.target.id}
        name={view.sheet.target.name}
        {ticks}
        sent={tickKey}
        line={current?.key ?? ""}
        stands={view.sheet}
        {moved}
        agree={(keys) => keys.forEach(tickKey)}
        close={() => (sending = false)}
      />{/if}

    {#if reading}<ReadBack
        read={(notes) => sheets.said(id, notes)}
        name={view.sheet.target.name}
        agree={(keys) => keys.forEach(tickKey)}
        go={(t) => void choose(lines.find((x) => x.key === t.control))}
        close={() => {
          reading = false;
          void tick().then(goHome);
        }}
      />{/if}

    <CurrentLine
      {current}
      save={saveNow}
      {spent}
      {after}
      go={(l) => void choose(l)}
      back={at > 0 ? () => void choose(lines[at - 1]) : undefined}
      skip={at < lines.length - 1
        ? () => void choose(lines[at + 1])
        : undefined}
      ticked={!!current && ticks.has(current.key)}
      all={done === lines.length ? done : 0}
      next={() => void tickOn()}
      untick={() => current && void mark(current, false)}
      correct={current && !current.key.startsWith("cable:")
        ? () => void correct()
        : undefined}
    />

    {#if correcting && current}
      <form
        class="correct noprint"
        aria-label="Another reading than planned"
        onsubmit={(e) => {
          e.preventDefault();
          void keepIt();
        }}
      >
        <label
          >I set {current.section} <b>{current.label}</b> to
          <input
            bind:this={field}
            bind:value={set}
            class="num"
            autocomplete="off"
            aria-invalid={!!wrong}
            onkeydown={(e) => {
              if (e.key !== "Escape") return;
              e.stopPropagation();
              leaveIt();
            }}
          /></label
        >
        <span class="soft small"
          >planned <span class="num">{plannedOf(current)}</span></span
        >
        {#if wrong}<span class="red small" role="alert">{wrong}</span>{/if}
        <Because
          bind:tags
          bind:why
          done={() => void keepIt()}
          leave={leaveIt}
        />
        <div class="bar">
          <Button size="small" type="submit">Keep it</Button>
          <button type="button" class="linkish" onclick={leaveIt}
            >Leave it</button
          >
        </div>
      </form>
    {/if}
    <details class="noprint log" bind:open={noting}>
      <summary class="small"
        >{entries.length === 0
          ? "Note or sign off"
          : `Corrected and noted: ${entries.length}`}</summary
      >
      <Entries {entries} />
      <form
        class="bar small"
        onsubmit={(e) => {
          e.preventDefault();
          void note();
        }}
      >
        <label
          >Heard <input
            bind:this={noteField}
            bind:value={text}
            maxlength="2000"
            autocomplete="off"
            placeholder="close at the low notes"
          /></label
        >
        <Button
          size="small"
          kind="tertiary"
          type="submit"
          disabled={!text.trim()}>Keep the note</Button
        >
        <label
          >Name <input
            bind:value={who}
            maxlength="80"
            autocomplete="off"
            class="who"
          /></label
        >
        <Button
          size="small"
          kind="tertiary"
          type="button"
          disabled={!who.trim()}
          onclick={() => void note(true)}>Sign it off</Button
        >
      </form>
      <form
        class="bar small"
        onsubmit={(e) => {
          e.preventDefault();
          void round();
        }}
      >
        <label
          >Another round <input
            bind:value={wanted}
            maxlength="2000"
            placeholder="darker, longer, an octave up"
            autocomplete="off"
          /></label
        >
        <button class="linkish" disabled={!wanted.trim()}
          >Begin it on a sheet of its own</button
        >
        <span class="soft"
          >What it changes, its changeover from here tells.</span
        >
      </form>
      <Photographs s={pictures} />
    </details>

    <h2>First</h2>
    <ul class="first">
      {#each list.first as f (f)}<li>{f}</li>{/each}
    </ul>
    {#if list.playing.length > 0}
      <div class="playing">
        <h2>While playing</h2>
        <ul>
          {#each list.playing as p, i (i)}<li class="reason">{p}</li>{/each}
        </ul>
      </div>
    {/if}
    {#each groups as g (g.key)}
      <h2>{g.title}</h2>
      <ul class="list">
        {#each g.lines as l (l.key)}
          <li
            {@attach rows.at(l.key)}
            class:current={l.key === current?.key}
            class:ticked={ticks.has(l.key)}
          >
            <input
              type="checkbox"
              id={`t-${l.key}`}
              tabindex="-1"
              checked={ticks.has(l.key)}
              onchange={(e) => {
                void mark(l, e.currentTarget.checked);
                void choose(l);
                e.currentTarget.blur();
              }}
            />
            <label for={`t-${l.key}`}
              ><span class="section">{l.section}</span><span class="label"
                >{l.verb === "switch off"
                  ? `switch off ${l.label}`
                  : l.label}</span
              ><span class="num value"
                ><ClockPointer reading={l.reading} /> {l.reading}</span
              >{#if l.caution}<span class="red small cautious">{l.caution}</span
                >{/if}</label
            >
          </li>
        {/each}
      </ul>
      {#if g.save}<p class="save small">{g.save}</p>{/if}
    {/each}
    <h2>
      Leave {view.sheet.target.memory
        ? "at init"
        : "anywhere: they do nothing here"}
    </h2>
    <ul class="leave">
      {#each list.leave as l (l.control)}
        <li>
          <span class="soft">{l.section}</span>
          {l.label}
          <span class="num">{view.sheet.target.memory ? l.reading : ""}</span>
        </li>
      {:else}<li class="soft">nothing</li>{/each}
    </ul>
  {/if}
</div>

<style>
  .save {
    margin: 0.25rem 0;
    padding-left: 0.75rem;
    border-left: 3px solid var(--rubric);
  }
  .correct {
    border-left: 3px solid var(--rubric);
    background: var(--sheet);
    padding: 0.5rem 0.75rem;
    margin: 0.5rem 0;
    display: grid;
    gap: 0.5rem;
  }
  .log form {
    gap: 0.5rem 1rem;
    flex-wrap: wrap;
    margin: 0.375rem 0;
  }
  .log input {
    font: inherit;
    width: 18rem;
    max-width: 100%;
    color: var(--ink);
    background: var(--sheet);
    border: 0;
    border-bottom: 1px solid var(--ink-3);
    padding: 0.25rem 0.375rem;
  }
  .log input.who {
    width: 9rem;
  }
  .correct input.num {
    margin-left: 0.5rem;
    font: inherit;
    font-family: var(--mono);
    width: 8rem;
    color: var(--ink);
    background: var(--paper);
    border: 0;
    border-bottom: 1px solid var(--ink-3);
    padding: 0.25rem 0.375rem;
  }
  .playing {
    border-left: 3px solid var(--rubric);
    padding: 0.25rem 0.75rem;
    margin: 0.5rem 0 0.75rem;
    background: var(--sheet);
  }
  .playing h2 {
    margin: 0;
  }
  .playing ul {
    margin: 0.25rem 0;
    padding-left: 1rem;
  }
  h2 {
    margin: 1rem 0 0.25rem;
  }
  ul {
    list-style: none;
    margin: 0;
    padding: 0;
  }
  .list {
    border-top: 1px solid var(--ink-3);
  }
  .list li {
    display: flex;
    align-items: baseline;
    gap: 0.75rem;
    padding: 0.25rem 0.5rem;
    border-bottom: 1px solid var(--rule);
    scroll-margin: 16rem 0 2rem;
  }
  .list label {
    flex: 1;
    display: grid;
    grid-template-columns: 11rem 16rem 10rem 1fr;
    gap: 0 1rem;
    font-size: 1rem;
    line-height: 1.5rem;
    cursor: pointer;
  }
  .list input {
    flex: none;
    width: 1rem;
    height: 1rem;
    accent-color: var(--ink);
  }
  .section {
    color: var(--ink-3);
    font-size: 0.8125rem;
  }
  .value {
    font-weight: 500;
    white-space: nowrap;
  }
  .current {
    background: var(--chosen);
  }
  .ticked .label,
  .ticked .value {
    text-decoration: line-through;
    text-decoration-color: var(--ink-3);
    color: var(--ink-3);
  }
  .current .section {
    color: var(--ink-2);
  }
  .current.ticked .label,
  .current.ticked .value {
    color: var(--ink-2);
  }
  .leave {
    display: flex;
    flex-wrap: wrap;
    gap: 0.125rem 1.25rem;
    font-size: 0.8125rem;
  }
  @media (max-width: 700px) {
    .page {
      padding: 0.5rem 0.75rem 2rem;
    }
    .bar {
      margin-bottom: 0.5rem;
    }
    .list li {
      min-height: 2.75rem;
      align-items: center;
    }
    .list input {
      width: 1.75rem;
      height: 1.75rem;
    }
    .list label {
      grid-template-columns: 1fr auto;
    }
    .list .section {
      grid-column: 1 / -1;
    }
    .cautious {
      grid-column: 1 / -1;
    }
  }
  @media print {
    .list label {
      grid-template-columns: 9rem 14rem 8rem 1fr;
      font-size: 11pt;
    }
  }
</style>
