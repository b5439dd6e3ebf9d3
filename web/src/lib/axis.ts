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

/** Writes a value as the program says: the first way whose size it has. */
export function write(v: number, ways: Writing[]): string {
  const w = ways.find((x) => Math.abs(v) >= x.from) ?? ways.at(-1);
  if (!w) return String(v);
  const x = v * w.factor;
  const text = Number(
    w.signed ? x.toFixed(w.decimals) : x.toPrecision(w.figures),
  ).toString();
  return (w.signed && Number(text) > 0 ? "+" : "") + text + w.unit;
}
