// A control at the bench: what to set and to play, what has been taken, and the law that goes through it.
import { refused } from "./api";
import { app } from "./app.svelte";
import * as bench from "./calls/bench";
import { load } from "./load.svelte";
import { unitKey } from "./midi.svelte";
import { Recorder } from "./recorder.svelte";
import type { Adoption, SittingView, Taken } from "./types";

export class BenchState {
  readonly id: string;
  readonly control: string;
  view: SittingView | null = $state.raw(null);
  missing = $state("");
  /** What is wrong with the last take, at its place. */
  wrong = $state("");
  busy = $state(false);
  /** The reading that is set: the one that is proposed, or another. */
  reading = $state("");
  /** The number of the stand-in. */
  unit = $state(Number(localStorage.getItem(unitKey)) || 1);
  /** How many takes a stand-in is asked for, one after another. */
  running = $state(false);
  adoption: Adoption | null = $state.raw(null);
  as = $state("");
  readonly recorder = new Recorder();

  constructor(id: string, control: string) {
    this.id = id;
    this.control = control;
    load(
      () => bench.sitting(id, control),
      this.take,
      (detail) => (this.missing = detail),
    );
  }

  private take = (v: SittingView) => {
    this.view = v;
    this.missing = "";
    app.pending = v.pending;
    this.reading = v.next.reading || this.reading;
    document.title = `${v.label}, ${v.panelName}, bench - Glossator`;
  };

  /** Does something that answers with the whole; what is refused is told at its place. */
  private async ask(work: () => Promise<SittingView>): Promise<boolean> {
    this.busy = true;
    this.wrong = "";
    try {
      this.take(await work());
      return true;
    } catch (e) {
      const says =
        refused(e) ??
        (e instanceof Error && e.constructor === Error ? e.message : "");
      if (says) this.wrong = says;
      else app.fail(e);
      return false;
    } finally {
      this.busy = false;
    }
  }

  private get recipe() {
    return this.view?.recipe ?? "";
  }
  /** Whether the instrument is listened to by MIDI. */
  listening = $state(false);
  hear = (before: number[], now: number[]) =>
    bench.received(this.id, before, now);
  /** A control was moved on the instrument: where it stands is where the next take is made. */
  moved = (t: Taken): string => {
    if (t.control !== this.control)
      return `That is ${t.section} ${t.label}, at ${t.reading}: it stays as the set-up has it, or the take is of something else.`;
    this.reading = t.reading;
    return `${t.label} stands at ${t.reading}`;
  };
  choose = (recipe: string) =>
    this.ask(() => bench.sitting(this.id, this.control, recipe));

  standIn = () => {
    localStorage.setItem(unitKey, String(this.unit));
    return this.ask(() =>
      bench.standIn(
        this.id,
        this.control,
        this.unit,
        this.reading,
        this.recipe,
      ),
    );
  };
  /** Goes on until nothing more is worth a take, or it is stopped. */
  async allOfIt() {
    if (this.running) {
      this.running = false;
      return;
    }
    this.running = true;
    for (let n = 0; this.running && n < 40 && !this.view?.next.done; n++) {
      if (!this.view?.next.reading || !(await this.standIn())) break;
    }
    this.running = false;
  }

  record = () =>
    this.ask(async () => {
      const wave = await this.recorder.record(
        Math.min(60, (this.view?.next.seconds ?? 3) + 1.5),
      );
      return bench.recording(
        this.id,
        this.control,
        this.reading,
        this.recipe,
        wave,
      );
    });
  /** Measures a file: of one take at the reading that is set, or of several at readings by commas. */
  file = (from: File) =>
    this.ask(async () =>
      bench.recording(
        this.id,
        this.control,
        this.reading,
        this.recipe,
        await from.arrayBuffer(),
      ),
    );
  drop = (index: number) =>
    this.ask(() => bench.drop(this.id, this.control, index));
  /** Sets how many megabytes of recordings are kept. */
  bound = (megabytes: number) =>
    app.attempt(async () => {
      const sounds = await bench.bound(megabytes * (1 << 20));
      if (this.view) this.view = { ...this.view, sounds };
    });
  forget = () =>
    app.attempt(async () => {
      const done = await bench.forget(this.id, this.control);
      app.pending = done.pending;
      app.say("The takes are forgotten", "Undo takes it back.");
      app.changed++;
    });

  preview = () =>
    app.attempt(async () => {
      this.adoption = await bench.adoption(this.id, this.control);
    });
  adopt = () =>
    app.attempt(async () => {
      const a = await bench.adopt(this.id, this.control, this.as.trim());
      this.adoption = null;
      this.as = "";
      app.pending = a.pending;
      app.say(
        "The law is adopted",
        `${a.law}, in revision ${a.revision}. Undo takes it back.`,
      );
      app.changed++;
      return a;
    });
}
