// A rehearsal: the clock of an evening and the ticks of its changeovers, kept with the program and seen on every device; what cannot be sent yet is kept here and sent when the program answers again.
import { Refusal } from "./api";
import { app } from "./app.svelte";
import * as shows from "./calls/shows";
import { load } from "./load.svelte";
import type { RunCue, RunState, RunView } from "./types";

type Op =
  | {
      kind: "tick";
      run: number;
      cue: string;
      key: string;
      done: boolean;
      who: string;
      clock: number;
      of: number;
      start: number;
      at: number;
    }
  | { kind: "clock"; run: number; going: boolean; clock: number; at: number };

export class Rehearsal {
  readonly id: number;
  readonly house: string;
  readonly evening: number;
  view: RunView | null = $state.raw(null);
  missing = $state("");
  run = $state(0);
  going = $state(false);
  /** What is done, by cue and key, with where the clock stood. */
  done = $state.raw(new Map<string, number>());
  /** What waits here until the program answers. */
  waiting: Op[] = $state.raw([]);
  /** The clock in seconds, as it is shown. */
  clock = $state(0);
  /** Whose part this is; empty for all. */
  who = $state("");
  away = $state(false);
  /** The number of a rehearsal that was begun here while the program did not answer: it gets its own when it does. */
  private static readonly here = -1;
  private base = 0;
  private since = performance.now();
  private sending = false;
  private readonly kept: string;

  constructor(id: number, house: string, evening: number) {
    this.id = id;
    this.house = house;
    this.evening = evening;
    this.kept = `glossator-run-${id}-${house}-${evening}`;
    this.who = localStorage.getItem("glossator-player") ?? "";
    try {
      const ops: unknown = JSON.parse(localStorage.getItem(this.kept) ?? "[]");
      if (Array.isArray(ops)) this.waiting = ops as Op[];
      if (this.waiting.some((o) => o.run === Rehearsal.here))
        this.run = Rehearsal.here; // begun before the page was loaded again
    } catch {
      // what stands there is not ours
    }
    load(
      () => shows.run(id, house, evening),
      (v) => {
        this.view = v;
        this.missing = "";
        document.title = `Rehearse ${v.name} - Glossator`;
        if (this.who && !v.players.includes(this.who)) this.who = "";
        this.take(v.state);
        void this.flush();
      },
      (detail) => (this.missing = detail),
    );
    $effect(() => {
      const frame = setInterval(() => (this.clock = this.now()), 200);
      const look = setInterval(() => {
        if (!document.hidden) void this.look();
      }, 2000);
      return () => {
        clearInterval(frame);
        clearInterval(look);
      };
    });
  }

  private now() {
    return this.going
      ? this.base + (performance.now() - this.since) / 1000
      : this.base;
  }
  static key = (cue: string, key: string) => `${cue}\n${key}`;

