// The places of two scales along one axis.
import { along } from "./axis";
import type { Scales, Side, Tick } from "./types";

/** The ticks that have a place on the axis. */
export const places = (s: Side | undefined): Tick[] =>
  (s?.ticks ?? []).filter((t) => !t.off);

/** The tick nearest to a value, as distances lie on the axis. */
export function nearest(
  rule: Scales,
  side: Side | undefined,
  v: number,
): Tick | undefined {
  let best: Tick | undefined;
  let least = Infinity;
  for (const t of places(side)) {
    const d = Math.abs(along(rule, t.value) - along(rule, v));
    if (d < least) [best, least] = [t, d];
  }
  return best;
}

/** The next tick of the target (of the source, where it has none) above or below a value. */
export function next(rule: Scales, v: number, by: number): number {
  const target = places(rule.target);
  const ticks = [...(target.length ? target : places(rule.source))].sort(
    (a, b) => a.value - b.value,
  );
  const p = along(rule, v);
  const i = ticks.findIndex((t) => along(rule, t.value) > p + 1e-7);
  const j = ticks.findLastIndex((t) => along(rule, t.value) < p - 1e-7);
  const t =
    by > 0 ? ticks[i < 0 ? ticks.length - 1 : i] : ticks[Math.max(0, j)];
  return t?.value ?? v;
}
