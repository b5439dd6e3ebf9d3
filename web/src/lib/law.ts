// A law as a form edits it. What kinds there are and which numbers each has, the program says
// (the vocabulary's laws). A text for a law is what is wrong.
import { columnsOf, numberOf } from "./forms";
import type { Face, Law, LawSpec } from "./types";

type Fields = Record<string, unknown>;

/** The law with some fields changed; empty ones go. */
/** What an edit is called that makes a law one of another kind. */
export const kindOfLaw = "kind of law";

export function withFields(law: Law, change: Fields): Law {
  const now: Fields = { ...law, ...change };
  for (const k of Object.keys(now))
    if (now[k] === "" || now[k] === undefined) delete now[k];
  return now as Law;
}

/** The law as one of another kind, with what both have. */
export function ofKind(spec: LawSpec, was: Law, face: Face): Law {
  const { source, convention, swing, uncertainty, unit } = was;
  const low = was.min ?? was.points?.[0]?.[1];
  const high = was.max ?? was.points?.at(-1)?.[1] ?? 1;
  const now: Fields = { kind: spec.kind, unit };
  if (spec.points)
    now.points = was.points ?? [
      [0, low ?? 0],
      [1, high],
    ];
  else if (spec.values)
    now.values = was.values ?? (face.entries ?? []).map((_, i): unknown => i);
  else {
    const begin: Fields = { min: low, max: high };
    for (const f of spec.fields)
      now[f.name] =
        (was as Fields)[f.name] ?? begin[f.name] ?? (f.start || undefined);
    now.off = was.off;
  }
  return withFields(
    { ...(now as Law) },
    {
      source,
      convention,
      swing,
      uncertainty,
    },
  );
}

/** Points, one a line: travel = value. */
export const pointsText = (law: Law) =>
  (law.points ?? []).map((p) => `${p[0]} = ${p[1]}`).join("\n");
export const pointsOf = (text: string) =>
  columnsOf(
    text,
    (x) => {
      const n = numberOf(x);
      return typeof n === "number" ? n : undefined;
    },
    "travel from 0 to 1 = value",
  );

/** A value of a position: a number, a word where the unit has words, nothing. */
export const valueText = (v: unknown) =>
  v === null || v === undefined ? "" : String(v);
export function valueOf(text: string, named: boolean): unknown {
  const t = text.trim();
  if (!t) return null;
  if (named || t === "off") return t;
  const v = numberOf(t);
  return typeof v === "number" ? v : new Error(v);
}

/** An uncertainty: a number, or a share with a percent sign. */
export const uncertaintyText = (law: Law) =>
  law.uncertainty
    ? law.uncertainty.relative
      ? `${+(law.uncertainty.u * 100).toPrecision(6)} %`
      : String(law.uncertainty.u)
    : "";
export function uncertaintyOf(text: string): Law["uncertainty"] | string {
  const t = text.trim();
  const relative = t.endsWith("%");
  const v = numberOf(relative ? t.slice(0, -1) : t);
  if (v === undefined || typeof v === "string") return v;
  if (v < 0) return "expected 0 or more";
  return relative ? { u: v / 100, relative: true } : { u: v };
}
