// The parts of a panel as the workshop edits them: lists, and the fields of each.
import type { Panel, Vocabulary } from "./types";

/** What kind of thing an item is, and where it stands in the panel. */
export type Group =
  | "table"
  | "head"
  | "sections"
  | "controls"
  | "modules"
  | "routes"
  | "slots"
  | "destinations"
  | "sources"
  | "points"
  | "audio"
  | "hidden";

type How =
  | "line"
  | "area"
  | "choice"
  | "flag"
  | "number"
  | "when"
  | "names"
  | "pairs"
  | "id";

export type Field = {
  name: string;
  label: string;
  how: How;
  /** What can be chosen, or is offered. */
  offers?: (p: Panel, v: Vocabulary, params: string[]) => string[];
  hint?: string;
  /** The field may be left out. */
  maybe?: boolean;
};

export type GroupSpec = {
  group: Group;
  title: string;
  /** JSON Pointer of the list. */
  path: string;
  /** One of it, as it is added by. */
  one: string;
  /** The word that a rename names it by; absent where nothing refers to it. */
  rename?: string;
  fields: Field[];
  label: (item: Item, n: number) => string;
  fresh: (p: Panel, id: string) => Item;
};

export type Item = Record<string, unknown>;

const text = (v: unknown) => (typeof v === "string" ? v : "");
const moduleIDs = (p: Panel) => p.modules.map((m) => m.id);
const sources = (p: Panel, v: Vocabulary) => [...moduleIDs(p), ...v.sources];
const polarity: Field = {
  name: "polarity",
  label: "Polarity",
  how: "choice",
  offers: (_, v) => v.polarities.map((x) => x.value),
  maybe: true,
  hint: "absent: that of the source",
};
const when: Field = {
  name: "when",
  label: "There while",
  how: "when",
  maybe: true,
  hint: "Wave = saw | pulse; Sync = on",
};

