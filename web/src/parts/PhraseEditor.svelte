<script lang="ts">
  import { Button } from "carbon-components-svelte";
  import { onMount, tick, untrack } from "svelte";
  import { ask, exportURL, part } from "../lib/api";
  import { app } from "../lib/app.svelte";
  import {
    keyOf,
    letterIn,
    nearest,
    noteOf,
    stepsOf,
    valueText,
    wholes,
  } from "../lib/phrase";
  import type {
    PatchView,
    Phrase,
    PhraseNote,
    PhrasePresets,
  } from "../lib/types";

  /** Step entry of the line that a sound is tried with. Every change is stored at once. */
  let {
    id,
    phrase,
    took,
    close,
  }: {
    id: string;
    phrase: Phrase | null;
    took: (v: PatchView) => void;
    close: () => void;
  } = $props();

  const lengths = ["1/32", "1/16", "1/8", "1/4", "1/2", "1/1", "2/1"];
  let length = $state("1/8");
  let velocity = $state(100);
  let octave = $state(2);
  let presets = $state.raw<PhrasePresets | null>(null);
  let root = $state("A1");
  let file = $state<HTMLInputElement | undefined>();
  let grid = $state<HTMLElement | undefined>();

  let notes = $state.raw<PhraseNote[]>(untrack(() => phrase?.notes ?? []));
  // What is still to be sent: the newest line only, while the answer to another is on its way.
  let next: PhraseNote[] | null = null;
  let sending = false;
  $effect.pre(() => {
    const now = phrase?.notes ?? [];
    if (!sending && !next) notes = now;
  });
  const steps = $derived(stepsOf(notes));
  const end = $derived(
    Math.max(
      0,
      ...notes.map((n) => (wholes(n.at) ?? 0) + (wholes(n.for) ?? 0)),
    ),
  );
  // the cursor: a step and a note of it; a step beyond the last one is the end of the line
  let cursor = $state(untrack(() => stepsOf(phrase?.notes ?? []).length));
  let voice = $state(0);
  const at = $derived(steps[cursor]);
  const note = $derived(at?.notes[Math.min(voice, at.notes.length - 1)]);

  onMount(() => {
    grid?.focus();
    ask<PhrasePresets>("GET", `/patches/${part(id)}/phrase/presets`)
      .then((p) => (presets = p))
      .catch((e: unknown) => app.fail(e));
  });

  const path = $derived(`/patches/${part(id)}/phrase`);
  const bodyOf = (now: PhraseNote[]) => ({
    phrase: now.length ? { name: phrase?.name ?? "", notes: now } : null,
  });
  function store(now: PhraseNote[]) {
    notes = next = now;
    if (!sending) void send();
  }
  async function send() {
    sending = true;
    while (next) {
      const now: PhraseNote[] = next;
      next = null;
      try {
        const v = await ask<PatchView>("PUT", path, bodyOf(now));
        if (!next) {
          sending = false;
          took(v);
        }
      } catch (e) {
        next = null;
        sending = false;
        app.fail(e);
        app.changed++; // show again what the program has
      }
    }
    sending = false;
  }
  // a page that is left sends what is still to be sent
  onMount(() => {
    const leave = () => {
      if (next)
        void fetch(exportURL(path), {
          method: "PUT",
          keepalive: true,
          headers: { "Content-Type": "application/json" },
          body: JSON.stringify(bodyOf(next)),
        });
    };
    addEventListener("pagehide", leave);
    return () => removeEventListener("pagehide", leave);
  });
  const other = (n: PhraseNote) => notes.filter((x) => x !== n);
  function change(to: Partial<PhraseNote>) {
    if (!note) return;
    const now = { ...note, ...to };
    for (const k of ["accent", "slide"] as const) if (!now[k]) delete now[k];
    store(notes.map((n) => (n === note ? now : n)));
  }
  function lastKey(): number {
    const before = steps.slice(0, cursor).at(-1)?.notes[0];
    return (
      keyOf(note?.note ?? "") ??
      keyOf(before?.note ?? "") ??
      12 * (octave + 1) + 9
    );
  }
  /** A letter sets the chosen note; at the end of the line it adds a step. */
  function letter(l: string) {
    const key =
      notes.length === 0 ? letterIn(l, octave) : nearest(l, lastKey());
    if (note) {
      change({ note: noteOf(key) });
      return;
    }
    store([
      ...notes,
      { at: valueText(end), for: length, note: noteOf(key), velocity },
    ]);
    cursor = steps.length;
  }
  function chord() {
    if (!at || !note) return;
    const top = Math.max(...at.notes.map((n) => keyOf(n.note) ?? 0));
    const key = Math.min(127, top + 4);
    store([...notes, { ...note, note: noteOf(key) }]);
    voice = at.notes.length;
  }
  function shift(by: number) {
    if (!note) {
      octave = Math.min(8, Math.max(-1, octave + Math.sign(by)));
      return;
    }
    const key = keyOf(note.note);
    if (key === undefined) return;
    change({ note: noteOf(Math.min(127, Math.max(0, key + by))) });
  }
  function longer(by: number) {
    if (!note) {
      const i = lengths.indexOf(length);
      length =
        lengths[Math.min(lengths.length - 1, Math.max(0, i + by))] ?? length;
      return;
    }
    const now = wholes(note.for) ?? 0.125;
    const all = lengths.map((l) => wholes(l) ?? 0);
    const next =
      by > 0
        ? all.find((v) => v > now + 1e-9)
        : all.findLast((v) => v < now - 1e-9);
    if (next === undefined) return;
    // what comes after moves along, unless the notes lie over each other
    const alone = at?.notes.length === 1;
    const follows =
      alone && Math.abs((steps[cursor + 1]?.at ?? -1) - (at.at + now)) < 1e-9;
    store(
      notes.map((n) => {
        if (n === note) return { ...n, for: valueText(next) };
        const a = wholes(n.at) ?? 0;
        return follows && at && a > at.at + 1e-9
          ? { ...n, at: valueText(a + next - now) }
          : n;
      }),
    );
  }
  /** Holds the note longer or shorter while the others stay: how notes come to overlap. */
  function hold(by: number) {
    if (!note) return;
    const now = (wholes(note.for) ?? 0.125) + by / 32;
    if (now > 1 / 64) change({ for: valueText(now) });
  }
  function rest(by: number) {
    if (!at || !note) return;
    const d = (wholes(length) ?? 0.125) * by;
    if (at.at + d < (steps[cursor - 1]?.at ?? 0) - 1e-9) return;
    store(
      notes.map((n) => {
        const a = wholes(n.at) ?? 0;
        return a >= at.at - 1e-9 ? { ...n, at: valueText(a + d) } : n;
      }),
    );
  }
  function remove() {
    if (!note) return;
    store(other(note));
    voice = 0;
    cursor = Math.min(cursor, stepsOf(notes).length);
  }
  function louder(by: number) {
    if (!note) {
      velocity = Math.min(127, Math.max(1, velocity + by));
      return;
    }
    change({ velocity: Math.min(127, Math.max(1, note.velocity + by)) });
  }
  function keydown(e: KeyboardEvent) {
    if (e.ctrlKey || e.metaKey || e.altKey) return;
    const k = e.key;
    const fine = e.shiftKey;
    if (k === "ArrowRight")
      [cursor, voice] = [Math.min(steps.length, cursor + 1), 0];
    else if (k === "ArrowLeft") [cursor, voice] = [Math.max(0, cursor - 1), 0];
    else if (k === "Home") [cursor, voice] = [0, 0];
    else if (k === "End") [cursor, voice] = [steps.length, 0];
    else if (k === "ArrowUp") shift(fine ? 12 : 1);
    else if (k === "ArrowDown") shift(fine ? -12 : -1);
    else if (/^[a-g]$/i.test(k) && !fine) letter(k);
    else if (k === "#") shift(1);
    else if (k === "+" || k === "*") longer(1);
    else if (k === "-" || k === "/") longer(-1);
    else if (k === ".") louder(8);
    else if (k === ",") louder(-8);
    else if (k === "h") chord();
    else if (k === "n") voice = at ? (voice + 1) % at.notes.length : 0;
    else if (k === "x") change({ accent: !note?.accent });
    else if (k === "s") change({ slide: !note?.slide });
    else if (k === "o") hold(1);
    else if (k === "O") hold(-1);
    else if (k === "r") rest(1);
    else if (k === "R") rest(-1);
    else if (k === "Delete" || k === "Backspace") remove();
    else if (k === "Escape") close();
    else return;
    e.preventDefault();
    e.stopPropagation();
    void tick().then(() =>
      grid
        ?.querySelector("[aria-current=true]")
        ?.scrollIntoView({ block: "nearest", inline: "nearest" }),
    );
  }
  async function make(preset: string) {
    try {
      took(
        await ask<PatchView>("POST", `/patches/${part(id)}/phrase/preset`, {
          preset,
          note: root,
        }),
      );
      cursor = 0;
      grid?.focus();
    } catch (e) {
      app.fail(e);
    }
  }
  async function cue(of: Phrase) {
    try {
      took(
        await ask<PatchView>("PUT", `/patches/${part(id)}/phrase`, {
          phrase: of,
        }),
      );
      cursor = 0;
      grid?.focus();
    } catch (e) {
      app.fail(e);
    }
  }
  async function read(files: FileList | null) {
    const f = files?.[0];
    if (!f) return;
    try {
      took(
        await ask<PatchView>(
          "POST",
          `/patches/${part(id)}/phrase/midi?file=${part(f.name)}`,
          await f.arrayBuffer(),
        ),
      );
      app.say("The line was read", "Undo brings the old one back.");
    } catch (e) {
      app.fail(e);
    } finally {
      if (file) file.value = "";
    }
  }
  const rows = $derived.by(() => {
    const keys = notes.map((n) => keyOf(n.note)).filter((k) => k !== undefined);
    if (!keys.length) return { low: 33, high: 45 };
    return { low: Math.min(...keys) - 2, high: Math.max(...keys) + 2 };
  });
  const total = $derived(Math.max(1, end));
  let width = $state(800);
  const x = (v: number) => 40 + (v / total) * (width - 56);
  const high = 132;
  const y = (key: number) =>
    8 + ((rows.high - key) / Math.max(1, rows.high - rows.low)) * (high - 24);
  const lineText = $derived(
    !note
      ? `end of the line at ${valueText(end)}; a letter from a to g adds a note of ${length} at ${velocity}`
      : `${note.note} at ${note.at} for ${note.for}, velocity ${note.velocity}${note.accent ? ", accented" : ""}${note.slide ? ", slid into" : ""}${at && at.notes.length > 1 ? `, note ${Math.min(voice, at.notes.length - 1) + 1} of ${at.notes.length}` : ""}`,
  );
