// A sheet as it is read and worked on: its lines, the chosen one, what is decided.
import { tick } from "svelte";
import { refused } from "./api";
import { app } from "./app.svelte";
import * as sheets from "./calls/sheets";
import { load } from "./load.svelte";
import { Places } from "./places";
import { route } from "./route.svelte";
import type {
  Alternative,
  Gloss,
  PartChoice,
  Paths,
  Picture,
  Plans,
  Report,
  Scales,
  SheetView,
  Taken,
} from "./types";
import { stepOrder, words } from "./words";

export class SheetState {
  readonly id: number;
  view: SheetView | null = $state(null);
  missing = $state("");
  /** What listening to the sheet has shown; null while it is under way. */
  heard: Report | null = $state.raw(null);
  /** Why nobody could listen. */
  unheard = $state("");
  /** The scales of the chosen line. */
  scales: Scales | null = $state(null);
  /** What the part of the chosen line does on both sides. */
  picture: Picture | null = $state.raw(null);
  /** The reading of the target under the hairline, where it is another than the one that stands. */
  hair: { control: string; reading: string } | null = $state(null);
  /** The verdicts that are shown; all of them where it is empty. */
  only: string[] = $state([]);
  idle = $state(true);
  plan = $state(false);
  /** Whether MIDI to and from the target is open. */
  midi = $state(false);

  // the override of the chosen line
  control = $state("");
  typed = $state("");
  wrong = $state("");
  editing = $state(false);
  /** The field in which a reading is typed. */
  field: HTMLInputElement | null = $state(null);

  readonly rows = new Places();
  readonly sheet = $derived(this.view?.sheet);
  readonly shown = $derived(
    (this.sheet?.glosses ?? []).filter(
      (g) =>
        (this.idle || g.verdict !== "idle") &&
        (this.only.length === 0 || this.only.includes(g.verdict)),
    ),
  );
  /** How much the difference of each line is heard alone. */
  readonly alone = $derived(
    new Map((this.heard?.lines ?? []).map((l) => [l.id, l])),
  );
  /** Where only losses are shown, what is heard most comes first. */
  readonly byHeard = $derived(
    this.heard !== null &&
      this.only.length > 0 &&
      this.only.every((v) => (words.losses as string[]).includes(v)),
  );
  readonly lines = $derived(
    [...this.shown].sort((a, b) =>
      this.byHeard
        ? Number(!!a.taste) - Number(!!b.taste) ||
          (this.alone.get(b.id)?.apart ?? 0) -
            (this.alone.get(a.id)?.apart ?? 0)
        : stepOrder(a.step) - stepOrder(b.step),
    ),
  );
  readonly chosen = $derived(
    this.lines.find((g) => g.id === route.line) ?? this.lines[0],
  );
  readonly school = $derived(
    this.view?.schools.find((s) => s.school === this.sheet?.school),
  );
  readonly checks = $derived([
    ...(this.sheet?.audit ?? []),
    ...(this.heard?.checks ?? []),
  ]);
  readonly failing = $derived(this.checks.filter((c) => !c.ok));
  /** What plays the part that the chosen line is about. */
  readonly pair = $derived.by(() => {
    const owner = this.chosen?.param.slice(
      0,
      this.chosen.param.lastIndexOf("."),
    );
    const plan = this.sheet?.plan;
    return [...(plan?.modules ?? []), ...(plan?.routes ?? [])].find(
      (p) => p.source === owner,
    );
  });

  constructor(id: number) {
    this.id = id;
    load(
      () => sheets.get(id),
      (v) => this.take(v),
      (detail) => (this.missing = detail),
    );
    this.followLine();
    this.followPicture();
    this.followSound();
    $effect(() => {
      const g = this.chosen;
      app.carry = g?.wanted
        ? {
            value: g.wanted.text,
            of: `${this.sheet?.patchName ?? ""}: ${g.label}`,
            tempo: this.sheet?.tempo ?? 0,
          }
        : null;
      return () => (app.carry = null);
    });
    let met = false;
    $effect(() => {
      if (!this.view || met) return;
      met = true;
      void tick().then(() => this.rows.show(route.line, false, "center"));
    });
  }

