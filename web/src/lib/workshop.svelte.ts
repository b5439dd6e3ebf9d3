// A panel in the workshop: its outline, the chosen part, edits that go to the program one by one.
import { tick } from "svelte";
import { refusals, refused } from "./api";
import { app } from "./app.svelte";
import * as panels from "./calls/panels";
import { bare, changed } from "./forms";
import {
  freeID,
  groupOf,
  groups,
  listOf,
  placeOf,
  type Group,
  type GroupSpec,
  type Item,
} from "./groups";
import { kindOfLaw } from "./law";
import { load } from "./load.svelte";
import { Places } from "./places";
import { route } from "./route.svelte";
import type {
  Control,
  Differences,
  EditOp,
  Fault,
  Marks,
  NewBlock,
  Panel,
  Revisions,
  Said,
  Sets,
  Workshop,
} from "./types";

/** A part of the panel in the outline; the address names it as group:id or group:number. */
export type Row = {
  key: string;
  group: Group;
  n: number;
  label: string;
  sub: string;
  under: string;
  bad: boolean;
};

const noMatrix: EditOp = {
  op: "add",
  path: "/matrix",
  value: { slots: [], sources: {}, destinations: [] },
};

export class WorkshopState {
  readonly id: string;
  w: Workshop | null = $state.raw(null);
  missing = $state("");
  find = $state("");
  /** The revisions, and what differs from the last one, are open. */
  history = $state(false);
  changes = $state(false);
  revisions: Revisions | null = $state.raw(null);

  /** The first field of the chosen part. */
  first: HTMLElement | null = $state.raw(null);
  readonly rows = new Places();
  readonly all = $derived(this.w ? this.outline(this.w) : []);
  readonly shown = $derived.by(() => {
    const words = this.find.trim().toLowerCase().split(/\s+/).filter(Boolean);
    if (!words.length) return this.all;
    return this.all.filter((r) => {
      const text = `${r.label} ${r.sub} ${r.under}`.toLowerCase();
      return words.every((x) => text.includes(x));
    });
  });
  readonly chosen = $derived(
    this.all.find((r) => r.key === route.line) ?? this.all[0],
  );
  readonly spec = $derived(
    this.chosen ? groupOf(this.chosen.group) : undefined,
  );
  readonly item = $derived(
    this.w && this.chosen && this.chosen.n >= 0
      ? listOf(this.w.panel, this.chosen.group)[this.chosen.n]
      : undefined,
  );
  /** JSON Pointer of the list that the chosen part stands in. */
  readonly base = $derived(
    this.chosen?.group === "controls" ? "/controls" : (this.spec?.path ?? ""),
  );
  /** The controls that have a fault. */
  readonly bad = $derived(
    new Set(
      (this.w?.faults ?? []).flatMap((f) => {
        const at = placeOf(f.path);
        const id =
          at.group === "controls"
            ? this.w?.panel.controls[at.n]?.id
            : undefined;
        return id === undefined ? [] : [id];
      }),
    ),
  );
  /** The faults of the chosen part, their paths from it. */
  readonly own = $derived.by(() => {
    if (!this.w || !this.chosen || this.chosen.n < 0) return [];
    const at = `${this.base}/${this.chosen.n}`;
    return this.w.faults
      .filter((f) => f.path === at || f.path.startsWith(at + "/"))
      .map((f) => ({ ...f, path: f.path.slice(at.length) }));
  });
  readonly params = $derived(this.w?.params.map((p) => p.ref) ?? []);

  constructor(id: string) {
    this.id = id;
    load(
      () => panels.workshop(id),
      (v) => this.take(v),
      (detail) => (this.missing = detail),
    );
    $effect(() => {
      if (this.w && route.line) this.rows.show(route.line, false);
    });
  }

  private take(v: Workshop) {
    this.sent.clear(); // the forms show what has come now
    this.w = v;
    app.pending = v.pending;
    document.title = `Workshop: ${v.panel.name} - Glossator`;
  }