  /** Takes over what the program has, with what still waits here on top of it. */
  private take(s: RunState) {
    this.away = false;
    if (this.run === Rehearsal.here) return; // it is begun there first
    if (this.run && s.run !== this.run)
      this.waiting = this.waiting.filter((o) => o.run === s.run);
    this.run = s.run;
    const clocks = this.waiting.filter((o) => o.kind === "clock");
    if (clocks.length === 0) {
      this.going = s.going;
      this.base = s.clock;
      this.since = performance.now();
    }
    const done = new Map(
      s.ticks.map((t) => [Rehearsal.key(t.cue, t.key), t.clock]),
    );
    for (const o of this.waiting)
      if (o.kind === "tick") {
        if (o.done) done.set(Rehearsal.key(o.cue, o.key), o.clock);
        else done.delete(Rehearsal.key(o.cue, o.key));
      }
    this.done = done;
    this.clock = this.now();
    this.keep();
  }
  private keep() {
    try {
      if (this.waiting.length > 0)
        localStorage.setItem(this.kept, JSON.stringify(this.waiting));
      else localStorage.removeItem(this.kept);
    } catch {
      // no room: it is kept as long as the page stands
    }
  }
  private async look() {
    if (this.sending) return;
    if (this.waiting.length > 0 || this.run === Rehearsal.here) {
      await this.flush();
      return;
    }
    const of = this.run;
    try {
      const s = await shows.state(this.id, this.house, this.evening);
      // an answer about what was before is no longer asked for
      if (this.waiting.length === 0 && this.run === of && !this.beginning)
        this.take(s);
    } catch {
      this.away = true; // the next look may do
    }
  }
  /** Sends what waits, in its order. */
  private async flush() {
    if (this.sending) return;
    this.sending = true;
    try {
      if (this.run === Rehearsal.here) {
        const s = await shows.anew(this.id, this.house, this.evening);
        this.waiting = this.waiting.map((o) => ({ ...o, run: s.run }));
        this.run = s.run;
        this.take(s);
      }
      while (this.waiting[0]) {
        const o = this.waiting[0];
        try {
          const s = await this.send(o);
          this.waiting = this.waiting.filter((x) => x !== o);
          if (this.run === o.run) this.take(s); // else it was begun anew meanwhile
        } catch (e) {
          if (e instanceof Refusal && e.problem.status === 0) {
            this.away = true;
            break;
          }
          // it was begun anew elsewhere, or is not taken: what comes after may be
          this.waiting = this.waiting.filter((x) => x !== o);
          this.keep();
          if (!(e instanceof Refusal && e.problem.status === 404)) app.fail(e);
        }
      }
    } catch (e) {
      this.away = true; // it is tried again with the next look
      if (!(e instanceof Refusal && e.problem.status === 0)) app.fail(e);
    } finally {
      this.sending = false;
    }
  }
  private send(o: Op): Promise<RunState> {
    const ago = Math.max(0, (Date.now() - o.at) / 1000);
    if (o.kind === "clock")
      return shows.clock(this.id, this.house, this.evening, {
        run: o.run,
        going: o.going,
        clock: o.going ? o.clock + ago : o.clock,
      });
    const { run, cue, key, done, who, clock, of, start } = o;
    return shows.tick(this.id, this.house, this.evening, {
      run,
      cue,
      key,
      done,
      who,
      clock,
      of,
      start,
      ago,
    });
  }
  private add(o: Op) {
    this.waiting = [...this.waiting, o];
    this.keep();
    void this.flush();
  }

  private beginning: Promise<unknown> | null = null;
  /** Begins anew: the clock at nothing, nothing ticked. Whoever asks meanwhile waits for the same. */
  begin = () => {
    this.beginning ??= app
      .attempt(async () => {
        try {
          const s = await shows.anew(this.id, this.house, this.evening);
          this.waiting = [];
          this.run = 0;
          this.take(s);
        } catch (e) {
          if (!(e instanceof Refusal && e.problem.status === 0)) throw e;
          this.waiting = [];
          this.run = Rehearsal.here;
          this.away = true;
          this.done = new Map();
          [this.going, this.base, this.clock] = [false, 0, 0];
          this.keep();
        }
      })
      .finally(() => (this.beginning = null));
    return this.beginning;
  };
  /** Waits while one is being begun: what is asked meanwhile is then done in its order. */
  async settled() {
    if (this.beginning) await this.beginning;
  }
  /** Lets the clock go, or holds it; where none has been begun it is begun. */
  async toggle() {
    if (!this.run || this.beginning) await this.begin();
    if (this.run) this.set(!this.going, this.now());
  }
  set(going: boolean, clock: number) {
    if (!this.run) return;
    this.base = clock;
    this.since = performance.now();
    this.going = going;
    this.clock = clock;
    this.add({ kind: "clock", run: this.run, going, clock, at: Date.now() });
  }
  async tick(c: RunCue, key: string, done: boolean) {
    if (!this.run || this.beginning) await this.begin();
    if (!this.run) return;
    const next = new Map(this.done);
    if (done) next.set(Rehearsal.key(c.id, key), this.now());
    else next.delete(Rehearsal.key(c.id, key));
    this.done = next;
    this.add({
      kind: "tick",
      run: this.run,
      cue: c.id,
      key,
      done,
      who: c.player || this.who,
      clock: Math.round(this.now() * 100) / 100,
      of: c.moves.length,
      start: c.start,
      at: Date.now(),
    });
  }
  is = (c: RunCue, key: string) => this.done.has(Rehearsal.key(c.id, key));
  left = (c: RunCue) => c.moves.filter((m) => !this.is(c, m.key)).length;
  /** When the last move of a cue was done; undefined where some is not. */
  ready(c: RunCue): number | undefined {
    if (c.moves.length === 0 || this.left(c) > 0) return undefined;
    return Math.max(
      ...c.moves.map((m) => this.done.get(Rehearsal.key(c.id, m.key)) ?? 0),
    );
  }
  be(who: string) {
    this.who = who;
    localStorage.setItem("glossator-player", who);
  }
}