export const groups: GroupSpec[] = [
  {
    group: "sections",
    title: "Sections",
    one: "section",
    path: "/sections",
    rename: "section",
    label: (x) => text(x.label) || text(x.id),
    fresh: (_, id) => ({ id, label: "New section", step: "voice" }),
    fields: [
      { name: "label", label: "Label", how: "line" },
      {
        name: "step",
        label: "Step of the work",
        how: "choice",
        offers: (_, v) => v.steps.map((s) => s.step),
      },
      { name: "id", label: "Short name", how: "id" },
    ],
  },
  {
    group: "modules",
    title: "Modules",
    one: "module",
    path: "/modules",
    rename: "module",
    label: (x) => text(x.label) || text(x.id),
    fresh: (_, id) => ({ id, kind: "osc", label: "New module" }),
    fields: [
      { name: "label", label: "Label", how: "line" },
      {
        name: "kind",
        label: "Kind",
        how: "choice",
        offers: (_, v) => v.kinds.map((k) => k.kind),
      },
      {
        name: "fixed",
        label: "Fixed properties, one a line",
        how: "pairs",
        maybe: true,
        hint: "poles = 4",
      },
      {
        name: "pivot",
        label: "Pivot note of key tracking",
        how: "line",
        maybe: true,
        hint: "absent: C4",
      },
      when,
      {
        name: "quiet",
        label: "Readings that take it out of the sound, one a line",
        how: "pairs",
        maybe: true,
        hint: "control = reading",
      },
      { name: "id", label: "Short name", how: "id" },
    ],
  },
  {
    group: "routes",
    title: "Routes",
    one: "route",
    path: "/routes",
    rename: "route",
    label: (x) => text(x.label) || text(x.id),
    fresh: (p, id) => ({
      id,
      label: "New route",
      from: p.modules.find((m) => m.kind === "env")?.id ?? "velocity",
      to: [],
    }),
    fields: [
      { name: "label", label: "Label", how: "line" },
      { name: "from", label: "From", how: "line", offers: sources },
      {
        name: "to",
        label: "To, by commas",
        how: "names",
        offers: (_, __, params) => params,
        hint: "filter.cutoff",
      },
      {
        name: "depth",
        label: "Depth where it is fixed",
        how: "line",
        maybe: true,
        hint: "2 oct",
      },
      polarity,
      {
        name: "curve",
        label: "Curve",
        how: "line",
        maybe: true,
        hint: "absent: linear",
      },
      {
        name: "via",
        label: "Scaled by",
        how: "line",
        offers: sources,
        maybe: true,
      },
      {
        name: "normal",
        label: "Broken by a cable into",
        how: "line",
        offers: (p) => (p.points ?? []).map((x) => x.id),
        maybe: true,
      },
      when,
      { name: "id", label: "Short name", how: "id" },
    ],
  },
  {
    group: "slots",
    title: "Free slots",
    one: "free slot",
    path: "/matrix/slots",
    rename: "slot",
    label: (x) => text(x.label) || text(x.id),
    fresh: (_, id) => ({ id, label: "New slot" }),
    fields: [
      { name: "label", label: "Label", how: "line" },
      {
        name: "source",
        label: "Source where it is fixed",
        how: "line",
        offers: sources,
        maybe: true,
      },
      {
        name: "dest",
        label: "Destination where it is fixed",
        how: "line",
        offers: (p) => (p.matrix?.destinations ?? []).map((d) => d.name),
        maybe: true,
      },
      {
        name: "via",
        label: "Scaled by",
        how: "line",
        offers: sources,
        maybe: true,
      },
      when,
      { name: "id", label: "Short name", how: "id" },
    ],
  },
  {
    group: "destinations",
    title: "Destinations of slots",
    one: "destination",
    path: "/matrix/destinations",
    label: (x) => text(x.name),
    fresh: (_, id) => ({ name: id, to: [], full: "" }),
    fields: [
      { name: "name", label: "Name, as laws say it", how: "line" },
      {
        name: "to",
        label: "Moves, by commas",
        how: "names",
        offers: (_, __, params) => params,
      },
      {
        name: "full",
        label: "Peak swing at 100 %",
        how: "line",
        hint: "5 oct",
      },
      polarity,
    ],
  },
  {
    group: "points",
    title: "Patch points",
    one: "patch point",
    path: "/points",
    rename: "point",
    label: (x) => text(x.label) || text(x.id),
    fresh: (_, id) => ({ id, label: "New point", dir: "in", to: [], full: "" }),
    fields: [
      { name: "label", label: "Label", how: "line" },
      {
        name: "dir",
        label: "Direction",
        how: "choice",
        offers: () => ["in", "out"],
      },
      {
        name: "of",
        label: "An output gives",
        how: "line",
        offers: sources,
        maybe: true,
      },
      {
        name: "to",
        label: "An input moves, by commas",
        how: "names",
        offers: (_, __, params) => params,
        maybe: true,
      },
      {
        name: "full",
        label: "Peak swing at full signal",
        how: "line",
        maybe: true,
        hint: "5 oct",
      },
      polarity,
      { name: "id", label: "Short name", how: "id" },
    ],
  },
  {
    group: "audio",
    title: "Signal path",
    one: "signal connection",
    path: "/audio",
    label: (x) => `${text(x.from)} to ${text(x.to)}`,
    fresh: (p) => ({ from: p.modules[0]?.id ?? "", to: "out" }),
    fields: [
      { name: "from", label: "From", how: "line", offers: moduleIDs },
      {
        name: "to",
        label: "To",
        how: "line",
        offers: (p) => [...moduleIDs(p), "out"],
      },
      when,
    ],
  },
  {
    group: "hidden",
    title: "What the panel does not show",
    one: "note",
    path: "/hidden",
    label: (x) => text(x.about),
    fresh: () => ({ about: "New note", text: "" }),
    fields: [
      { name: "about", label: "About", how: "line" },
      { name: "text", label: "Note", how: "area" },
    ],
  },
];

export const groupOf = (g: Group) => groups.find((x) => x.group === g);

/** The list of a group as it stands. */
export function listOf(p: Panel, g: Group): Item[] {
  const lists: Partial<Record<Group, unknown>> = {
    sections: p.sections,
    controls: p.controls,
    modules: p.modules,
    routes: p.routes,
    slots: p.matrix?.slots,
    destinations: p.matrix?.destinations,
    points: p.points,
    audio: p.audio,
    hidden: p.hidden,
  };
  return (lists[g] as Item[] | undefined) ?? [];
}

/** An id that nothing in the list has. */
export function freeID(all: Item[], base: string): string {
  const taken = new Set(all.map((x) => x.id ?? x.name));
  for (let n = 1; ; n++) if (!taken.has(`${base}${n}`)) return `${base}${n}`;
}

/** Where a fault of the panel lies: the item, by its place in the outline. */
export function placeOf(path: string): { group: Group; n: number } {
  const p = path.split("/").slice(1);
  const n = (s: string | undefined) => (/^\d+$/.test(s ?? "") ? Number(s) : -1);
  if (p[0] === "matrix") {
    if (p[1] === "slots" || p[1] === "destinations")
      return { group: p[1], n: n(p[2]) };
    return { group: "sources", n: -1 };
  }
  const known: Group[] = [
    "sections",
    "controls",
    "modules",
    "routes",
    "points",
    "audio",
    "hidden",
  ];
  const g = known.find((k) => k === p[0]);
  return g ? { group: g, n: n(p[1]) } : { group: "head", n: -1 };
}