  private outline(w: Workshop): Row[] {
    const p = w.panel;
    const bad = new Set(
      w.faults.map((f) => {
        const at = placeOf(f.path);
        return `${at.group}:${at.n}`;
      }),
    );
    const rows: Row[] = [];
    const seen = new Set<string>(); // a draft may hold an id twice: that is a fault, and shown
    const add = (
      group: Group,
      n: number,
      id: string,
      label: string,
      sub: string,
      under: string,
    ) => {
      const key = `${group}:${id}`;
      rows.push({
        key: seen.has(key) ? `${key}#${n}` : key,
        group,
        n,
        label,
        sub,
        under,
        bad: bad.has(`${group}:${n}`),
      });
      seen.add(key);
    };
    add("table", -1, "all", "Controls in a table", "", "Panel");
    add("head", -1, "head", "Name, kind, dump", "", "Panel");
    p.sections.forEach((s, n) =>
      add("sections", n, s.id, s.label, s.id, "Sections"),
    );
    const known = new Set(p.sections.map((s) => s.id));
    for (const s of [...p.sections, { id: "", label: "no section" }])
      p.controls.forEach((c, n) => {
        if (c.section === s.id || (!s.id && !known.has(c.section)))
          add("controls", n, c.id, c.label, c.id, `Controls: ${s.label}`);
      });
    for (const g of groups) {
      if (g.group === "sections") continue;
      const sub = g.group === "audio" || g.group === "hidden";
      listOf(p, g.group).forEach((x, n) =>
        add(
          g.group,
          n,
          String(x.id ?? x.name ?? n),
          g.label(x, n),
          sub ? "" : String(x.id ?? ""),
          g.title,
        ),
      );
      if (g.group === "destinations")
        add(
          "sources",
          -1,
          "sources",
          "Sources of slots",
          "",
          "Sources of slots",
        );
    }
    return rows;
  }

  /** Names the form that is open: it stays the same while its part is renamed, so that nobody who types loses it. */
  private renamed: Record<string, string> = $state({});
  readonly form = $derived.by(() => {
    let key = this.chosen?.key ?? "";
    for (let n = 0; n < 100 && this.renamed[key]; n++)
      key = this.renamed[key] ?? key;
    return key;
  });
  async choose(r: Row | undefined, focus = true) {
    if (!r) return;
    this.renamed = {};
    route.choose(r.key);
    await tick();
    this.rows.show(r.key, focus);
  }
  private chooseKey = (key: string) =>
    this.choose(this.all.find((r) => r.key === key));
  moveChoice(by: number) {
    const i = this.shown.findIndex((r) => r.key === this.chosen?.key);
    const to = Math.min(this.shown.length - 1, Math.max(0, i + by));
    void this.choose(this.shown[to]);
  }
  /** Puts the focus into the first field of the chosen part. */
  enter = () => {
    this.first?.focus();
    if (this.first instanceof HTMLInputElement) this.first.select();
  };

  // edits go to the program one after the other
  private busy: Promise<void> = Promise.resolve();
  /** How many edits are on their way. */
  working = $state(0);
  /** What edits that are on their way make of the parts that they change. */
  private sent = new Map<string, Item>();
  private post(
    work: () => Promise<Workshop>,
    after?: () => void,
    wrong?: (what: string) => void,
  ): Promise<void> {
    this.working++;
    this.busy = this.busy.then(async () => {
      try {
        this.take(await work());
        after?.();
      } catch (e) {
        const says =
          wrong &&
          (refused(e) ??
            refusals(e)
              ?.map((f) => f.message)
              .join("; "));
        if (says) {
          wrong(says);
          return;
        }
        app.fail(e);
        app.changed++; // show again what the program has
      } finally {
        this.working--;
      }
    });
    return this.busy;
  }
  /** ops are worked out when their turn comes: on the panel as it is then. */
  edit = (
    what: string,
    ops: EditOp[] | (() => EditOp[]),
    after?: () => void,
    wrong?: (what: string) => void,
  ) =>
    this.post(
      () =>
        panels.edit(this.id, {
          what,
          ops: typeof ops === "function" ? ops() : ops,
        }),
      after,
      wrong,
    );

  /** Adds or changes a control as it is said. */
  say(
    said: Said,
    after: (id: string) => void,
    wrong: (faults: Fault[]) => void,
  ) {
    this.working++;
    this.busy = this.busy.then(async () => {
      try {
        const v = await panels.say(this.id, said);
        this.take(v);
        if (v.doubts?.length) app.say("Not all of it is known", v.doubts[0]);
        after(v.at ?? "");
      } catch (e) {
        const faults = refusals(e);
        if (!faults) {
          app.fail(e);
          app.changed++;
        }
        // what was typed stays on the page, to be sent again
        wrong(faults ?? [{ path: "label", message: "It was not taken." }]);
      } finally {
        this.working--;
      }
    });
  }
  /** Puts a building block in; gives what is wrong. */
  async putBlock(body: NewBlock): Promise<string | undefined> {
    let says: string | undefined;
    await this.post(
      async () => {
        const v = await panels.putBlock(this.id, body);
        if (v.doubts?.length) app.say("Not all of it came along", v.doubts[0]);
        this.put = v.at ?? "";
        return v;
      },
      undefined,
      (what) => (says = what),
    );
    return says;
  }
  /** What a control may set, best first, by the trade's words. */
  findSets = async (text: string, c: Control): Promise<Sets[]> =>
    (
      await app.attempt(() =>
        panels.findSets(this.id, { find: text, section: c.section }),
      )
    )?.settings ?? [];
  /** The sections of all panels, to be put in as blocks. */
  ownBlocks = async () => (await app.attempt(panels.ownBlocks))?.sections ?? [];
  /** The section that was put in last. */
  put = $state("");
  /** Takes a control out by its id. */
  takeOut(id: string, after: () => void) {
    const label = this.w?.panel.controls.find((c) => c.id === id)?.label ?? id;
    void this.edit(
      `take out ${label}`,
      () => {
        const n = this.w?.panel.controls.findIndex((c) => c.id === id) ?? -1;
        return n < 0 ? [] : [{ op: "remove", path: `/controls/${n}` }];
      },
      () => {
        app.say(`Took out ${label}`, "Undo brings it back.");
        after();
      },
    );
  }

