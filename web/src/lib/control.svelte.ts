// One control as it is being typed: its face, what it sets and by which laws, and the rule of it.
import { untrack } from "svelte";
import { app } from "./app.svelte";
import { bare, columnsOf, listOf, numberOf } from "./forms";
import type { Bind, Control, Face, Tried } from "./types";
import type { WorkshopState } from "./workshop.svelte";

export type FaceNumber =
  "min" | "max" | "step" | "decimals" | "minutes" | "between";
export type FaceWord = "prefix" | "suffix" | "from" | "to";

export class ControlState {
  private s: WorkshopState;
  /** The control as it is typed. */
  c: Control = $state({} as Control);
  /** What the program makes of it. */
  tried: Tried | null = $state(null);

  constructor(s: WorkshopState, stored: () => Control) {
    this.s = s;
    this.c = untrack(() => bare(stored()));
    $effect.pre(() => {
      const now = bare(stored());
      untrack(() => (this.c = now));
    });
    let asked = 0;
    $effect(() => {
      const body = $state.snapshot(this.c);
      const n = ++asked;
      s.tryOut(body)
        .then((t) => {
          if (n === asked) this.tried = t;
        })
        .catch((e: unknown) => app.fail(e));
    });
  }

  /** What is wrong at a place of the control. */
  wrong = (path: string): string =>
    this.tried?.faults.find((f) => f.path === path)?.message ?? this.said(path);

  /** What the check of the panel says of a place, in words. */
  private said(path: string): string {
    const f = this.s.own.find(
      (x) => x.path === path || x.path.startsWith(path + "/"),
    );
    return f?.words || f?.message || "";
  }

  commit = (what: string) => this.s.save(what, $state.snapshot(this.c));

  /** Makes a change as it is typed into one that is stored, where nothing is wrong. */
  then =
    (what: string, take: (text: string) => string | undefined) =>
    (text: string) => {
      const wrong = take(text);
      if (!wrong) this.commit(what);
      return wrong;
    };

  set(change: Partial<Control>) {
    const now: Record<string, unknown> = { ...this.c, ...change };
    for (const [k, v] of Object.entries(change))
      if (v === undefined || v === "" || v === false) delete now[k];
    this.c = now as Control;
    return undefined;
  }

  // the face
  number = (name: FaceNumber, text: string): string | undefined => {
    const n = numberOf(text);
    if (typeof n === "string") return n;
    const f = { ...this.c.face };
    if (n === undefined || (n === 0 && name !== "decimals")) delete f[name];
    else f[name] = n;
    this.c.face = f;
    return undefined;
  };
  word = (name: FaceWord, text: string) => {
    const f = { ...this.c.face };
    if (text) f[name] = text;
    else delete f[name];
    this.c.face = f;
    return undefined;
  };
  flag = (name: "sign" | "exact", text: string) => {
    const f = { ...this.c.face };
    if (text) f[name] = true;
    else delete f[name];
    this.c.face = f;
    this.commit(name);
    return undefined;
  };
  kind = (text: string) => {
    // what only the old kind of face has goes; undo brings it back
    const f: Face = { kind: text as Face["kind"] };
    const was = this.c.face;
    if (text === "numeric") Object.assign(f, { max: 127, step: 1 });
    if (text === "list" || text === "switch")
      f.entries = was.entries ?? ["off", "on"];
    if (text === "marks") {
      f.marks = was.marks ?? [
        { at: 0, legend: "0" },
        { at: 1, legend: "10" },
      ];
      f.between = 10;
    }
    this.c.face = f;
    const first = { numeric: "0", clock: "7:00", text: "" }[text];
    this.c.init = first ?? f.entries?.[0] ?? f.marks?.[0]?.legend ?? "";
    this.commit("face");
    return undefined;
  };
  entries = (text: string) => {
    this.c.face = { ...this.c.face, entries: listOf(text, "\n") };
    return undefined;
  };
  marks = (text: string): string | undefined => {
    const out = columnsOf(text, (x) => x, "travel from 0 to 1 = legend");
    if (typeof out === "string") return out;
    const marks = out.map(([at, legend]) => ({ at, legend }));
    this.c.face = { ...this.c.face, marks };
    return undefined;
  };

  // the MIDI address
  midi = (name: "cc" | "nrpn" | "byte", text: string) => {
    const n = numberOf(text);
    if (typeof n === "string") return n;
    const m = { ...this.c.midi };
    if (n === undefined) delete m[name];
    else m[name] = n;
    const any = Object.keys(m).some((k) => k !== "values");
    this.set({ midi: any ? m : undefined });
    this.commit("MIDI address");
    return undefined;
  };
  midiValues = (text: string) => {
    if (!this.c.midi) return "expected an address first";
    const m = { ...this.c.midi };
    if (text) m.values = text as "full" | "index";
    else delete m.values;
    this.c.midi = m;
    this.commit("MIDI values");
    return undefined;
  };

  // the laws
  addLaw = () => {
    const listed = this.c.face.kind === "list" || this.c.face.kind === "switch";
    const law = {
      kind: listed ? "list" : "linear",
      unit: "fraction",
      max: 1,
      source: "assumed" as const,
    };
    this.c.means = [...(this.c.means ?? []), { param: "", law }];
    this.commit("a law more");
  };
  /** Sets a law; with an empty what it is only drawn. */
  setLaw(i: number, b: Bind, what: string) {
    this.c.means = (this.c.means ?? []).map((x, n) => (n === i ? b : x));
    if (what) this.commit(what);
  }
  dropLaw(i: number) {
    const left = (this.c.means ?? []).filter((_, n) => n !== i);
    this.set({ means: left.length ? left : undefined });
    this.commit("a law less");
  }
}
