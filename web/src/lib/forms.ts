// What fields of text hold: pairs, numbers, lists. A text for a value is what is wrong.

/** Pairs, one a line: "poles = 4". */
export const pairsText = (all: Record<string, string> | undefined) =>
  Object.entries(all ?? {})
    .map(([k, v]) => `${k} = ${v}`)
    .join("\n");

export function pairsOf(text: string): Record<string, string> | string {
  const out: Record<string, string> = {};
  for (const line of text.split("\n")) {
    if (!line.trim()) continue;
    const at = line.indexOf("=");
    const name = line.slice(0, at).trim();
    if (at < 1 || !name) return `expected name = value, got "${line.trim()}"`;
    out[name] = line.slice(at + 1).trim();
  }
  return out;
}

/** A number as people type it; undefined where there is none, a text where it is no number. */
export function numberOf(text: string): number | undefined | string {
  const t = text.trim().replace("−", "-").replace(",", ".");
  if (!t) return undefined;
  const n = Number(t);
  return Number.isFinite(n) ? n : `expected a number, got "${text.trim()}"`;
}

/** Words with a mark between them, without the empty ones. */
export const listOf = (text: string, mark: string | RegExp): string[] =>
  text
    .split(mark)
    .map((x) => x.trim())
    .filter(Boolean);

/** Lines of "number = something", as two columns. */
export function columnsOf<T>(
  text: string,
  right: (text: string) => T | undefined,
  expected: string,
): [number, T][] | string {
  const out: [number, T][] = [];
  for (const line of text.split("\n")) {
    if (!line.trim()) continue;
    const i = line.indexOf("=");
    const a = numberOf(line.slice(0, Math.max(0, i)));
    const b = right(line.slice(i + 1).trim());
    if (i < 1 || typeof a !== "number" || b === undefined)
      return `expected ${expected}, got "${line.trim()}"`;
    out.push([a, b]);
  }
  return out;
}

/** A copy without anything reactive in it. */
export const bare = <T>(x: T): T => JSON.parse(JSON.stringify(x)) as T;

const isObject = (x: unknown): x is Record<string, unknown> =>
  typeof x === "object" && x !== null && !Array.isArray(x);

/** What has been changed from one value to another, made on a third: fields of objects and places of
    lists of one length each by itself, all else as a whole. So an edit that was typed before the
    answer to the last one came takes nothing of that one back. What stands under one of the names of
    whole is not taken apart: of another kind its fields mean something else. */
export function changed(
  from: unknown,
  to: unknown,
  on: unknown,
  whole: string[] = [],
): unknown {
  if (JSON.stringify(from) === JSON.stringify(to)) return on;
  if (isObject(from) && isObject(to) && isObject(on)) {
    const out: Record<string, unknown> = { ...on };
    for (const k of new Set([...Object.keys(from), ...Object.keys(to)])) {
      const same = JSON.stringify(from[k]) === JSON.stringify(to[k]);
      const v =
        whole.includes(k) && !same
          ? to[k]
          : changed(from[k], to[k], on[k], whole);
      if (v === undefined) delete out[k];
      else out[k] = v;
    }
    return out;
  }
  if (
    Array.isArray(from) &&
    Array.isArray(to) &&
    Array.isArray(on) &&
    from.length === to.length &&
    from.length === on.length
  )
    return on.map((x, i) => changed(from[i], to[i], x, whole));
  return to;
}

/** The readings of those rows that are wanted, by control. */
export const wantedOf = (
  rows: { control: string; reading: string }[],
  wanted: boolean[],
): Record<string, string> =>
  Object.fromEntries(
    rows.filter((_, i) => wanted[i]).map((r) => [r.control, r.reading]),
  );
