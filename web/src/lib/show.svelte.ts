// A show as it is written and planned: its cues, its houses, the plan for one of them.
import { refused } from "./api";
import { app } from "./app.svelte";
import * as shows from "./calls/shows";
import { load } from "./load.svelte";
import { clock, seconds } from "./times";
import type { ShowDoc, ShowHearing, ShowPlan, ShowView } from "./types";

/** Follows how far listening to a show is. Call it while a component starts. */
export class Listening {
  now: ShowHearing | null = $state.raw(null);
  private readonly id: number;
  private readonly heard: () => void;
  constructor(id: number, heard: () => void) {
    this.id = id;
    this.heard = heard;
    $effect(() => {
      void shows
        .listening(id)
        .then(this.take)
        .catch(() => undefined);
      const every = setInterval(() => {
        if (!document.hidden && this.now?.running)
          void shows
            .listening(id)
            .then(this.take)
            .catch(() => undefined); // the next look may do
      }, 1500);
      return () => clearInterval(every);
    });
  }
  private take = (v: ShowHearing) => {
    const was = this.now?.running;
    this.now = v;
    if (was && !v.running) {
      this.heard();
      if (v.error) app.say("Listening has stopped", v.error);
    }
  };
  begin = (house: string, rack: string) =>
    app.attempt(async () =>
      this.take(await shows.listen(this.id, house, rack)),
    );
  stop = () => app.attempt(async () => this.take(await shows.stop(this.id)));
}

export class ShowState {
  readonly id: number;
  view: ShowView | null = $state.raw(null);
  plan: ShowPlan | null = $state.raw(null);
  /** The house that is planned for, by its id. */
  house = $state("");
  missing = $state("");
  /** What the program refused of the last change. */
  wrong = $state("");
  planning = $state(false);
  /** The chosen cue, by its id. */
  chosen = $state("");
  private asked = 0;

  constructor(id: number, house: string) {
    this.id = id;
    this.house = house;
    load(
      () => shows.get(id),
      (v) => {
        this.take(v);
        void this.replan();
      },
      (detail) => (this.missing = detail),
    );
  }

  private take(v: ShowView) {
    this.view = v;
    this.missing = "";
    app.pending = v.pending;
    if (!v.doc.houses.some((h) => h.id === this.house))
      this.house = v.doc.houses[0]?.id ?? "";
    document.title = `${v.doc.name} - Glossator`;
  }

  /** Plans anew for the house; what was asked before is not waited for. */
  replan = async () => {
    const n = ++this.asked;
    if (!this.house) {
      this.plan = null;
      return;
    }
    this.planning = true;
    try {
      const p = await shows.plan(this.id, this.house);
      if (n === this.asked) this.plan = p;
    } catch (e) {
      if (n === this.asked) {
        this.plan = null;
        app.fail(e);
      }
    } finally {
      if (n === this.asked) this.planning = false;
    }
  };

  /** The house as it is written. */
  get at() {
    return this.view?.doc.houses.findIndex((h) => h.id === this.house) ?? -1;
  }

  /** Changes the show, and plans it anew; what is refused is told, and nothing is changed. */
  async change(what: (d: ShowDoc) => void): Promise<boolean> {
    if (!this.view) return false;
    const doc = structuredClone(this.view.doc);
    what(doc);
    this.wrong = "";
    try {
      this.take(await shows.put(this.id, doc));
    } catch (e) {
      this.wrong = refused(e) ?? "";
      if (!this.wrong) app.fail(e);
      return false;
    }
    void this.replan();
    return true;
  }

  /** Lets a cue and all after it on its evening begin later. */
  wait = (cue: number, by: number) =>
    this.change((d) => {
      const c = d.cues[cue];
      const from = seconds(c?.start ?? "");
      if (!c || from === undefined) return;
      for (const x of d.cues) {
        const start = seconds(x.start);
        const end = seconds(x.end);
        if (
          (x.evening || 1) !== (c.evening || 1) ||
          start === undefined ||
          end === undefined ||
          start < from
        )
          continue;
        x.start = clock(start + by);
        x.end = clock(end + by);
      }
    });
}
