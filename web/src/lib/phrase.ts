// Note values and notes as the phrase editor steps through them.
import type { PhraseNote } from "./types";

/** A note value as a number of whole notes; undefined where it is none. Triplets and dots as
    the grammar has them: 1/8t, 1/8. */
export function wholes(text: string): number | undefined {
  const t = text.trim();
  if (t === "0") return 0;
  const m = /^(\d+)\/(\d+)\s*(\.*)(t?)$/i.exec(t);
  if (!m || Number(m[2]) === 0) return undefined;
  let v = Number(m[1]) / Number(m[2]);
  v *= 2 - 1 / 2 ** (m[3] ?? "").length;
  if (m[4]) v *= 2 / 3;
  return v;
}

/** Whole notes as a fraction in lowest terms, on a grid of 1/384. */
export function valueText(v: number): string {
  const grid = 384;
  let n = Math.round(v * grid);
  if (n <= 0) return "0";
  let d = grid;
  const gcd = (a: number, b: number): number => (b ? gcd(b, a % b) : a);
  const g = gcd(n, d);
  [n, d] = [n / g, d / g];
  return `${n}/${d}`;
}

const names = ["C", "C#", "D", "D#", "E", "F", "F#", "G", "G#", "A", "A#", "B"];

/** A MIDI note number (C4 is 60) of a plain note name. */
export function keyOf(note: string): number | undefined {
  const m = /^([A-Ga-g])([#b♯♭]?)(-?\d+)/.exec(note.trim());
  if (!m) return undefined;
  const base = { C: 0, D: 2, E: 4, F: 5, G: 7, A: 9, B: 11 }[
    (m[1] ?? "C").toUpperCase() as "C"
  ];
  const up = m[2] === "#" || m[2] === "♯" ? 1 : m[2] ? -1 : 0;
  return (Number(m[3]) + 1) * 12 + base + up;
}

export const noteOf = (key: number): string =>
  `${names[((key % 12) + 12) % 12]}${Math.floor(key / 12) - 1}`;

/** A letter in an octave (C4 is 60). */
export const letterIn = (letter: string, octave: number): number =>
  12 * (octave + 1) +
  { c: 0, d: 2, e: 4, f: 5, g: 7, a: 9, b: 11 }[letter.toLowerCase() as "c"];

/** The note of a letter nearest to another note. */
export function nearest(letter: string, key: number): number {
  const at = letterIn(letter, Math.floor(key / 12) - 1);
  let best = at;
  for (const k of [at - 12, at + 12])
    if (Math.abs(k - key) < Math.abs(best - key)) best = k;
  return Math.min(127, Math.max(0, best));
}

export type Step = { at: number; notes: PhraseNote[] };

/** The notes by when they begin. */
export function stepsOf(notes: PhraseNote[]): Step[] {
  const out: Step[] = [];
  const sorted = [...notes].sort(
    (a, b) =>
      (wholes(a.at) ?? 0) - (wholes(b.at) ?? 0) ||
      (keyOf(a.note) ?? 0) - (keyOf(b.note) ?? 0),
  );
  for (const n of sorted) {
    const at = wholes(n.at) ?? 0;
    const last = out.at(-1);
    if (last && Math.abs(last.at - at) < 1e-9) last.notes.push(n);
    else out.push({ at, notes: [n] });
  }
  return out;
}
