// A patch as it is read and edited: its readings, layers, cables, phrase and versions.
import { tick } from "svelte";
import { refused } from "./api";
import { app } from "./app.svelte";
import * as patches from "./calls/patches";
import * as sheets from "./calls/sheets";
import { load } from "./load.svelte";
import { Places } from "./places";
import { route } from "./route.svelte";
import { words } from "./words";
import type {
  Flavour,
  Move,
  MoveView,
  Cable,
  Found,
  LayerView,
  PasteResult,
  PatchHead,
  PatchLine,
  PatchView,
  Phrase,
  Taken,
  PhrasePresets,
  Versions,
} from "./types";

type Drawer = "" | "phrase" | "versions" | "layer" | "cables";

/** A length in whole notes as it is written. */
const fraction = (whole: number) => {
  let n = Math.round(whole * 64);
  if (n <= 0) return "0";
  let d = 64;
  while (n % 2 === 0 && d > 1) {
    n /= 2;
    d /= 2;
  }
  return `${n}/${d}`;
};

export class PatchState {
  readonly id: string;
  view: PatchView | null = $state(null);
  missing = $state("");
  /** All readings are shown, not only those that differ from init. */
  all = $state(false);
  target = $state("");
  layer = $state("");

  // the reading that is being typed
  editing = $state(false);
  typed = $state("");
  wrong = $state("");
  preview: PatchLine | null = $state(null);
  field: HTMLInputElement | null = $state(null);

  // what is open beside the readings
  head = $state(false);
  pasting = $state(false);
  drawer: Drawer = $state("");
  versions: Versions | null = $state.raw(null);
  presets: PhrasePresets | null = $state.raw(null);

  readonly rows = new Places();
  readonly onLayer = $derived(
    this.view?.layerViews.find((l) => l.id === this.layer),
  );
  readonly lines = $derived(this.onLayer?.lines ?? []);
  readonly cables = $derived(this.onLayer?.cables ?? []);
  readonly shown = $derived(
    this.all
      ? this.lines
      : this.lines.filter((l) => !l.atInit || l.control === route.line),
  );
  readonly chosen = $derived(
    this.shown.find((l) => l.control === route.line) ?? this.shown[0],
  );

  constructor(id: string) {
    this.id = id;
    load(
      () => patches.get(id),
      (v) => this.take(v),
      (detail) => (this.missing = detail),
    );
    $effect(() => {
      const l = this.chosen;
      app.carry = l?.meaning
        ? {
            value: l.meaning,
            of: `${this.view?.name ?? ""}: ${l.section} ${l.label}`,
            tempo: this.view?.tempo ?? 0,
          }
        : null;
      return () => (app.carry = null);
    });
  }

  take = (v: PatchView) => {
    this.view = v;
    this.missing = "";
    app.pending = v.pending;
    if (!v.layers.includes(this.layer)) this.layer = v.layers[0] ?? "";
    if (!v.targets.some((t) => t.id === this.target))
      this.target = v.targets[0]?.id ?? "";
    document.title = `${v.name} - Glossator`;
  };

  /** Changes the patch and says so; tells whether it did. */
  private async change(
    what: string,
    work: () => Promise<PatchView>,
    more = "",
  ): Promise<boolean> {
    const v = await app.attempt(work);
    if (!v) return false;
    this.take(v);
    app.say(what, [v.said, more].filter(Boolean).join(" "));
    return true;
  }

  pointName = (id: string) =>
    this.view?.points.find((p) => p.id === id)?.label ?? id;
  layerName = (l: LayerView) => l.label || `layer ${l.id}`;

