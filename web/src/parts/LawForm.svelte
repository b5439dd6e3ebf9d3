<script lang="ts">
  import { Button } from "carbon-components-svelte";
  import { ask, part, Refusal } from "../lib/api";
  import { app } from "../lib/app.svelte";
  import { numberOf, whenOf, whenText } from "../lib/panel";
  import type {
    Bind,
    Face,
    Fitted,
    Law,
    MeanView,
    Panel,
    Vocabulary,
  } from "../lib/types";
  import Field from "./Field.svelte";
  import ScaleStrip from "./ScaleStrip.svelte";

  /** One law of a control: what it sets, how travel becomes quantity, where that is known from. */
  let {
    n,
    bind,
    stored,
    face,
    drawn,
    panel,
    vocabulary,
    at,
    set,
    drop,
  }: {
    n: number;
    bind: Bind;
    stored: Bind | undefined;
    face: Face;
    drawn: MeanView | undefined;
    panel: Panel;
    vocabulary: Vocabulary;
    at: (path: string) => string;
    /** An empty what draws only. */
    set: (b: Bind, what: string) => void;
    drop: () => void;
  } = $props();

  const law = $derived(bind.law);
  const kept = $derived((stored ?? bind).law);
  const dim = $derived(
    vocabulary.units.find((u) => u.symbol === law.unit)?.dim ?? "",
  );
  const isTime = $derived(dim === "duration");

  const spec = $derived.by(() => {
    const dot = bind.param.lastIndexOf(".");
    const owner = panel.modules.find((m) => m.id === bind.param.slice(0, dot));
    return vocabulary.kinds
      .find((k) => k.kind === owner?.kind)
      ?.params.find((p) => p.name === bind.param.slice(dot + 1));
  });
  const units = $derived(
    [...vocabulary.units]
      .sort((a, b) => Number(b.dim === spec?.dim) - Number(a.dim === spec?.dim))
      .map((u) => ({
        value: u.symbol,
        text: u.symbol === u.dim ? u.symbol : `${u.symbol} (${u.dim})`,
      })),
  );

  function put(change: Partial<Law>, what: string) {
    const now = { ...$state.snapshot(law), ...change } as Record<
      string,
      unknown
    >;
    for (const k of Object.keys(now))
      if (now[k] === "" || now[k] === undefined) delete now[k];
    set({ ...$state.snapshot(bind), law: now as Law }, what);
  }
  type Num = "min" | "max" | "exponent" | "dead";
  function number(name: Num, text: string, what: string): string | undefined {
    const v = numberOf(text);
    if (typeof v === "string") return v;
    put({ [name]: v === 0 ? undefined : v }, what);
    return undefined;
  }
  function kind(text: string): undefined {
    const was = $state.snapshot(law);
    const now: Law = { kind: text as Law["kind"], unit: was.unit };
    if (was.source) now.source = was.source;
    if (was.convention) now.convention = was.convention;
    if (was.swing) now.swing = was.swing;
    if (was.uncertainty) now.uncertainty = was.uncertainty;
    const lo = was.min ?? was.points?.[0]?.[1];
    const hi = was.max ?? was.points?.at(-1)?.[1] ?? 1;
    if (text === "table" || text === "segments")
      now.points = was.points ?? [
        [0, lo ?? 0],
        [1, hi],
      ];
    else if (text === "list")
      now.values = was.values ?? (face.entries ?? []).map((_, i): unknown => i);
    else {
      if (lo !== undefined && text !== "bipolar" && text !== "decibel")
        now.min = lo;
      now.max = hi;
      if (was.off) now.off = was.off;
      if (text === "power") now.exponent = was.exponent ?? 2;
    }
    set({ ...$state.snapshot(bind), law: now }, "kind of law");
  }
  const pointsText = $derived(
    (kept.points ?? []).map((p) => `${p[0]} = ${p[1]}`).join("\n"),
  );
  function points(text: string, what: string): string | undefined {
    const out: number[][] = [];
    for (const line of text.split("\n")) {
      if (!line.trim()) continue;
      const i = line.indexOf("=");
      const a = numberOf(line.slice(0, Math.max(0, i)));
      const b = numberOf(line.slice(i + 1));
      if (i < 1 || typeof a !== "number" || typeof b !== "number")
        return `expected travel from 0 to 1 = value, got "${line.trim()}"`;
      out.push([a, b]);
    }
    put({ points: out }, what);
    return undefined;
  }
  const named = $derived(["wave", "name"].includes(law.unit));
  const valueText = (v: unknown) =>
    v === null || v === undefined ? "" : String(v);
  function value(text: string): unknown {
    const t = text.trim();
    if (!t) return null;
    if (named || t === "off") return t;
    const v = numberOf(t);
    return typeof v === "number" ? v : new Error(v);
  }
  function oneValue(i: number, text: string, what: string): string | undefined {
    const v = value(text);
    if (v instanceof Error) return v.message;
    const count = Math.max(face.entries?.length ?? 0, i + 1);
    const all = Array.from(
      { length: count },
      (_, k): unknown => law.values?.[k] ?? null,
    );
    all[i] = v;
    put({ values: all }, what);
    return undefined;
  }
  function allValues(text: string, what: string): string | undefined {
    const all: unknown[] = [];
    for (const w of text.split("|")) {
      const v = value(w);
      if (v instanceof Error) return v.message;
      all.push(v);
    }
    put({ values: all }, what);
    return undefined;
  }
  const uText = $derived(
    kept.uncertainty
      ? kept.uncertainty.relative
        ? `${+(kept.uncertainty.u * 100).toPrecision(6)} %`
        : String(kept.uncertainty.u)
      : "",
  );
  function uncertainty(text: string): string | undefined {
    const t = text.trim();
    const relative = t.endsWith("%");
    const v = numberOf(relative ? t.slice(0, -1) : t);
    if (typeof v === "string") return v;
    if (v !== undefined && v < 0) return "expected 0 or more";
    put(
      {
        uncertainty:
          v === undefined
            ? undefined
            : relative
              ? { u: v / 100, relative: true }
              : { u: v },
      } as Partial<Law>,
      "uncertainty",
    );
    return undefined;
  }

  // printed marks
  let marking = $state(false);
  let marks = $state("");
  let says = $state("");
  let wrong = $state("");
  async function fit() {
    try {
      const f = await ask<Fitted>(
        "POST",
        `/panels/${part(panel.id)}/workshop/marks`,
        { face, unit: law.unit, marks },
      );
      const now = { ...f.law };
      if (law.convention && !now.convention) now.convention = law.convention;
      if (law.swing && !now.swing) now.swing = law.swing;
      [says, wrong] = [f.says, ""];
      set({ ...$state.snapshot(bind), law: now }, "law from marks");
    } catch (e) {
      if (e instanceof Refusal && e.problem.status === 422)
        [says, wrong] = [
          "",
          e.problem.faults?.map((x) => x.message).join("; ") ||
            e.problem.detail,
        ];
      else app.fail(e);
    }
  }
  const show = (v: number | undefined) => (v === undefined ? "0" : String(v));
  const numbers = $derived(
    (
      {
        linear: [
          ["min", "At the bottom"],
          ["max", "At the top"],
        ],
        exponential: [
          ["min", "At the bottom"],
          ["max", "At the top"],
        ],
        power: [
          ["min", "At the bottom"],
          ["max", "At the top"],
          ["exponent", "Exponent"],
        ],
        bipolar: [
          ["max", "At either end"],
          ["exponent", "Exponent"],
          ["dead", "Dead part of the half"],
        ],
        decibel: [
          ["max", "At the top, dB"],
          ["exponent", "Exponent of the travel"],
        ],
      } as Record<string, [Num, string][]>
    )[law.kind] ?? [],
  );