  /** Where the chosen part stands when an edit's turn comes. */
  private finder(): () => { path: string; was: Item | undefined } {
    const { chosen, item, base } = this;
    const id = item?.id;
    return () => {
      const list = this.w && chosen ? listOf(this.w.panel, chosen.group) : [];
      const n =
        id === undefined
          ? (chosen?.n ?? -1)
          : list.findIndex((x) => x.id === id);
      return { path: `${base}/${n}`, was: list[n] };
    };
  }
  /** Makes the changes of the chosen part on what stands there when their turn comes; it fails where
      something else has come there. */
  save = (what: string, now: unknown) => {
    if (!this.chosen || !this.item) return;
    // from what was sent last, which may be on its way yet: so that a change that is taken back at once is taken back
    const key = `${this.chosen.group}:${String(this.item.id ?? this.chosen.n)}`;
    const from = this.sent.get(key) ?? bare(this.item);
    this.sent.set(key, bare(now) as Item);
    const at = this.finder();
    void this.edit(`${this.chosen.label}: ${what}`, () => {
      const { path, was } = at();
      return [
        { op: "test", path, value: bare(was) },
        {
          op: "replace",
          path,
          value: changed(
            from,
            bare(now),
            was && bare(was),
            what === kindOfLaw ? ["law"] : [],
          ),
        },
      ];
    });
  };
  /** Sets a condition of the chosen part by its words; gives what is wrong with them. */
  setWhen = async (
    below: string,
    text: string,
  ): Promise<string | undefined> => {
    if (!this.chosen) return undefined;
    const at = this.finder();
    let says: string | undefined;
    await this.edit(
      `${this.chosen.label}: condition`,
      () => {
        const path = at().path + below;
        return [
          text.trim()
            ? { op: "add", path, when: text }
            : { op: "remove", path },
        ];
      },
      undefined,
      (what) => (says = what),
    );
    return says;
  };
  /** A condition of the chosen part in words. */
  when = (below: string): string =>
    this.w?.conditions[`${this.base}/${this.chosen?.n ?? -1}${below}`] ?? "";

  rename = (to: string) => {
    const kind =
      this.chosen?.group === "controls" ? "control" : this.spec?.rename;
    if (!this.chosen || !this.item || !kind) return;
    const group = this.chosen.group;
    const from = String(this.item.id);
    void this.post(
      () => panels.rename(this.id, kind, from, to),
      () => {
        this.renamed[`${group}:${to}`] = `${group}:${from}`;
        route.choose(`${group}:${to}`);
      },
    );
  };
  /** Adds a part of the same kind after the chosen one, or a copy of it. */
  add(copy: boolean) {
    if (!this.w || !this.chosen) return;
    let group = this.chosen.group;
    if (["head", "sources", "table"].includes(group)) group = "controls";
    const list = listOf(this.w.panel, group);
    const after = group === this.chosen.group && this.chosen.n >= 0;
    this.insert(
      group,
      copy && this.item
        ? copyOf(this.item, list)
        : freshOf(this.w.panel, group, this.item),
      after ? this.chosen.n + 1 : list.length,
      copy ? `copy of ${this.chosen.label}` : "new part",
    );
  }
  /** Adds a part of a kind after the last one. */
  addOne(g: GroupSpec) {
    if (!this.w) return;
    const n = listOf(this.w.panel, g.group).length;
    this.insert(g.group, freshOf(this.w.panel, g.group), n, "new part");
  }
  private insert(group: Group, now: Item, n: number, what: string) {
    if (!this.w) return;
    const path =
      group === "controls" ? "/controls" : (groupOf(group)?.path ?? "");
    const ops: EditOp[] = [];
    if (path.startsWith("/matrix") && !this.w.panel.matrix) ops.push(noMatrix);
    if (listOf(this.w.panel, group).length === 0)
      ops.push({ op: "add", path, value: [now] });
    else ops.push({ op: "add", path: `${path}/${n}`, value: now });
    void this.edit(what, ops, () => {
      this.find = "";
      void this.chooseKey(`${group}:${String(now.id ?? now.name ?? n)}`).then(
        this.enter,
      );
    });
  }
  remove = () => {
    if (!this.w || !this.chosen || !this.item) return;
    const i = this.shown.findIndex((r) => r.key === this.chosen?.key);
    const next = this.shown[i + 1] ?? this.shown[i - 1];
    const path = `${this.base}/${this.chosen.n}`;
    const label = this.chosen.label;
    void this.edit(
      `take out ${label}`,
      [
        { op: "test", path, value: bare(this.item) },
        { op: "remove", path },
      ],
      () => {
        app.say(`Took out ${label}`, "Undo brings it back.");
        if (!next) this.find = "";
        void this.choose(
          this.all.find((r) => r.key === next?.key) ?? this.all[0],
        );
      },
    );
  };
  move(by: number) {
    if (!this.w || !this.chosen || !this.item) return;
    const list = listOf(this.w.panel, this.chosen.group);
    // a control moves past the next one of its own section
    let to = this.chosen.n + by;
    if (this.chosen.group === "controls")
      while (list[to] && list[to]?.section !== this.item.section) to += by;
    if (!list[to]) return;
    const key = this.chosen.key;
    void this.edit(
      `move ${this.chosen.label}`,
      [
        {
          op: "move",
          from: `${this.base}/${this.chosen.n}`,
          path: `${this.base}/${to}`,
        },
      ],
      () => void this.chooseKey(key),
    );
  }
  /** Sets a field of the panel itself; nothing takes it away. */
  setHead(name: keyof Panel, value: unknown, what: string) {
    if (!this.w) return;
    const path = `/${name}`;
    if (value !== "" && value !== undefined)
      void this.edit(what, [{ op: "add", path, value }]);
    else
      void this.edit(
        what,
        this.w.panel[name] === undefined ? [] : [{ op: "remove", path }],
      );
  }