  // readings
  async choose(l: PatchLine | undefined) {
    if (!l) return;
    route.choose(l.control);
    await tick();
    this.rows.show(l.control);
  }
  move(by: number) {
    const i = this.shown.findIndex((l) => l.control === this.chosen?.control);
    const to = Math.min(this.shown.length - 1, Math.max(0, i + by));
    void this.choose(this.shown[to]);
  }
  close = () => {
    this.editing = false;
    this.wrong = "";
    this.preview = null;
  };
  /** Opens the field of the chosen line, empty where a key press is about to fill it. */
  edit(empty = false): boolean {
    if (!this.chosen) return false;
    route.choose(this.chosen.control);
    this.typed = empty ? "" : this.chosen.reading;
    this.wrong = "";
    this.preview = null;
    this.editing = true;
    return true;
  }
  private asked = 0;
  /** Shows what the typed reading would mean. */
  tryOut = async () => {
    const l = this.chosen;
    if (!l || !this.typed.trim()) return;
    const n = ++this.asked;
    try {
      const p = await patches.tryOut(
        this.id,
        this.layer,
        l.control,
        this.typed,
      );
      if (n === this.asked) [this.preview, this.wrong] = [p, ""];
    } catch (e) {
      if (n === this.asked)
        [this.preview, this.wrong] = [null, refused(e) ?? ""];
    }
  };
  private async put(
    l: PatchLine | undefined,
    work: (control: string) => Promise<PatchView>,
    on = false,
  ) {
    if (!l) return;
    const at = this.shown.findIndex((x) => x.control === l.control);
    const after = this.shown[at + 1]?.control;
    try {
      this.take(await work(l.control));
    } catch (e) {
      this.wrong = (this.editing && refused(e)) || "";
      if (!this.wrong) app.fail(e);
      return;
    }
    this.close();
    const now = this.lines.find((x) => x.control === l.control);
    app.say(
      `${l.label}: ${now?.reading ?? ""}`,
      now?.meaning ? `It means ${now.meaning}.` : "",
    );
    // what was typed is done: the next one is at hand
    const next = on ? this.lines.find((x) => x.control === after) : undefined;
    await this.choose(next ?? now);
  }
  set = (l: PatchLine, reading: string) =>
    this.put(
      l,
      (c) => patches.setReading(this.id, this.layer, c, reading),
      true,
    );
  step = (by: number) =>
    this.put(this.chosen, (c) => patches.step(this.id, this.layer, c, by));
  /** Says of the chosen reading that it is to taste, or that it is not. */
  toTaste = () => {
    const l = this.chosen;
    if (!l) return;
    void this.change(
      `${l.label} is ${l.taste ? "not to taste" : "to taste"}`,
      () => patches.setTaste(this.id, this.layer, l.control, !l.taste),
    ).then(() => this.choose(this.chosen));
  };
  toInit = () =>
    this.put(this.chosen, (c) => patches.toInit(this.id, this.layer, c));

  /** Takes many readings at once: of notes, of a MIDI file. */
  setReadings = (readings: Record<string, string>) =>
    this.change(
      `${Object.keys(readings).length} readings taken`,
      () => patches.setReadings(this.id, this.layer, readings),
      "Undo takes them away together.",
    );
  readNotes = (notes: string): Promise<PasteResult | undefined> =>
    app.attempt(() => patches.readNotes(this.id, this.layer, notes));
  /** What a text is taken for on a control, or what is wrong with it. Nothing is stored. */
  async takeOne(control: string, text: string): Promise<[string, string]> {
    try {
      const l = await patches.tryOut(this.id, this.layer, control, text);
      return [l.reading, ""];
    } catch (e) {
      const says = refused(e);
      if (!says) app.fail(e);
      return ["", says ?? ""];
    }
  }
  /** Whether the instrument is listened to. */
  listening = $state(false);
  hear = (before: number[], now: number[]): Promise<Found> =>
    patches.received(this.id, this.layer, before, now);
  /** A control was moved on the instrument: its reading is taken. */
  moved = async (t: Taken): Promise<string> => {
    const l = this.lines.find((x) => x.control === t.control);
    if (!l) return `${t.section} ${t.label} stands at ${t.reading}`;
    if (t.same) await this.choose(l);
    else
      await this.put(l, (c) =>
        patches.setReading(this.id, this.layer, c, t.reading),
      );
    return `${t.section} ${t.label} ${t.reading}${t.same ? ", as it stands" : " taken"}`;
  };
  readMIDI = (file: File): Promise<Found | undefined> =>
    app.attempt(() => patches.readMIDI(this.id, this.layer, file));

  // the head
  async saveHead(head: PatchHead) {
    const done = await this.change("Changed", () =>
      patches.setHead(this.id, head),
    );
    if (done) this.head = false;
  }

