// What is heard as it is set: the phrase goes round and round, and each change is heard from where it is, at once.
import { app } from "./app.svelte";
import { Player } from "./player.svelte";

/** A stretch of the sound, or with no seconds the whole of it. */
export type Ask = (
  from: number,
  seconds: number,
  signal: AbortSignal,
) => Promise<ArrayBuffer>;

/** How long a stretch is, in seconds: longer than the whole takes to come. */
const stretch = 1.6;
/** How long an answer takes, about. */
const ahead = 0.06;

export class Live {
  readonly player = new Player();
  rendering = $state(false);
  private ask: Ask;
  private gone = new AbortController();

  constructor(ask: Ask) {
    this.ask = ask;
  }

  toggle = () =>
    app.attempt(async () => {
      if (this.player.playing) {
        this.gone.abort();
        this.player.stop();
        return;
      }
      this.gone = new AbortController();
      this.rendering = true;
      try {
        await this.player.loadFile(
          await this.ask(0, 0, this.gone.signal),
          true,
        );
        this.player.start();
      } finally {
        this.rendering = false;
      }
    });

  /** Lets what has changed be heard, where it plays. */
  changed = async () => {
    if (!this.player.playing) return;
    this.gone.abort();
    const mine = (this.gone = new AbortController());
    try {
      const from = this.player.place() + ahead;
      await this.player.bridge(
        await this.ask(from, stretch, mine.signal),
        from,
      );
      if (mine.signal.aborted) return;
      const whole = await this.ask(0, 0, mine.signal);
      if (!mine.signal.aborted) await this.player.loadFile(whole, true);
    } catch (e) {
      if (!mine.signal.aborted) app.fail(e);
    }
  };

  close() {
    this.gone.abort();
    this.player.close();
  }
}