  // faults
  goFault = (f: Fault) => {
    const p = placeOf(f.path);
    this.find = "";
    void tick().then(() =>
      this.choose(
        this.all.find((r) => r.group === p.group && r.n === p.n) ?? this.all[0],
      ),
    );
  };
  private lastFault = -1;
  nextFault = () => {
    const faults = this.w?.faults ?? [];
    if (!faults.length) {
      app.say("No faults");
      return;
    }
    this.lastFault = (this.lastFault + 1) % faults.length;
    const f = faults[this.lastFault];
    if (f) this.goFault(f);
  };
  partName = (path: string) => {
    const p = placeOf(path);
    return (
      this.all.find((r) => r.group === p.group && r.n === p.n)?.label ??
      "the panel"
    );
  };

  // the panel as a whole
  saveRevision = () =>
    app.attempt(async () => {
      await this.busy;
      const row = await panels.save(this.id);
      app.say(`Saved as revision ${row.revision}`, row.name);
      app.changed++;
    });
  get away(): string {
    return this.w?.base === 0
      ? "/panels"
      : `/panels/${encodeURIComponent(this.id)}`;
  }
  leave = () =>
    app.attempt(async () => {
      const to = this.away;
      await panels.leave(this.id);
      app.say("Draft taken away", "Undo brings it back.");
      app.changed++;
      route.go(to);
    });
  readTable = (file: File) =>
    app.attempt(async () => {
      const v = await panels.readControls(this.id, file);
      this.take(v);
      app.message = null;
      app.taken(v.taken ?? 0, v.rows ?? []);
    });
  readRevisions = (took: (v: Revisions) => void) =>
    load(
      () => panels.revisions(this.id),
      (v) => {
        this.revisions = v;
        took(v);
      },
      () => (this.revisions = null),
    );
  difference = (from: number, to: number): Promise<Differences | undefined> =>
    app.attempt(() => panels.difference(this.id, from, to));
  restore = (n: number) =>
    app.attempt(async () => {
      this.take(await panels.restore(this.id, n));
      app.say(`The draft is as revision ${n} was`, "Save it to use it.");
    });
  tryOut = (c: Control) => panels.tryOut(this.id, c);
  fit = (m: Marks) => panels.fit(this.id, m);
}

/** A copy of a part under an id of its own. */
function copyOf(item: Item, list: Item[]): Item {
  const now = bare(item);
  if (now.id) now.id = freeID(list, String(now.id).replace(/\d+$/, ""));
  if (now.label) now.label = `${String(now.label)} (copy)`;
  delete now.midi;
  return now;
}

/** A new part of a group; a control stands in the section of the one beside it. */
function freshOf(p: Panel, group: Group, beside?: Item): Item {
  const list = listOf(p, group);
  const g = groupOf(group);
  if (g) return g.fresh(p, freeID(list, g.rename ?? "name"));
  return {
    id: freeID(list, "control"),
    label: "New control",
    section: beside?.section ?? p.sections[0]?.id ?? "",
    face: { kind: "numeric", max: 127, step: 1 },
    init: "0",
  };
}