  // cables and layers
  plug(from: string, to: string) {
    const kept = this.cables.filter((c) => c.to !== to);
    return this.change(
      `${this.pointName(from)} into ${this.pointName(to)}`,
      () => patches.setCables(this.id, this.layer, [...kept, { from, to }]),
    );
  }
  unplug = (c: Cable) =>
    this.change(`Took the cable out of ${this.pointName(c.to)}`, () =>
      patches.setCables(
        this.id,
        this.layer,
        this.cables.filter((x) => x.to !== c.to),
      ),
    );
  async addLayer(like: string) {
    const before = new Set(this.view?.layers ?? []);
    if (await this.change("Layer added", () => patches.addLayer(this.id, like)))
      this.layer = this.view?.layers.find((l) => !before.has(l)) ?? this.layer;
  }
  // one after the other: each sends the other fields as the one before has left them
  private settingLayer: Promise<unknown> = Promise.resolve();
  setLayer(field: "label" | "transpose" | "level", text: string) {
    this.settingLayer = this.settingLayer.then(async () => {
      if (!this.onLayer) return;
      const { label, transpose, level } = this.onLayer;
      await this.change("Layer changed", () =>
        patches.setLayer(this.id, this.layer, {
          label,
          transpose,
          level,
          [field]: text,
        }),
      );
    });
  }
  removeLayer = (l: LayerView) =>
    this.change(`${this.layerName(l)} deleted`, () =>
      patches.removeLayer(this.id, l.id),
    );
  nextLayer() {
    const all = this.view?.layers ?? [];
    this.layer = all[(all.indexOf(this.layer) + 1) % all.length] ?? this.layer;
  }

  // drawers
  show(which: Drawer) {
    this.drawer = this.drawer === which ? "" : which;
  }
  closeDrawer = () => {
    this.drawer = "";
    void this.choose(this.chosen);
  };
  /** Closes what is open; tells whether anything was. */
  closeAll(): boolean {
    const open =
      this.editing ||
      this.head ||
      this.pasting ||
      this.listening ||
      !!this.drawer;
    this.close();
    this.head = this.pasting = this.listening = false;
    this.drawer = "";
    return open;
  }

  // the phrase
  readPresets = () =>
    app.attempt(async () => {
      this.presets = await patches.presets(this.id);
    });
  makePhrase = (preset: string, note: string) =>
    app.attempt(async () =>
      this.take(await patches.makePhrase(this.id, preset, note)),
    );
  setPhrase = (phrase: Phrase) =>
    app.attempt(async () =>
      this.take(await patches.setPhrase(this.id, phrase)),
    );
  namePhrase = (name: string) =>
    this.view?.phrase &&
    this.setPhrase({ ...$state.snapshot(this.view.phrase), name });
  readPhrase = (file: File) =>
    this.change(
      "The line was read",
      () => patches.phraseFromMIDI(this.id, file),
      "Undo brings the old one back.",
    );

  // what is moved while the phrase is played
  /** Where the notes end, in whole notes. */
  readonly lineEnd = $derived(
    Math.max(
      0,
      ...(this.view?.line?.notes ?? []).map(
        (n) => (n.at + n.for) / words.whole,
      ),
    ),
  );
  private get moves(): Move[] {
    return $state.snapshot(this.view?.phrase?.moves ?? []);
  }
  /** Adds a move that is said in words; gives what is wrong with them. */
  async moveLine(line: string): Promise<string> {
    try {
      this.take(
        await patches.setMoves(this.id, this.moves, {
          line,
          layer: this.layer,
        }),
      );
      return "";
    } catch (e) {
      const says = refused(e);
      if (!says) app.fail(e);
      return says ?? "it was not taken";
    }
  }
  private same = (m: Move, v: MoveView) =>
    m.what === v.what &&
    (m.layer ?? "") === (v.layer ?? "") &&
    m.at === v.at &&
    m.for === v.for &&
    m.from === v.from &&
    m.to === v.to;
  dropMove = (v: MoveView) =>
    this.change("Taken out", () => {
      const all = this.moves;
      all.splice(
        all.findIndex((m) => this.same(m, v)),
        1,
      );
      return patches.setMoves(this.id, all);
    });
  // one after another: each is made on what the one before has left
  private moving: Promise<unknown> = Promise.resolve();
  /** Moves a move by a step: when it is, how long, where it begins or goes. */
  shiftMove(v: MoveView, by: number, what: "at" | "for" | "from" | "to") {
    const at = this.view?.moves.indexOf(v) ?? -1;
    this.moving = this.moving.then(async () => {
      const now = this.view?.moves[at];
      const all = this.moves;
      const m = all.find((x) => now && this.same(x, now));
      if (!m || !now) return;
      let step: patches.MoreMoves["step"];
      if (what === "at") m.at = fraction(Math.max(0, now.start + by / 16));
      else if (what === "for")
        m.for = fraction(Math.max(0, now.end - now.start + by / 16));
      else if (/ %$/.test(m[what]) && words.means.includes(m.what)) {
        const low = m.what === "bend" ? -100 : 0;
        const to = Math.round((parseFloat(m[what]) + 5 * by) / 5) * 5;
        m[what] = `${Math.min(100, Math.max(low, to))} %`;
      } else {
        step = { index: all.indexOf(m), end: what, by };
      }
      const got = await app.attempt(() =>
        patches.setMoves(this.id, all, { step }),
      );
      if (got) this.take(got);
    });
  }

