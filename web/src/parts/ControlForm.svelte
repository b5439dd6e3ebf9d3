<script lang="ts">
  import { untrack } from "svelte";
  import { ask, part } from "../lib/api";
  import { app } from "../lib/app.svelte";
  import { numberOf } from "../lib/panel";
  import type {
    Bind,
    Control,
    Face,
    Fault,
    Panel,
    Tried,
    Vocabulary,
  } from "../lib/types";
  import Field from "./Field.svelte";
  import LawForm from "./LawForm.svelte";

  /** One control: its face, what it sets and by which laws, with the rule drawn as it is typed. */
  let {
    control,
    panel,
    vocabulary,
    faults,
    save,
    rename,
  }: {
    control: Control;
    panel: Panel;
    vocabulary: Vocabulary;
    faults: Fault[];
    save: (what: string, now: Control) => void;
    rename: (to: string) => void;
  } = $props();

  // the control as it is being typed
  let c = $state<Control>(untrack(() => $state.snapshot(control)));
  let tried = $state<Tried | null>(null);
  $effect.pre(() => {
    const now = $state.snapshot(control);
    untrack(() => (c = now));
  });
  let asked = 0;
  $effect(() => {
    const body = JSON.stringify(c);
    const n = ++asked;
    ask<Tried>("POST", `/panels/${part(panel.id)}/workshop/try`, body)
      .then((t) => {
        if (n === asked) tried = t;
      })
      .catch((e: unknown) => app.fail(e));
  });

  const at = (path: string) =>
    tried?.faults.find((f) => f.path === path)?.message ??
    faults.find((f) => f.path === path || f.path.startsWith(path + "/"))
      ?.message ??
    "";

  type Num = "min" | "max" | "step" | "decimals" | "minutes" | "between";
  type Word = "prefix" | "suffix" | "from" | "to";
  function number(name: Num, text: string): string | undefined {
    const n = numberOf(text);
    if (typeof n === "string") return n;
    const f = { ...c.face };
    if (n === undefined || (n === 0 && name !== "decimals")) delete f[name];
    else f[name] = n;
    c.face = f;
    return undefined;
  }
  const commit = (what: string) => save(what, $state.snapshot(c));
  function putNumber(name: Num, text: string) {
    const wrong = number(name, text);
    if (!wrong) commit(name);
    return wrong;
  }
  function word(name: Word, text: string) {
    const f = { ...c.face };
    if (text) f[name] = text;
    else delete f[name];
    c.face = f;
    return undefined;
  }
  function flag(name: "sign" | "exact", text: string) {
    const f = { ...c.face };
    if (text) f[name] = true;
    else delete f[name];
    c.face = f;
    commit(name);
    return undefined;
  }
  function kind(text: string) {
    // what only the old kind of face has goes; undo brings it back
    const f: Face = { kind: text as Face["kind"] };
    if (text === "numeric") Object.assign(f, { max: 127, step: 1 });
    if (text === "list" || text === "switch")
      f.entries = c.face.entries ?? ["off", "on"];
    if (text === "marks") {
      f.marks = c.face.marks ?? [
        { at: 0, legend: "0" },
        { at: 1, legend: "10" },
      ];
      f.between = 10;
    }
    c.face = f;
    const first = { numeric: "0", clock: "7:00", text: "" }[text];
    if (first !== undefined) c.init = first;
    else c.init = f.entries?.[0] ?? f.marks?.[0]?.legend ?? "";
    commit("face");
    return undefined;
  }
  function entries(text: string) {
    c.face = {
      ...c.face,
      entries: text
        .split("\n")
        .map((x) => x.trim())
        .filter(Boolean),
    };
    return undefined;
  }
  const marksText = $derived(
    (control.face.marks ?? []).map((m) => `${m.at} = ${m.legend}`).join("\n"),
  );
  function marks(text: string): string | undefined {
    const out: { at: number; legend: string }[] = [];
    for (const line of text.split("\n")) {
      if (!line.trim()) continue;
      const i = line.indexOf("=");
      const at = numberOf(line.slice(0, Math.max(0, i)));
      if (i < 1 || typeof at !== "number")
        return `expected travel from 0 to 1 = legend, got "${line.trim()}"`;
      out.push({ at, legend: line.slice(i + 1).trim() });
    }
    c.face = { ...c.face, marks: out };
    return undefined;
  }
  function midi(name: "cc" | "nrpn" | "byte", text: string) {
    const n = numberOf(text);
    if (typeof n === "string") return n;
    const m = { ...c.midi };
    if (n === undefined) delete m[name];
    else m[name] = n;
    if (Object.keys(m).filter((k) => k !== "values").length === 0)
      delete c.midi;
    else c.midi = m;
    commit("MIDI address");
    return undefined;
  }
  function midiValues(text: string) {
    if (!c.midi) return "expected an address first";
    const m = { ...c.midi };
    if (text) m.values = text as "full" | "index";
    else delete m.values;
    c.midi = m;
    commit("MIDI values");
    return undefined;
  }
  const live = (f: (text: string) => string | undefined) => f;
  const then =
    (what: string, f: (text: string) => string | undefined) =>
    (text: string) => {
      const wrong = f(text);
      if (!wrong) commit(what);
      return wrong;
    };
  const show = (n: number | undefined) => (n === undefined ? "" : String(n));

  function addLaw() {
    c.means = [
      ...(c.means ?? []),
      {
        param: "",
        law: {
          kind:
            c.face.kind === "list" || c.face.kind === "switch"
              ? "list"
              : "linear",
          unit: "fraction",
          max: 1,
          source: "assumed",
        },
      },
    ];
    commit("a law more");
  }
  function setLaw(i: number, b: Bind, what: string) {
    c.means = (c.means ?? []).map((x, n) => (n === i ? b : x));
    if (what) commit(what);
  }
  function dropLaw(i: number) {
    const left = (c.means ?? []).filter((_, n) => n !== i);
    if (left.length) c.means = left;
    else delete c.means;
    commit("a law less");
  }
