import { onDestroy } from "svelte";
import { app } from "./app.svelte";
import { refused, unknown } from "./api";
import type { Pending } from "./types";

/** How many views wait for what they show for the first time, and what is done when none does any more. */
let waiting = 0;
const then: (() => void)[] = [];
export const loading = () => waiting > 0;

/** Does something once what the view shows is there, or cannot be had. */
export function whenLoaded(run: () => void) {
  if (loading()) then.push(run);
  else run();
}

/** Loads what a view shows, and loads it again when something changed elsewhere (undo). A
    view that names one thing is told when it is not there. Call it while a component starts. */
export function load<T extends { pending: Pending }>(
  get: () => Promise<T>,
  take: (v: T) => void,
  lost?: (detail: string) => void,
) {
  let last = 0;
  let first = true;
  const there = () => {
    if (!first) return;
    first = false;
    if (--waiting === 0) for (const run of then.splice(0)) run();
  };
  waiting++;
  onDestroy(there);
  $effect(() => {
    void app.changed;
    const n = ++last;
    get()
      .then((v) => {
        if (n !== last) return; // asked again since
        app.pending = v.pending;
        take(v);
      })
      .catch((e: unknown) => {
        const refusal = refused(e);
        if (lost && unknown(e)) lost(e.problem.detail);
        else if (lost && refusal) lost(refusal);
        else app.fail(e);
      })
      .finally(() => {
        if (n === last) there();
      });
  });
}
