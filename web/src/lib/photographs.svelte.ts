// Photographs of a panel: of a patch as it stands, or of a sheet as it was dialled in.
import { app } from "./app.svelte";
import * as keep from "./calls/keep";
import { load } from "./load.svelte";
import type { Photographs } from "./types";

/** The photographs of one thing. Make it while a component starts. */
export class Pictures {
  view: Photographs | null = $state.raw(null);
  /** The one that is shown large; 0 for the last. */
  large = $state(0);
  working = $state(false);
  /** Whether they are shown: where there are any. */
  open = $state(false);
  private of: keep.PhotographsOf;

  constructor(of: keep.PhotographsOf) {
    this.of = of;
    load(
      () => keep.photographs(of),
      (v) => {
        this.view = v;
        this.open ||= v.photographs.length > 0;
      },
      () => undefined, // the view says itself what is not there
    );
  }

  async add(files: FileList | null | undefined) {
    for (const f of files ?? []) {
      this.working = true;
      await app.attempt(async () => {
        this.view = await keep.photograph(this.of, f);
        app.pending = this.view.pending;
        this.large = this.view.photographs.at(-1)?.id ?? 0;
      });
      this.working = false;
    }
  }

  caption = (id: number, text: string) =>
    this.change(() => keep.caption(id, text));
  drop = (id: number) => this.change(() => keep.dropPhotograph(id));

  private change(does: () => Promise<unknown>) {
    return app.attempt(async () => {
      await does();
      this.view = await keep.photographs(this.of);
      app.pending = this.view.pending;
    });
  }
}
