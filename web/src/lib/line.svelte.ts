// Step entry of the line that a sound is tried with. Every change is stored at once. Places and
// lengths are in the program's units of a whole note, notes are MIDI note numbers.
import { untrack } from "svelte";
import { app } from "./app.svelte";
import * as patches from "./calls/patches";
import type { PatchState } from "./patch.svelte";
import type { LineNote } from "./types";
import { words } from "./words";

export type Step = { at: number; notes: LineNote[] };

const clamp = (v: number, low: number, high: number) =>
  Math.min(high, Math.max(low, v));

/** The notes by when they begin. */
function stepsOf(notes: LineNote[]): Step[] {
  const out: Step[] = [];
  for (const n of [...notes].sort((a, b) => a.at - b.at || a.key - b.key)) {
    const last = out.at(-1);
    if (last?.at === n.at) last.notes.push(n);
    else out.push({ at: n.at, notes: [n] });
  }
  return out;
}

export class LineState {
  private p: PatchState;
  readonly whole = words.whole;
  /** The lengths that are stepped through. */
  readonly lengths = [1 / 32, 1 / 16, 1 / 8, 1 / 4, 1 / 2, 1, 2].map(
    (v) => v * this.whole,
  );
  // what a new note is like
  length = $state(this.whole / 8);
  velocity = $state(100);
  octave = $state(2);

  notes: LineNote[] = $state.raw([]);
  readonly steps = $derived(stepsOf(this.notes));
  readonly end = $derived(Math.max(0, ...this.notes.map((n) => n.at + n.for)));
  /** The step at the cursor; a step beyond the last one is the end of the line. */
  cursor = $state(0);
  /** The note of the step that is chosen. */
  voice = $state(0);
  readonly step = $derived(this.steps[this.cursor]);
  readonly note = $derived(
    this.step?.notes[Math.min(this.voice, this.step.notes.length - 1)],
  );

  constructor(p: PatchState) {
    this.p = p;
    $effect.pre(() => {
      const now = this.p.view?.line?.notes ?? [];
      untrack(() => {
        if (!this.sending && !this.next) this.notes = now;
      });
    });
    this.notes = untrack(() => p.view?.line?.notes ?? []);
    this.cursor = untrack(() => this.steps.length);
    $effect(() => {
      void this.p.readPresets();
      // a page that is left sends what is still to be sent
      const leave = () => {
        if (this.next)
          void patches.setLine(this.p.id, this.line(this.next), true);
      };
      addEventListener("pagehide", leave);
      return () => removeEventListener("pagehide", leave);
    });
  }

  // What is still to be sent: the newest line only, while the answer to another is on its way.
  private next: LineNote[] | null = null;
  private sending = false;
  private line = (notes: LineNote[]) => ({
    name: this.p.view?.line?.name ?? "",
    notes,
  });
  store(now: LineNote[]) {
    this.notes = this.next = now;
    if (!this.sending) void this.send();
  }
  private async send() {
    this.sending = true;
    while (this.next) {
      const now: LineNote[] = this.next;
      this.next = null;
      try {
        const v = await patches.setLine(this.p.id, this.line(now));
        if (!this.next) {
          this.sending = false;
          this.p.take(v);
        }
      } catch (e) {
        this.next = null;
        this.sending = false;
        app.fail(e);
        app.changed++; // show again what the program has
      }
    }
    this.sending = false;
  }

  go(cursor: number, voice = 0) {
    this.cursor = clamp(cursor, 0, this.steps.length);
    this.voice = voice;
  }

  change(to: Partial<LineNote>) {
    const note = this.note;
    if (!note) return;
    this.store(this.notes.map((n) => (n === note ? { ...note, ...to } : n)));
  }

  /** The note name of a key. */
  name = (key: number) => words.notes[key] ?? "";

  /** A place or length as a fraction of a whole note, in lowest terms. */
  fraction(v: number): string {
    const gcd = (a: number, b: number): number => (b ? gcd(b, a % b) : a);
    const g = gcd(v, this.whole);
    return v > 0 ? `${v / g}/${this.whole / g}` : "0";
  }

