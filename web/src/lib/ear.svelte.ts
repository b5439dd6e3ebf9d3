// A sitting of ear practice: the sounds of the trial that is on, and its answer.
import { app } from "./app.svelte";
import * as ear from "./calls/ear";
import { load } from "./load.svelte";
import type { EarView } from "./types";

type Which = "x" | "a" | "b";
const names: Which[] = ["x", "a", "b"];
const volumeKey = "glossator-ear-volume";

export class Sitting {
  readonly id: number;
  view: EarView | null = $state.raw(null);
  missing = $state("");
  /** What plays now. */
  playing: Which | "" = $state("");
  ready = $state(false);
  /** Which of the two was chosen, before what differs is named; null for none. */
  chosen: boolean | null = $state(null);
  heard = $state(false);
  volume = $state(Number(localStorage.getItem(volumeKey) ?? "0.5"));
  private readonly players = new Map<Which, HTMLAudioElement>();
  private turn = 0;

  constructor(id: number) {
    this.id = id;
    load(
      () => ear.get(id),
      (v) => this.take(v),
      (detail) => (this.missing = detail),
    );
    $effect(() => () => this.stop());
  }
  private take(v: EarView) {
    const fresh = v.trial !== this.view?.trial;
    this.view = v;
    this.missing = "";
    document.title = `Ear practice, ${v.patch} - Glossator`;
    if (!fresh) return;
    this.stop();
    this.players.clear();
    this.ready = this.heard = false;
    this.chosen = null;
    if (v.trial === 0) return;
    void Promise.all(
      names.map(
        (n) =>
          new Promise<void>((done, failed) => {
            const a = new Audio(ear.sound(this.id, v.trial, n));
            a.preload = "auto";
            a.addEventListener("canplaythrough", () => done(), { once: true });
            a.addEventListener(
              "error",
              () => failed(new Error("A sound could not be loaded")),
              { once: true },
            );
            this.players.set(n, a);
            a.load();
          }),
      ),
    )
      .then(() => {
        if (this.view?.trial === v.trial) this.ready = true;
      })
      .catch((e: unknown) => {
        if (this.view?.trial === v.trial) app.fail(e);
      });
  }
  setVolume(to: number) {
    this.volume = to;
    localStorage.setItem(volumeKey, String(to));
    for (const a of this.players.values()) a.volume = to;
  }
  stop() {
    this.turn++;
    this.playing = "";
    for (const a of this.players.values()) a.pause();
  }
  private sound(which: Which, turn: number): Promise<void> {
    const a = this.players.get(which);
    if (!a || turn !== this.turn) return Promise.resolve();
    this.playing = which;
    a.currentTime = 0;
    a.volume = this.volume;
    return new Promise((done) => {
      a.addEventListener("ended", () => done(), { once: true });
      a.addEventListener("pause", () => done(), { once: true });
      a.play().catch(() => done());
    });
  }
  /** Plays one sound, or all three one after another. */
  async play(which?: Which) {
    if (!this.ready) return;
    this.stop();
    const turn = this.turn;
    for (const n of which ? [which] : names) {
      await this.sound(n, turn);
      if (turn !== this.turn) return;
      await new Promise((done) => setTimeout(done, 250));
    }
    this.playing = "";
    this.heard = true;
  }
  /** Chooses which of the two is the other one; where only one thing may differ that is the answer. */
  choose(second: boolean) {
    if (!this.view?.trial || !this.ready) return;
    this.chosen = second;
    if (this.view.parts.length === 1) void this.answer("");
  }
  answer = (named: string) =>
    app.attempt(async () => {
      const trial = this.view?.trial ?? 0;
      if (!trial || this.chosen === null) return;
      this.stop();
      this.take(
        await ear.answer(this.id, { trial, second: this.chosen, named }),
      );
    });
}