</script>

<div class="form">
  <Field
    id="first-field"
    label="Id"
    value={control.id}
    wrong={at("/id")}
    take={(t) => {
      if (t.trim() !== control.id) rename(t.trim());
      return undefined;
    }}
  />
  <Field
    label="Label"
    mono={false}
    value={control.label}
    wrong={at("/label")}
    take={(t) => {
      c.label = t.trim();
      commit("label");
      return undefined;
    }}
  />
  <Field
    label="Section"
    how="choice"
    value={control.section}
    options={panel.sections.map((s) => ({ value: s.id, text: s.label }))}
    wrong={at("/section")}
    take={(t) => {
      c.section = t;
      commit("section");
      return undefined;
    }}
  />
  <Field
    label="Init"
    value={control.init}
    wrong={at("/init")}
    hint={tried?.expects ?? ""}
    typed={(t) => {
      c.init = t;
      return undefined;
    }}
    take={then("init", (t) => {
      c.init = t;
      return undefined;
    })}
  />
  <Field
    label="Aliases, by commas"
    mono={false}
    value={(control.aliases ?? []).join(", ")}
    take={(t) => {
      const all = t
        .split(",")
        .map((x) => x.trim())
        .filter(Boolean);
      if (all.length) c.aliases = all;
      else delete c.aliases;
      commit("aliases");
      return undefined;
    }}
  />
  <Field
    label="In a menu or shift layer"
    how="flag"
    value={control.hidden ? "yes" : ""}
    take={(t) => {
      if (t) c.hidden = true;
      else delete c.hidden;
      commit("hidden");
      return undefined;
    }}
  />
</div>

