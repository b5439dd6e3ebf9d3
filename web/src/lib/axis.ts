// The physical axis of a rule: where values lie, and how the program writes them.
import type { Writing } from "./types";

export type Axis = { min: number; max: number; geometric: boolean };

/** Where a value lies along the axis, 0 to 1; outside of it beyond those. */
export function along(a: Axis, v: number): number {
  if (a.geometric) return Math.log(v / a.min) / Math.log(a.max / a.min);
  return (v - a.min) / (a.max - a.min);
}

/** The value at a place of the axis. */
export function at(a: Axis, p: number): number {
  return a.geometric
    ? a.min * Math.pow(a.max / a.min, p)
    : a.min + (a.max - a.min) * p;
}

/** A number with so many decimals at most; what lies in the middle goes to the even digit. */
function fixed(x: number, decimals: number): string {
  const p = 10 ** decimals;
  const below = Math.floor(x * p);
  const middle = x * p - below === 0.5;
  const even = below % 2 === 0 ? below : below + 1;
  return Number(middle ? even / p : x.toFixed(decimals)).toString();
}

/** Writes a value as the program does: by the first way whose size it has. */
export function write(v: number, ways: Writing[]): string {
  const w = ways.find((x) => Math.abs(v) >= x.from) ?? ways.at(-1);
  if (!w) return String(v);
  const x = v * w.factor;
  if (w.signed) {
    const p = 10 ** w.decimals;
    const r = (Math.sign(x) * Math.round(Math.abs(x) * p)) / p;
    return (r > 0 ? "+" : "") + (r + 0).toString() + w.unit;
  }
  const digits = x === 0 ? 0 : Math.floor(Math.log10(Math.abs(x)));
  return fixed(x, Math.min(6, Math.max(0, w.figures - 1 - digits))) + w.unit;
}

/** About so many round numbers from one to another: steps of 1, 2 or 5 times a power of ten. */
export function round(from: number, to: number, about: number): number[] {
  const raw = (to - from) / Math.max(1, about);
  const ten = 10 ** Math.floor(Math.log10(raw));
  const step = ([1, 2, 5].find((k) => k * ten >= raw * 0.999) ?? 10) * ten;
  const out: number[] = [];
  for (let n = Math.ceil(from / step - 1e-9); n * step <= to + step * 1e-6; n++)
    out.push(Number((n * step).toPrecision(9)));
  return out;
}

/** The major ticks whose readings do not run into each other, even about the middle: from noon or nought outwards, else from the lowest on. half is half of what a reading takes, in pixels. */
export function spread<
  T extends { value: number; reading: string; major: boolean },
>(ticks: T[], x: (v: number) => number, half: (t: T) => number): T[] {
  const all = ticks
    .filter((t) => t.major)
    .sort((a, b) => x(a.value) - x(b.value));
  const noon = all.findIndex((t) => t.reading === "12:00");
  const from = Math.max(
    0,
    noon >= 0 ? noon : all.findIndex((t) => t.value === 0),
  );
  const first = all[from];
  if (!first) return [];
  const out = [first];
  const wide = Math.max(...all.map(half)); // all alike, so that steps are even
  let right = x(first.value) + wide;
  for (const t of all.slice(from + 1)) {
    if (x(t.value) - wide < right) continue;
    out.push(t);
    right = x(t.value) + wide;
  }
  let left = x(first.value) - wide;
  for (const t of all.slice(0, from).reverse()) {
    if (x(t.value) + wide > left) continue;
    out.unshift(t);
    left = x(t.value) - wide;
  }
  return out;
}
