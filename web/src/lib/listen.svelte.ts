// Listening to a sheet: what is rendered and played, what is switched off, what was measured.
import { onDestroy, untrack } from "svelte";
import { unknown } from "./api";
import { app } from "./app.svelte";
import * as program from "./calls/program";
import * as sheets from "./calls/sheets";
import * as sounds from "./calls/sounds";
import { load } from "./load.svelte";
import { equal, Player, type Side } from "./player.svelte";
import type {
  Contrasts,
  Listening,
  ListenTo,
  Refining,
  SheetView,
  Take,
  TrialRow,
} from "./types";

// notes from the computer keyboard: 1 to 8 are the major scale
const scale = [0, 2, 4, 5, 7, 9, 11, 12];

export class ListenState {
  readonly id: number;
  readonly player = new Player();
  sheet: SheetView | null = $state(null);
  missing = $state("");
  loaded: Listening | null = $state(null);
  failed = $state("");
  phrase = $state("");
  octaves = $state(0);
  /** The parts that are switched off. */
  off: string[] = $state([]);
  /** The target is heard as it was before readings were set by hand or by ear. */
  before = $state(false);
  loop = $state(true);
  /** The chosen part. */
  chosen = $state(0);
  rendering = $state(false);
  /** How many sounds and searches wait for their turn, while this one renders. */
  waiting = $state(0);
  /** How far the render is, 0 to 1. */
  share = $state(0);
  recordings: Partial<Record<Side, Take>> = $state({});
  /** Which octave the note keys play in, about C3. */
  octave = $state(0);
  /** A blind test is under way. */
  blind = $state(false);
  /** The table of differences is looked at. */
  looking = $state(true);
  table: Contrasts | null = $state(null);
  measuring = $state(false);
  /** The search by ear; null where there was none. */
  search: Refining | null = $state(null);
  trials: TrialRow[] | null = $state(null);

  /** What stands on each side: the render, or a recording in its place. */
  readonly source = $derived(
    this.recordings.source ?? this.loaded?.source ?? null,
  );
  readonly target = $derived(
    this.recordings.target ?? this.loaded?.target ?? null,
  );
  readonly gains = $derived(equal(this.source, this.target));
  readonly body: ListenTo = $derived({
    phrase: this.phrase,
    octaves: this.octaves,
    off: this.off,
    plain: this.before,
  });
  readonly parts = $derived(this.loaded?.parts ?? []);

  constructor(id: number) {
    this.id = id;
    load(
      () => sheets.get(id),
      (v) => this.take(v),
      (detail) => (this.missing = detail),
    );
    this.follow();
    this.followSounds();
    this.followTable();
    this.lookAtSearch();
    onDestroy(() => {
      this.player.close();
      clearTimeout(this.timer);
    });
  }

  private take(v: SheetView) {
    this.sheet = v;
    this.missing = "";
    document.title = `Listen to ${v.sheet.patchName} - Glossator`;
  }

  /** Takes a sheet that was changed here; other views load again. */
  private changed(v: SheetView) {
    this.sheet = v;
    app.pending = v.pending;
    app.changed++;
  }

  /** Renders again when what is asked for changes. */
  private follow() {
    let asked = 0;
    $effect(() => {
      void app.changed;
      const body = this.body;
      const n = ++asked;
      this.rendering = true;
      this.share = 0;
      // what nobody waits for any more is given up
      const gone = new AbortController();
      const look = setInterval(() => void this.howFar(), 250);
      sheets
        .listen(this.id, body, gone.signal)
        .then((v) => {
          if (n !== asked) return;
          this.loaded = v;
          this.failed = "";
        })
        .catch((e: unknown) => {
          if (n === asked)
            this.failed = e instanceof Error ? e.message : String(e);
        })
        .finally(() => {
          clearInterval(look);
          if (n === asked) this.rendering = false;
        });
      return () => {
        clearInterval(look);
        gone.abort();
      };
    });
  }

  private async howFar() {
    try {
      const now = await program.rendering();
      this.share = now.share;
      this.waiting = now.waiting;
    } catch {
      // the request that renders tells what is wrong
    }
  }