<h3>Face</h3>
<div class="form four">
  <Field
    label="Kind"
    how="choice"
    value={control.face.kind}
    wrong={at("/face/kind")}
    options={[
      { value: "numeric", text: "numbers" },
      { value: "clock", text: "unmarked, a clock" },
      { value: "marks", text: "printed marks" },
      { value: "list", text: "list" },
      { value: "switch", text: "switch" },
      { value: "text", text: "free text" },
    ]}
    take={kind}
  />
  {#if c.face.kind === "numeric"}
    {#each [["min", "From"], ["max", "To"], ["step", "Step"]] as const as [name, label] (name)}
      <Field
        {label}
        value={show(control.face[name] ?? 0)}
        wrong={at(`/face/${name}`)}
        typed={live((t) => number(name, t))}
        take={(t) => putNumber(name, t)}
      />
    {/each}
    <Field
      label="Decimals shown"
      value={show(control.face.decimals)}
      hint="as many as the step has"
      wrong={at("/face/decimals")}
      typed={live((t) => number("decimals", t))}
      take={(t) => putNumber("decimals", t)}
    />
    {#each [["prefix", "Before the number"], ["suffix", "After it"]] as const as [name, label] (name)}
      <Field
        {label}
        value={control.face[name] ?? ""}
        typed={live((t) => word(name, t))}
        take={then(name, (t) => word(name, t))}
      />
    {/each}
    <Field
      label="Shows a plus"
      how="flag"
      value={control.face.sign ? "yes" : ""}
      take={(t) => flag("sign", t)}
    />
    <Field
      label="Counts things, exact"
      how="flag"
      value={control.face.exact ? "yes" : ""}
      take={(t) => flag("exact", t)}
    />
  {:else if c.face.kind === "clock"}
    {#each [["from", "Least at", "7:00"], ["to", "Most at", "17:00"]] as const as [name, label, hint] (name)}
      <Field
        {label}
        {hint}
        value={control.face[name] ?? ""}
        wrong={at(`/face/${name}`) || at("/face")}
        typed={live((t) => word(name, t))}
        take={then(name, (t) => word(name, t))}
      />
    {/each}
    <Field
      label="Finest setting, minutes"
      hint="15"
      value={show(control.face.minutes)}
      wrong={at("/face/minutes")}
      typed={live((t) => number("minutes", t))}
      take={(t) => putNumber("minutes", t)}
    />
  {:else if c.face.kind === "marks"}
    <Field
      label="Places the eye holds between marks"
      value={show(control.face.between)}
      hint="1: only the marks"
      wrong={at("/face/between")}
      typed={live((t) => number("between", t))}
      take={(t) => putNumber("between", t)}
    />
    <Field
      wide
      how="area"
      label="Marks, one a line: travel from 0 to 1 = legend"
      value={marksText}
      rows={Math.min(5, (control.face.marks ?? []).length + 1)}
      wrong={at("/face/marks")}
      typed={live(marks)}
      take={then("marks", marks)}
    />
  {:else if c.face.kind === "list" || c.face.kind === "switch"}
    <Field
      wide
      how="area"
      label="Positions, one a line"
      value={(control.face.entries ?? []).join("\n")}
      rows={Math.min(5, (control.face.entries ?? []).length + 1)}
      wrong={at("/face/entries")}
      typed={live(entries)}
      take={then("positions", entries)}
    />
  {/if}
</div>

{#each c.means ?? [] as bind, i (i)}
  <LawForm
    n={i}
    {bind}
    stored={control.means?.[i]}
    face={c.face}
    drawn={tried?.means[i]}
    {panel}
    {vocabulary}
    at={(path) => at(`/means/${i}${path}`)}
    set={(b, what) => setLaw(i, b, what)}
    drop={() => dropLaw(i)}
  />
{/each}
<p class="add">
  {#if !c.means?.length}<span class="reason"
      >The control sets nothing: its reading is only written down.</span
    >{/if}
  <button class="linkish" onclick={addLaw}
    >{c.means?.length
      ? "It sets another thing too"
      : "Say what it sets"}</button
  >
</p>

<h3>MIDI address and note</h3>
<div class="form four">
  <Field
    label="CC"
    value={show(control.midi?.cc)}
    wrong={at("/midi/cc")}
    take={(t) => midi("cc", t)}
  />
  <Field
    label="NRPN"
    value={show(control.midi?.nrpn)}
    wrong={at("/midi/nrpn")}
    take={(t) => midi("nrpn", t)}
  />
  <Field
    label="Byte of the dump"
    value={show(control.midi?.byte)}
    wrong={at("/midi/byte")}
    take={(t) => midi("byte", t)}
  />
  <Field
    label="Numbers count"
    how="choice"
    value={control.midi?.values ?? ""}
    options={[
      { value: "", text: "as usual" },
      { value: "full", text: "the whole range" },
      { value: "index", text: "the positions from 0" },
    ]}
    wrong={at("/midi/values")}
    take={midiValues}
  />
  <Field
    wide
    how="area"
    mono={false}
    rows={2}
    label="Note"
    value={control.note ?? ""}
    take={(t) => {
      if (t.trim()) c.note = t.trim();
      else delete c.note;
      commit("note");
      return undefined;
    }}
  />
</div>

<style>
  .form {
    display: grid;
    grid-template-columns: repeat(3, minmax(0, 1fr));
    gap: 0.5rem 1rem;
  }
  .four {
    grid-template-columns: repeat(4, minmax(0, 1fr));
  }
  h3 {
    margin: 1rem 0 0.25rem;
  }
  .add {
    margin: 0.75rem 0 0;
  }
</style>