  /** The key of a letter: in the chosen octave for the first note, else the nearest to the note before. */
  private keyOf(letter: string): number {
    const at = (octave: number) =>
      words.notes.indexOf(`${letter.toUpperCase()}${octave}`);
    if (this.notes.length === 0) return at(this.octave);
    const before =
      this.note?.key ?? this.steps.slice(0, this.cursor).at(-1)?.notes[0]?.key;
    const from = before ?? at(this.octave);
    return words.notes
      .map((_, key) => key)
      .filter(
        (key) => this.name(key).replace(/-?\d+$/, "") === letter.toUpperCase(),
      )
      .reduce((a, b) => (Math.abs(b - from) < Math.abs(a - from) ? b : a));
  }

  /** A letter sets the chosen note; at the end of the line it adds a step. */
  letter(l: string) {
    const key = this.keyOf(l);
    if (this.note) {
      this.change({ key });
      return;
    }
    const { end, length, velocity } = this;
    this.store([...this.notes, { at: end, for: length, key, velocity }]);
    this.cursor = this.steps.length;
  }

  chord() {
    if (!this.step || !this.note) return;
    const top = Math.max(...this.step.notes.map((n) => n.key));
    const voice = this.step.notes.length;
    this.store([...this.notes, { ...this.note, key: Math.min(127, top + 4) }]);
    this.voice = voice;
  }

  nextVoice() {
    this.voice = this.step ? (this.voice + 1) % this.step.notes.length : 0;
  }

  shift(by: number) {
    if (this.note) this.change({ key: clamp(this.note.key + by, 0, 127) });
    else this.octave = clamp(this.octave + Math.sign(by), -1, 8);
  }

  longer(by: number) {
    const next = (from: number) =>
      by > 0
        ? this.lengths.find((v) => v > from)
        : this.lengths.findLast((v) => v < from);
    const { note, step } = this;
    if (!note || !step) {
      this.length = next(this.length) ?? this.length;
      return;
    }
    const to = next(note.for);
    if (to === undefined) return;
    // what comes after moves along, unless the notes lie over each other
    const follows =
      step.notes.length === 1 &&
      this.steps[this.cursor + 1]?.at === step.at + note.for;
    this.store(
      this.notes.map((n) => {
        if (n === note) return { ...n, for: to };
        return follows && n.at > step.at
          ? { ...n, at: n.at + to - note.for }
          : n;
      }),
    );
  }

  /** Holds the note longer or shorter while the others stay: how notes come to overlap. */
  hold(by: number) {
    const now = (this.note?.for ?? 0) + (by * this.whole) / 32;
    if (now > this.whole / 64) this.change({ for: now });
  }

  rest(by: number) {
    const step = this.step;
    if (!step) return;
    const d = this.length * by;
    if (step.at + d < (this.steps[this.cursor - 1]?.at ?? 0)) return;
    this.store(
      this.notes.map((n) => (n.at >= step.at ? { ...n, at: n.at + d } : n)),
    );
  }

  remove() {
    const note = this.note;
    if (!note) return;
    this.store(this.notes.filter((x) => x !== note));
    this.go(this.cursor);
  }

  louder(by: number) {
    const to = clamp((this.note?.velocity ?? this.velocity) + by, 1, 127);
    if (this.note) this.change({ velocity: to });
    else this.velocity = to;
  }

  /** The chosen note, or what a letter would add, in words. */
  readonly says = $derived.by(() => {
    const { note, step } = this;
    if (!note || !step)
      return `end of the line at ${this.fraction(this.end)}; a letter from a to g adds a note of ${this.fraction(this.length)} at ${this.velocity}`;
    const extra = [
      note.accent ? ", accented" : "",
      note.slide ? ", slid into" : "",
      step.notes.length > 1
        ? `, note ${Math.min(this.voice, step.notes.length - 1) + 1} of ${step.notes.length}`
        : "",
    ].join("");
    return `${this.name(note.key)} at ${this.fraction(note.at)} for ${this.fraction(note.for)}, velocity ${note.velocity}${extra}`;
  });
}