</script>

<section aria-label="Phrase">
  <div class="bar">
    <label
      >Name <input
        class="wide"
        value={phrase?.name ?? ""}
        disabled={!notes.length}
        onchange={(e) => {
          const name = e.currentTarget.value.trim();
          void cue({ name, notes });
        }}
      /></label
    >
    <span class="small soft num"
      >{notes.length} notes, {valueText(end)} long</span
    >
    <div class="end bar">
      <label
        >On <input
          class="num"
          bind:value={root}
          aria-label="Note of the preset"
        /></label
      >
      {#each presets?.presets ?? [] as p (p.id)}
        <button
          class="linkish"
          title={`Good for ${p.for}`}
          onclick={() => make(p.id)}>{p.name}</button
        >
      {/each}
    </div>
  </div>
  {#if presets && presets.cue.length > 0}
    <div class="bar small">
      <span class="soft">The cue's line, of</span>
      {#each presets.cue as c (c.patch)}<button
          class="linkish"
          onclick={() => cue(c.phrase)}>{c.name}</button
        ><span class="soft">{c.tag}</span>{/each}
    </div>
  {/if}
  <!-- svelte-ignore a11y_no_noninteractive_tabindex, a11y_no_noninteractive_element_interactions -->
  <div
    bind:this={grid}
    bind:clientWidth={width}
    id="phrase-grid"
    class="grid"
    role="application"
    aria-label="Step entry of the phrase"
    aria-describedby="phrase-line"
    tabindex="0"
    onkeydown={keydown}
  >
    <svg {width} height={high} aria-hidden="true">
      {#each Array.from({ length: Math.ceil(total * 4) + 1 }, (_, i) => i / 4) as b (b)}
        {#if b <= total + 1e-9}
          <line
            class:bar1={b % 1 === 0}
            x1={x(b)}
            x2={x(b)}
            y1="4"
            y2={high - 14}
          />
          {#if b % 1 === 0 || total <= 2}<text x={x(b)} y={high - 3}
              >{valueText(b)}</text
            >{/if}
        {/if}
      {/each}
      {#each notes as n (n)}
        {@const k = keyOf(n.note)}
        {#if k !== undefined}
          {@const from = x(wholes(n.at) ?? 0)}
          {@const to = x((wholes(n.at) ?? 0) + (wholes(n.for) ?? 0))}
          <line
            class="note"
            class:chosen={n === note}
            class:accent={n.accent}
            x1={from + 1}
            x2={Math.max(from + 3, to - 2)}
            y1={y(k)}
            y2={y(k)}
            stroke-width={1.5 + (n.velocity / 127) * 5}
          />
          {#if n.slide}<line
              class="slide"
              x1={from - 6}
              x2={from + 1}
              y1={y(k) + 8}
              y2={y(k)}
            />{/if}
        {/if}
      {/each}
      <line
        class="cursor"
        x1={x(at?.at ?? end)}
        x2={x(at?.at ?? end)}
        y1="2"
        y2={high - 12}
      />
      <text class="end" x="36" y={y(rows.high - 2) + 4}
        >{noteOf(rows.high - 2)}</text
      >
      {#if rows.high - rows.low > 6}<text
          class="end"
          x="36"
          y={y(rows.low + 2) + 4}>{noteOf(rows.low + 2)}</text
        >{/if}
    </svg>
    <div class="steps num small">
      {#each steps as s, i (s.at)}
        <!-- svelte-ignore a11y_click_events_have_key_events, a11y_no_static_element_interactions -->
        <span
          aria-current={i === cursor}
          onclick={() => ([cursor, voice] = [i, 0])}
          >{#each s.notes as n, k (k)}<b class:now={n === note}
              >{n.note}{n.accent ? "›" : ""}{n.slide ? "~" : ""}</b
            >{/each}</span
        >
      {/each}
      <!-- svelte-ignore a11y_click_events_have_key_events, a11y_no_static_element_interactions -->
      <span
        aria-current={cursor >= steps.length}
        onclick={() => (cursor = steps.length)}>end</span
      >
    </div>
  </div>
  <p id="phrase-line" class="num small" role="status">{lineText}</p>
  <div class="bar">
    <span class="small soft keys">
      <kbd>a</kbd>-<kbd>g</kbd> note, <kbd>↑</kbd> <kbd>↓</kbd> semitone, with
      Shift octave,
      <kbd>+</kbd> <kbd>-</kbd> length, <kbd>o</kbd> overlap, <kbd>,</kbd>
      <kbd>.</kbd>
      velocity,
      <kbd>h</kbd> chord, <kbd>n</kbd> its next note, <kbd>x</kbd> accent,
      <kbd>s</kbd> slide, <kbd>r</kbd> rest before, <kbd>Delete</kbd>,
      <kbd>Esc</kbd> closes
    </span>
    <div class="end bar">
      {#if notes.length}<a
          download
          href={exportURL(`/patches/${part(id)}/phrase/midi`)}
          >Line as MIDI file</a
        >{/if}
      <button class="linkish" onclick={() => file?.click()}
        >Read a MIDI file</button
      >
      <input
        bind:this={file}
        type="file"
        accept=".mid,.midi,audio/midi"
        class="visually-hidden"
        tabindex="-1"
        aria-label="MIDI file of a line"
        onchange={(e) => read(e.currentTarget.files)}
      />
      {#if notes.length}<button class="linkish" onclick={() => store([])}
          >No line</button
        >{/if}
      <Button size="small" kind="tertiary" on:click={close}>Done</Button>
    </div>
  </div>
</section>

<style>
  section {
    margin: 0.5rem 0 1rem;
    padding: 0.5rem 1rem 0.75rem;
    background: var(--sheet);
    border: 1px solid var(--rule);
    border-left: 3px solid var(--ink-3);
  }
  label {
    font-size: 0.75rem;
    color: var(--ink-2);
  }
  input:not([type="file"]) {
    font-size: 0.8125rem;
    width: 3.5rem;
    margin-left: 0.25rem;
    padding: 0.125rem 0.25rem;
    color: var(--ink);
    background: var(--paper);
    border: 0;
    border-bottom: 1px solid var(--ink-3);
  }
  input.wide {
    width: 14rem;
  }
  .grid {
    margin-top: 0.5rem;
    background: var(--paper);
    border: 1px solid var(--rule);
    overflow: hidden;
  }
  svg {
    display: block;
  }
  line {
    stroke: var(--rule);
  }
  .bar1 {
    stroke: var(--ink-3);
  }
  .note {
    stroke: var(--ink-2);
  }
  .accent {
    stroke: var(--ink);
    stroke-dasharray: none;
  }
  .chosen {
    stroke: var(--rubric);
  }
  .slide {
    stroke: var(--ink);
    stroke-width: 1.5;
  }
  .cursor {
    stroke: var(--rubric);
    stroke-width: 1;
    stroke-dasharray: 3 2;
  }
  text {
    font-family: var(--mono);
    font-size: 10.5px;
    fill: var(--ink-3);
    text-anchor: middle;
  }
  text.end {
    text-anchor: end;
  }
  .steps {
    display: flex;
    gap: 0.25rem;
    overflow-x: auto;
    padding: 0.25rem 0.5rem;
    border-top: 1px solid var(--rule);
  }
  .steps span {
    padding: 0.0625rem 0.375rem;
    border: 1px solid transparent;
    cursor: pointer;
    white-space: nowrap;
    color: var(--ink-2);
  }
  .steps span[aria-current="true"] {
    background: var(--chosen);
    border-color: var(--ink-3);
  }
  .steps b {
    font-weight: 400;
    margin-right: 0.25rem;
  }
  .steps b.now {
    color: var(--rubric);
    font-weight: 600;
  }
  .keys {
    max-width: 44rem;
    line-height: 1.25rem;
  }
  #phrase-line {
    margin: 0.25rem 0;
    min-height: 1.125rem;
  }
</style>
