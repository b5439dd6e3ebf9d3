import { app } from "./app.svelte";
import { refused, unknown } from "./api";
import type { Pending } from "./types";

/** Loads what a view shows, and loads it again when something changed elsewhere (undo). A
    view that names one thing is told when it is not there. Call it while a component starts. */
export function load<T extends { pending: Pending }>(
  get: () => Promise<T>,
  take: (v: T) => void,
  lost?: (detail: string) => void,
) {
  let last = 0;
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
      });
  });
}