  // flavours
  /** The flavour that is heard; empty for the patch as it stands. */
  flavour = $state("");
  /** The part that is heard alone; empty for all. */
  only = $state("");
  private get flavours(): Flavour[] {
    return (this.view?.flavours ?? []).map((f) => ({
      name: f.name,
      note: f.note,
      sets: f.sets.map(({ layer, control, reading }) => ({
        layer,
        control,
        reading,
      })),
    }));
  }
  /** Takes a flavour that is said in words; gives what is wrong with them. */
  async flavourLine(line: string): Promise<string> {
    try {
      const layer = this.layer;
      this.take(
        await patches.setFlavours(this.id, this.flavours, { line, layer }),
      );
      return "";
    } catch (e) {
      const says = refused(e);
      if (!says) app.fail(e);
      return says ?? "it was not taken";
    }
  }
  /** Takes a flavour out, or one of its readings. */
  dropFlavour = (name: string, at?: number) =>
    this.change("Taken out", () => {
      const all = this.flavours;
      const f = all.find((x) => x.name === name);
      if (f && at !== undefined && f.sets.length > 1) f.sets.splice(at, 1);
      else {
        if (this.flavour === name) this.flavour = "";
        all.splice(
          all.findIndex((x) => x.name === name),
          1,
        );
      }
      return patches.setFlavours(this.id, all);
    });
  ownPatch = (name: string) =>
    app.attempt(async () => {
      const row = await patches.flavourCopy(this.id, name);
      app.say("A patch of its own", row.name);
      route.go(`/patches/${encodeURIComponent(row.id)}`);
    });
  /** Hears the part of the chosen line alone, or all again. */
  alone() {
    const part = this.chosen?.param.split(".")[0] ?? "";
    this.only = this.only || !part ? "" : part;
  }

  // versions
  readVersions = () =>
    load(
      () => patches.versions(this.id),
      (v) => (this.versions = v),
    );
  keepVersion = (note: string) =>
    app.attempt(async () => {
      const before = this.versions?.versions.length ?? 0;
      const list = await patches.keepVersion(this.id, note);
      this.versions = list;
      app.pending = list.pending;
      app.say(
        list.versions.length > before
          ? `Version ${list.versions[0]?.number} kept`
          : "Nothing has changed since the last version",
      );
    });
  restoreVersion = async (number: number) => {
    const done = await this.change(
      `Back to version ${number}`,
      () => patches.restoreVersion(this.id, number),
      "Undo takes it forward again.",
    );
    if (done) app.changed++;
  };

  // the patch as a whole
  copy = () =>
    app.attempt(async () => {
      const row = await patches.copy(this.id);
      app.say("Duplicated", row.name);
      route.go(`/patches/${encodeURIComponent(row.id)}`);
    });
  translate = () =>
    app.attempt(async () => {
      const { id, target, layer } = this;
      const s = await sheets.open({ patch: id, target, layer });
      route.go(`/sheets/${s.id}`);
    });
  remove = () =>
    app.attempt(async () => {
      await patches.remove(this.id);
      app.say("Deleted", `${this.view?.name ?? this.id}; undo brings it back.`);
      app.changed++;
      route.go("/patches");
    });
  listen = () => patches.listen(this.id);
  live = (from: number, seconds: number, signal: AbortSignal) =>
    patches.live(
      this.id,
      { from, seconds, flavour: this.flavour, only: this.only },
      signal,
    );
}