  // the player follows what stands on the sides; the first sounds are fetched when somebody plays
  private wanted = "";
  fetchSounds = async () => {
    if (!this.source || !this.target) return;
    const key = `${this.source.key} ${this.target.key} ${String(this.loop)}`;
    if (key === this.wanted) return;
    this.wanted = key;
    try {
      await this.player.load(
        { source: this.source.key, target: this.target.key },
        this.gains,
        this.loop,
      );
    } catch (e) {
      this.wanted = "";
      app.fail(e);
    }
  };
  private followSounds() {
    $effect(() => {
      void this.source?.key;
      void this.target?.key;
      void this.loop;
      untrack(() => {
        if (this.player.playing) void this.fetchSounds();
      });
    });
  }

  play = async () => {
    if (this.player.playing) this.player.stop();
    else {
      await this.fetchSounds();
      this.player.start();
    }
  };

  /** Measures the differences while somebody looks at them. */
  private followTable() {
    let of = "";
    $effect(() => {
      if (!this.looking || !this.source || !this.target || this.blind) return;
      const [a, b] = [this.source.key, this.target.key];
      if (`${a} ${b}` === of) return;
      const mine = (of = `${a} ${b}`);
      this.measuring = true;
      sounds
        .contrasts(a, b)
        .then((v) => {
          if (of === mine) this.table = v;
        })
        .catch((e: unknown) => app.fail(e))
        .finally(() => {
          if (of === mine) this.measuring = false;
        });
    });
  }

  toggle(part: string | undefined) {
    if (!part) return;
    this.off = this.off.includes(part)
      ? this.off.filter((x) => x !== part)
      : [...this.off, part];
  }

  /** Plays a degree of the major scale on the side that is heard. */
  strike = (degree: number, sharp: boolean) =>
    app.attempt(async () => {
      const side = this.player.side;
      const key =
        48 + 12 * this.octave + (scale[degree] ?? 0) + (sharp ? 1 : 0);
      const note = await sheets.note(this.id, {
        key: Math.min(127, Math.max(0, key)),
        side,
        off: this.off,
      });
      await this.player.strike(note, this.gains[side]);
    });

  record = (side: Side, file: File | undefined) =>
    app.attempt(async () => {
      if (!file) return;
      this.recordings = {
        ...this.recordings,
        [side]: await sounds.record(file),
      };
      app.say(`${file.name} stands for the ${side}`);
    });

  /** Keeps the recording on a side in the log. */
  keepRecording = (side: Side) =>
    app.attempt(async () => {
      const key = this.recordings[side]?.key;
      if (!key) return;
      const l = await sheets.keepRecording(this.id, key, side);
      app.pending = l.pending;
      app.say(
        "The recording is kept",
        l.entries[0]?.why ?? "It is in the log.",
      );
    });

  backToRender(side: Side) {
    this.recordings = { ...this.recordings, [side]: undefined };
  }

  setVolume(v: number) {
    this.player.setVolume(Math.min(1, Math.max(0, v)));
  }

  /** Sets the level of the target as the comparison proposes. */
  level = () =>
    app.attempt(async () => {
      const l = this.loaded?.level;
      if (!l) return;
      this.changed(await sheets.override(this.id, l.control, l.to));
      app.say(`${l.label} set to ${l.to}`);
    });

  // the search by ear, looked at while it runs
  private timer: ReturnType<typeof setTimeout> | undefined;
  private async lookAtSearch() {
    try {
      this.search = await sheets.refining(this.id);
      this.lookLater();
    } catch (e) {
      if (!unknown(e)) app.fail(e);
    }
  }
  private lookLater() {
    if (this.search?.running)
      this.timer = setTimeout(() => void this.lookAtSearch(), 250);
  }
  startSearch = () =>
    app.attempt(async () => {
      this.search = await sheets.refine(this.id, {
        phrase: this.phrase,
        octaves: this.octaves,
        aim: this.recordings.source?.key ?? "",
      });
      this.lookLater();
    });
  stopSearch = () =>
    app.attempt(async () => {
      this.search = await sheets.stopRefining(this.id);
    });
  adopt = () =>
    app.attempt(async () => {
      this.changed(await sheets.adopt(this.id));
      this.search = null;
      app.say("The readings found by ear are on the sheet");
    });

  /** Keeps what came of a blind test, and gives what it shows. */
  keepTrial = (right: number, of: number) =>
    app.attempt(async () => {
      const t = await sheets.keepTrial(this.id, {
        right,
        of,
        sounds: `${this.source?.label ?? ""} and ${this.target?.label ?? ""}`,
      });
      this.trials = t.trials;
      app.pending = t.pending;
      return t.trials[0]?.says;
    });
}
