// A blind test: X is one of the two sounds, drawn anew each round.
import type { ListenState } from "./listen.svelte";
import type { Side } from "./player.svelte";

export type Heard = "A" | "B" | "X";

export class BlindState {
  private s: ListenState;
  rounds = $state("16");
  round = $state(0);
  hears: Heard = $state("X");
  /** What came of the last test, in words. */
  last = $state("");
  private right = 0;
  private x: Side = "source";

  constructor(s: ListenState) {
    this.s = s;
  }

  private draw() {
    const b = new Uint8Array(1);
    crypto.getRandomValues(b);
    this.x = ((b[0] ?? 0) & 1) === 1 ? "target" : "source";
  }

  begin = async () => {
    this.s.blind = true;
    this.round = 1;
    this.right = 0;
    this.last = "";
    this.draw();
    await this.s.fetchSounds();
    this.hear("X");
    if (!this.s.player.playing) this.s.player.start();
  };

  hear(which: Heard) {
    this.hears = which;
    this.s.player.turn(
      which === "A" ? "source" : which === "B" ? "target" : this.x,
    );
  }

  async answer(which: "A" | "B") {
    if ((which === "A") === (this.x === "source")) this.right++;
    if (this.round < Number(this.rounds)) {
      this.round++;
      this.draw();
      this.hear("X");
      return;
    }
    const [right, of] = [this.right, Number(this.rounds)];
    this.leave();
    this.last = (await this.s.keepTrial(right, of)) ?? "";
  }

  leave = () => {
    this.s.player.stop();
    this.s.blind = false;
    this.last = "";
  };
}