  /** Listens to the sheet as it stands, again whenever it is another. */
  private followSound() {
    $effect(() => {
      if (!this.view) return;
      const gone = new AbortController();
      this.heard = null;
      this.unheard = "";
      sheets
        .heard(this.id, gone.signal)
        .then((r) => (this.heard = r))
        .catch((e: unknown) => {
          if (!gone.signal.aborted)
            this.unheard = refused(e) ?? "it failed on this sheet";
        });
      return () => gone.abort();
    });
  }

  /** Draws the scales of the line that is chosen. */
  private followLine() {
    let drawn = "";
    $effect(() => {
      const g = this.chosen;
      void this.view;
      if (!g) {
        this.scales = null;
        return;
      }
      if (drawn !== g.id) {
        drawn = g.id;
        this.control =
          g.target.find((t) => !t.init)?.control ?? g.target[0]?.control ?? "";
        this.close();
      }
      sheets
        .scales(this.id, g.id)
        .then((r) => {
          if (drawn === r.gloss) this.scales = r;
        })
        .catch((e: unknown) => app.fail(e));
    });
  }

  /** Draws the part of the chosen line, one picture at a time: the hairline may move faster than they come. */
  private followPicture() {
    let wanted: (() => Promise<void>) | null = null;
    let busy = false;
    const draw = async () => {
      if (busy) return;
      busy = true;
      while (wanted) {
        const next = wanted;
        wanted = null;
        await next();
      }
      busy = false;
    };
    $effect(() => {
      const g = this.chosen?.id;
      const at = this.hair ? { ...this.hair } : undefined;
      void this.view;
      if (!g) {
        this.picture = null;
        return;
      }
      if (this.picture && this.picture.gloss !== g) this.picture = null;
      wanted = () =>
        sheets.picture(this.id, g, at).then(
          (p) => {
            if (p.gloss === this.chosen?.id) this.picture = p;
          },
          () => undefined, // a reading that cannot be there has no picture
        );
      void draw();
    });
  }

  /** The part of the source that is heard alone; empty for all. */
  single = $state("");
  /** Hears the part of the chosen line alone, or all again. */
  isolate() {
    const part = this.chosen?.param?.split(".")[0] ?? "";
    this.single = this.single || !part ? "" : part;
  }

  /** The target as it is set, with the reading under the hairline. */
  live = (from: number, seconds: number, signal: AbortSignal) =>
    sheets.live(
      this.id,
      {
        from,
        seconds,
        side: "target",
        only: this.single,
        ...(this.hair ?? {}),
      },
      signal,
    );

  take = (v: SheetView) => {
    this.view = v;
    this.missing = "";
    app.pending = v.pending;
    document.title = `${v.sheet.patchName} to ${v.sheet.target.name} - Glossator`;
  };

  /** What was planned of the controls that were corrected. */
  readonly planned = $derived(
    new Map(
      (this.view?.entries ?? [])
        .filter((e) => e.kind === "correction" && e.kept)
        .map((e) => [e.control ?? "", e.planned ?? ""]),
    ),
  );
  /** Why the reading that is typed is another than planned. */
  tags: string[] = $state([]);
  why = $state("");

  setting(control: string) {
    return this.sheet?.settings.find((s) => s.control === control);
  }

  close = () => {
    this.editing = false;
    this.typed = "";
    this.wrong = "";
    this.tags = [];
    this.why = "";
  };

  async choose(g: Gloss | undefined, focus = true) {
    if (!g) return;
    route.choose(g.id);
    await tick();
    this.rows.show(g.id, focus);
  }

  /** Moves the choice by a number of lines. */
  move(by: number) {
    const i = this.lines.findIndex((g) => g.id === this.chosen?.id);
    const to = Math.min(this.lines.length - 1, Math.max(0, i + by));
    void this.choose(this.lines[to]);
  }

  /** Opens the field of the chosen line, empty where a key press is about to fill it. */
  edit(empty = false) {
    if (!this.chosen) return false;
    if (!this.control) {
      app.say(
        "No control to set",
        `${this.sheet?.target.name} has none for this line.`,
      );
      return false;
    }
    this.editing = true;
    this.wrong = "";
    this.typed = empty ? "" : (this.setting(this.control)?.reading ?? "");
    return true;
  }