</script>

<section aria-label={`Law ${n + 1}`}>
  <div class="top">
    <h3>Sets</h3>
    <button class="linkish" onclick={() => (marking = !marking)}
      >From printed marks</button
    >
    <button class="linkish" onclick={drop}>Take this law away</button>
  </div>
  <div class="rule">
    {#if drawn && drawn.ticks.length}
      <ScaleStrip mean={drawn} />
      <div class="small soft num">{drawn.law}</div>
    {:else}
      <span class="small soft"
        >The rule is drawn when the law has no fault.</span
      >
    {/if}
  </div>
  <div class="form">
    <div class="two">
      <Field
        label="Parameter"
        value={(stored ?? bind).param}
        list="workshop-params"
        hint="filter.cutoff"
        wrong={at("/param")}
        take={(t) => {
          set({ ...$state.snapshot(bind), param: t.trim() }, "what it sets");
          return undefined;
        }}
      />
    </div>
    <Field
      label="Part of a sum"
      how="choice"
      value={(stored ?? bind).part ?? ""}
      options={[
        { value: "", text: "the whole" },
        { value: "octave", text: "octaves" },
        { value: "semi", text: "semitones" },
        { value: "fine", text: "fine" },
      ]}
      wrong={at("/part")}
      take={(t) => {
        const b = { ...$state.snapshot(bind) };
        if (t) b.part = t as Bind["part"] & string;
        else delete b.part;
        set(b, "part");
        return undefined;
      }}
    />
    <div class="two">
      <Field
        label="Only while"
        value={whenText((stored ?? bind).when)}
        hint="control = reading | reading; other = reading"
        wrong={at("/when")}
        take={(t) => {
          const w = whenOf(t);
          if (typeof w === "string") return w;
          const b = { ...$state.snapshot(bind) };
          if (w.length) b.when = w;
          else delete b.when;
          set(b, "condition");
          return undefined;
        }}
      />
    </div>
    <Field
      label="Law"
      how="choice"
      value={law.kind}
      options={[
        { value: "linear", text: "linear" },
        { value: "exponential", text: "equal ratios" },
        { value: "power", text: "power" },
        { value: "bipolar", text: "about a centre" },
        { value: "decibel", text: "fader, dB" },
        { value: "table", text: "smooth through points" },
        { value: "segments", text: "straight between points" },
        { value: "list", text: "a value each" },
      ]}
      wrong={at("/law/kind")}
      take={kind}
    />
    <Field
      label="Unit"
      how="choice"
      value={law.unit}
      options={units}
      wrong={at("/law/unit")}
      take={(t) => {
        put({ unit: t }, "unit");
        return undefined;
      }}
    />
    {#each numbers as [name, label] (name)}
      <Field
        {label}
        value={name === "exponent" && kept[name] === undefined
          ? ""
          : show(kept[name])}
        hint={name === "exponent" ? "1" : ""}
        wrong={at(`/law/${name}`)}
        typed={(t) => number(name, t, "")}
        take={(t) => number(name, t, label.toLowerCase())}
      />
    {/each}
    {#if numbers.length && law.kind !== "bipolar"}
      <Field
        label="An end that is off"
        how="choice"
        value={law.off ?? ""}
        options={[
          { value: "", text: "none" },
          { value: "bottom", text: "the bottom" },
          { value: "top", text: "the top" },
        ]}
        wrong={at("/law/off")}
        take={(t) => {
          put({ off: t as "bottom" }, "end that is off");
          return undefined;
        }}
      />
    {/if}
    {#if isTime}
      <Field
        label="The time is"
        how="choice"
        value={law.convention ?? ""}
        options={[
          { value: "", text: "as the stage has it" },
          { value: "ramp", text: "the whole ramp" },
          { value: "tau", text: "the time constant" },
          { value: "t60", text: "to -60 dB" },
          { value: "t90", text: "90 % of the way" },
          { value: "half", text: "half of the way" },
        ]}
        wrong={at("/law/convention")}
        take={(t) => {
          put({ convention: t as "tau" }, "time convention");
          return undefined;
        }}
      />
    {:else if bind.param.endsWith(".depth") || bind.param.endsWith(".amount") || law.swing}
      <Field
        label="Depth counts"
        how="choice"
        value={law.swing ?? ""}
        options={[
          { value: "", text: "to the peak" },
          { value: "peak-to-peak", text: "peak to peak" },
          { value: "peak", text: "to the peak, said so" },
        ]}
        wrong={at("/law/swing")}
        take={(t) => {
          put({ swing: t as "peak" }, "swing");
          return undefined;
        }}
      />
    {/if}
    <Field
      label="Known from"
      how="choice"
      value={law.source ?? ""}
      options={[
        { value: "", text: "not said" },
        { value: "stated", text: "the maker's words" },
        { value: "measured", text: "measuring" },
        { value: "assumed", text: "assumed" },
      ]}
      wrong={at("/law/source")}
      take={(t) => {
        put({ source: t as "stated" }, "where the law is from");
        return undefined;
      }}
    />
    <Field
      label="Uncertainty (k = 1)"
      value={uText}
      hint={law.source === "assumed" ? "5 % where none is given" : "3 % or 0.5"}
      wrong={at("/law/uncertainty")}
      take={uncertainty}
    />
  </div>
  {#if law.kind === "table" || law.kind === "segments"}
    <Field
      how="area"
      label={`Points, one a line: travel from 0 to 1 = value in ${law.unit}`}
      rows={Math.min(5, (kept.points ?? []).length + 1)}
      value={pointsText}
      wrong={at("/law/points")}
      typed={(t) => points(t, "")}
      take={(t) => points(t, "points")}
    />
  {:else if law.kind === "list" && face.entries}
    <div class="values" role="group" aria-label="A value for each position">
      {#each face.entries as entry, i (i)}
        <Field
          label={entry}
          value={valueText(kept.values?.[i])}
          hint="–"
          wrong={at(`/law/values/${i}`)}
          typed={(t) => oneValue(i, t, "")}
          take={(t) => oneValue(i, t, `value of ${entry}`)}
        />
      {/each}
    </div>
    {#if at("/law/values")}<p class="red small">{at("/law/values")}</p>{/if}
  {:else if law.kind === "list"}
    <Field
      label="Values, one a position, divided by |"
      value={(kept.values ?? []).map(valueText).join(" | ")}
      wrong={at("/law/values")}
      typed={(t) => allValues(t, "")}
      take={(t) => allValues(t, "values")}
    />
  {/if}
  {#if marking}
    <form
      class="marks"
      onsubmit={(e) => {
        e.preventDefault();
        void fit();
      }}
    >
      <label for={`marks-${n}`}
        >Printed marks, one a line: mark = value in {law.unit}</label
      >
      <textarea
        id={`marks-${n}`}
        class="num"
        rows="4"
        spellcheck="false"
        placeholder={"0 = 20 Hz\n5 = 400 Hz\n10 = 8 kHz"}
        bind:value={marks}
        onkeydown={(e) => {
          if (e.key === "Enter" && (e.ctrlKey || e.metaKey)) void fit();
          else if (e.key === "Escape") {
            e.stopPropagation();
            marking = false;
          }
        }}></textarea>
      <div class="bar">
        <Button
          size="small"
          kind="tertiary"
          type="submit"
          disabled={!marks.trim()}>Make the law</Button
        >
        <span class="small" aria-live="polite">
          {#if wrong}<span class="red">{wrong}</span>{:else if says}<span
              class="reason">{says}</span
            >{:else}<span class="soft"
              ><kbd>Ctrl</kbd> <kbd>Enter</kbd> makes it; undo takes it back</span
            >{/if}
        </span>
      </div>
    </form>
  {/if}
</section>

<style>
  section {
    margin-top: 0.75rem;
    padding: 0.5rem 0.75rem 0.75rem;
    background: var(--shade);
    border-left: 3px solid var(--rule);
  }
  .top {
    display: flex;
    gap: 1rem;
    align-items: baseline;
  }
  .top h3 {
    margin: 0 auto 0.25rem 0;
  }
  .form {
    display: grid;
    grid-template-columns: repeat(5, minmax(0, 1fr));
    gap: 0.375rem 0.75rem;
  }
  .two {
    grid-column: span 2;
  }
  .values {
    display: grid;
    grid-template-columns: repeat(auto-fill, minmax(7rem, 1fr));
    gap: 0.25rem 0.75rem;
    margin-top: 0.375rem;
    max-height: 14rem;
    overflow: auto;
  }
  .marks {
    margin-top: 0.5rem;
  }
  .marks label {
    font-size: 0.75rem;
    color: var(--ink-2);
  }
  textarea {
    display: block;
    box-sizing: border-box;
    width: 100%;
    font-size: 0.8125rem;
    line-height: 1.125rem;
    padding: 0.25rem 0.375rem;
    color: var(--ink);
    background: var(--sheet);
    border: 1px solid var(--rule);
  }
  .marks .bar {
    margin-top: 0.375rem;
  }
  .rule {
    margin-bottom: 0.5rem;
    min-height: 3.75rem;
    background: var(--sheet);
    padding: 0.375rem 0.5rem;
    border: 1px solid var(--rule);
  }
</style>
