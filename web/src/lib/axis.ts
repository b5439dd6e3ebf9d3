// The physical axis of a rule: where values lie, and which round ones are written on it.

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

// Preferred frequencies (ISO 266), in octaves.
const preferred = [31.5, 63, 125, 250, 500, 1000, 2000, 4000, 8000, 16000];

/** Round values along the axis, at most about n of them. */
export function marks(a: Axis, unit: string, n = 11): number[] {
  if (a.geometric) {
    const octaves = Math.log2(a.max / a.min);
    if (unit === "Hz" && a.min > 10 && octaves > 4)
      return preferred.filter((f) => f >= a.min && f <= a.max);
    const steps = octaves > 12 ? [1] : octaves > 6 ? [1, 3] : [1, 2, 5];
    const out: number[] = [];
    for (
      let e = Math.floor(Math.log10(a.min));
      e <= Math.ceil(Math.log10(a.max));
      e++
    )
      for (const s of steps) {
        const v = s * Math.pow(10, e);
        if (v >= a.min * 0.9999 && v <= a.max * 1.0001) out.push(v);
      }
    return out;
  }
  const raw = (a.max - a.min) / n;
  const base = Math.pow(10, Math.floor(Math.log10(raw)));
  const step =
    [1, 2, 2.5, 5, 10].map((m) => m * base).find((s) => s >= raw) ?? raw;
  const out: number[] = [];
  for (
    let v = Math.ceil(a.min / step - 1e-9) * step;
    v <= a.max + step * 1e-9;
    v += step
  )
    out.push(Math.abs(v) < step * 1e-6 ? 0 : v);
  return out;
}

function figures(v: number, n = 3): string {
  return Number(v.toPrecision(n)).toString();
}

/** Writes a value of the axis with its unit. */
export function write(v: number, unit: string): string {
  switch (unit) {
    case "Hz":
      return Math.abs(v) >= 1000
        ? figures(v / 1000) + " kHz"
        : figures(v) + " Hz";
    case "s":
      return Math.abs(v) < 1 ? figures(v * 1000) + " ms" : figures(v) + " s";
    case "share":
      return figures(v * 100) + " %";
    case "of the way to oscillation":
      return figures(v * 100) + " % osc";
    case "ct":
      return (v > 0 ? "+" : "") + figures(v, 4) + " ct";
    case "oct":
    case "dB":
      return (v > 0 ? "+" : "") + figures(v) + " " + unit;
  }
  return figures(v, 4);
}

/** The same, as short as an axis wants it. */
export function short(v: number, unit: string): string {
  return write(v, unit)
    .replace(/ (kHz|Hz)$/, (_, u: string) => (u === "kHz" ? "k" : ""))
    .replace(/ (ct|oct|dB|%|% osc)$/, "");
}