  put = async (control: string, reading: string) => {
    try {
      this.take(
        this.why.trim() || this.tags.length > 0
          ? await sheets.correct(this.id, control, {
              reading,
              tags: this.tags,
              why: this.why,
            })
          : await sheets.override(this.id, control, reading),
      );
    } catch (e) {
      this.wrong = refused(e) ?? "";
      if (!this.wrong) app.fail(e);
      return;
    }
    const g = this.chosen;
    this.close();
    const now = this.setting(control);
    app.say(
      `${now?.label ?? control} set to ${now?.reading ?? reading}`,
      g ? `${g.label} is ${g.verdict}.` : "",
    );
    await this.choose(g);
  };

  /** A control was moved on the target: its line is chosen, and its reading taken. */
  moved = async (t: Taken): Promise<string> => {
    const g = this.lines.find((x) =>
      x.target.some((y) => y.control === t.control),
    );
    if (g) {
      await this.choose(g);
      this.control = t.control;
    }
    if (t.same) return `${t.section} ${t.label} ${t.reading}, as it is set`;
    await this.put(t.control, t.reading);
    return this.wrong || `${t.section} ${t.label} taken as ${t.reading}`;
  };

  remove = () =>
    app.attempt(async () => {
      await sheets.remove(this.id);
      app.say(
        "Sheet deleted",
        `${this.sheet?.patchName ?? ""} on ${this.sheet?.target.name ?? ""}; undo brings it back.`,
      );
      app.changed++;
      route.go("/");
    });

  takeBack = () =>
    app.attempt(async () => {
      const c = this.chosen?.target.find((t) => t.overridden)?.control;
      if (!c) return;
      this.take(await sheets.takeBack(this.id, c));
      const now = this.setting(c);
      app.say(
        `${now?.label ?? c} taken back`,
        `It is at ${now?.reading} again.`,
      );
    });

  /** Decides about a part, or about the sheet as a whole. */
  decide = (choice: Partial<PartChoice>) =>
    app.attempt(async () => this.take(await sheets.choose(this.id, choice)));

  alternatives = (of: string): Promise<Alternative[] | undefined> =>
    app.attempt(async () => (await sheets.alternatives(this.id, of)).ways);

  /** The signal paths of both sides. */
  paths = (): Promise<Paths | undefined> =>
    app.attempt(() => sheets.paths(this.id));
  nextPlans = (): Promise<Plans["next"] | undefined> =>
    app.attempt(async () => (await sheets.plans(this.id)).next);

  /** Opens the sheet of a second layer, which plays what this one leaves out. */
  secondLayer = () =>
    app.attempt(async () =>
      route.go(`/sheets/${(await sheets.second(this.id)).id}`),
    );

  /** Set while the plans of another sheet are compared by their sound. */
  opening = $state(false);

  /** Opens the sheet of the same patch on a target in a school: a new one where this is old. */
  open = (target: string, school: string) =>
    app.attempt(async () => {
      if (!this.sheet) return;
      const { patch, layer } = this.sheet;
      this.opening = true;
      try {
        const s = await sheets.open({ patch, layer, target, school });
        route.go(`/sheets/${s.id}`);
      } finally {
        this.opening = false;
      }
    });

  turnTo(target: string, school: string) {
    const s = this.sheet;
    if (s && (target !== s.target.id || school !== s.school))
      void this.open(target, school);
  }

  again = () =>
    this.sheet && this.open(this.sheet.target.id, this.sheet.school);

  nextSchool() {
    if (!this.sheet || !this.view) return;
    const all = this.view.schools.map((x) => x.school);
    const now = all.indexOf(this.sheet.school);
    this.turnTo(this.sheet.target.id, all[(now + 1) % all.length] ?? "numbers");
  }

  /** Shows the lines of one verdict, or all of them again. */
  filter(verdict: string) {
    this.only =
      this.only.length === 1 && this.only[0] === verdict ? [] : [verdict];
  }

  /** Shows the lines that lose something, or all of them again. */
  filterLosses() {
    const losses = words.losses;
    this.only = this.only.length === losses.length ? [] : [...losses];
  }

  showAll = () => {
    this.only = [];
    this.idle = true;
  };
}
