// Which things of a list are chosen, and what is done with them in one step.
import { SvelteSet } from "svelte/reactivity";
import { app } from "./app.svelte";
import * as shelf from "./calls/shelf";
import type { ItemKind } from "./types";

const past = {
  archive: "Archived",
  restore: "Brought back",
  delete: "Deleted",
};

export class Shelf {
  readonly kind: ItemKind;
  readonly chosen = new SvelteSet<string>();

  constructor(kind: ItemKind) {
    this.kind = kind;
  }

  toggle = (id: string) => {
    if (!this.chosen.delete(id)) this.chosen.add(id);
  };
  clear = () => this.chosen.clear();

  /** Does something with all that is chosen. */
  act = (what: shelf.ShelfDo, name: (id: string) => string) =>
    app.attempt(async () => {
      const ids = [...this.chosen];
      const done = await shelf.act(
        what,
        ids.map((id) => ({ kind: this.kind, id })),
      );
      app.pending = done.pending;
      app.say(
        past[what],
        `${ids.length === 1 ? name(ids[0] ?? "") : `${ids.length} ${this.kind === "patch" ? "patches" : `${this.kind}s`}`}; undo takes it back.`,
      );
      this.clear();
      app.changed++;
    });

  rename = (id: string, name: string) =>
    app.attempt(async () => {
      const done = await shelf.rename(this.kind, id, name.trim());
      app.pending = done.pending;
      app.say("Renamed", name.trim());
      this.clear();
      app.changed++;
    });
}
