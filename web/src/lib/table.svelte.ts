// The controls of a panel as a table: each in one line, said as it is printed.
import { tick } from "svelte";
import { app } from "./app.svelte";
import * as panels from "./calls/panels";
import { Places } from "./places";
import type { Fault, Said, Sets, TriedLine } from "./types";
import { words } from "./words";
import type { WorkshopState } from "./workshop.svelte";

export const cells = ["label", "printed", "sets"] as const;
export type Cell = (typeof cells)[number];

/** A control that has been typed and is on its way, or was not taken. */
export type Coming = {
  n: number;
  section: string;
  said: Record<Cell, string>;
  faults: Fault[];
};

/** Faces that are common, to be picked. */
const common = [
  "clock",
  "0 to 100 %",
  "-12 to +12",
  "20 Hz to 20 kHz",
  "5 ms 50 500 5 s",
  "32' / 16' / 8' / 4' / 2'",
  "saw / pulse / triangle / sine",
  "off / on",
];

export class TableState {
  readonly s: WorkshopState;
  /** The line that has the focus: a control's id, or "+" and the section of a new one. */
  at = $state("");
  cell: Cell = $state("label");
  /** What is typed into the line that has the focus. */
  typed: Partial<Record<Cell, string>> = $state({});
  drawn: TriedLine | null = $state.raw(null);
  /** What can be picked for the cell that has the focus, and which is pointed at. */
  offers: string[] = $state.raw([]);
  offer = $state(-1);
  /** What is wrong with cells, by line and cell. */
  wrong: Record<string, string> = $state({});
  coming: Coming[] = $state([]);
  private made = 0;
  private asked = 0;
  private drawing = 0;
  private timer = 0;

  constructor(s: WorkshopState) {
    this.s = s;
  }

  /** The fields by cell and line. */
  readonly fields = new Places();
  field = (at: string, cell: Cell) =>
    this.fields.get(`${cell}/${at}`) as HTMLInputElement | undefined;
  /** Puts the focus into a cell and selects what it holds. */
  async go(at: string, cell: Cell) {
    await tick();
    const f = this.field(at, cell);
    f?.focus();
    f?.select();
    f?.closest("tr")?.scrollIntoView({ block: "nearest" });
  }
  /** The lines in the order of the page. */
  order(): string[] {
    const p = this.s.w?.panel;
    if (!p) return [];
    return p.sections.flatMap((x) => [
      ...p.controls.filter((c) => c.section === x.id).map((c) => c.id),
      `+${x.id}`,
    ]);
  }
  /** Moves to the same cell of a line further on. */
  walk(by: number) {
    const all = this.order();
    const to = all[all.indexOf(this.at) + by];
    if (to) void this.go(to, this.cell);
  }

  enter(at: string, cell: Cell) {
    if (at !== this.at) this.typed = {};
    this.at = at;
    this.cell = cell;
    this.close();
    this.draw();
  }
  close() {
    this.asked++; // what is still being looked for comes too late
    this.offers = [];
    this.offer = -1;
  }
  type(text: string) {
    delete this.wrong[`${this.at}/${this.cell}`];
    if (this.cell === "label") this.draw();
    else void this.look(text, false);
  }
  /** Shows what can be picked. */
  async look(text: string, all: boolean) {
    const t = text.trim().toLowerCase();
    if (this.cell === "printed") {
      const usual = this.s.w?.usual ?? "";
      const list = [...new Set([usual, ...common])];
      this.offers = list.filter((x) => all || (t && x.startsWith(t)));
      this.offer = -1;
      this.draw();
      return;
    }
    if (this.cell !== "sets") return;
    if (!t && !all) {
      this.close();
      this.draw();
      return;
    }
    const n = ++this.asked;
    const found = await app.attempt(() =>
      panels.findSets(this.s.id, {
        find: all ? "" : text,
        section: this.section(),
        label: this.typed.label ?? this.labelOf(this.at),
      }),
    );
    if (n !== this.asked || !found) return;
    this.offers = found.settings.map((x: Sets) => x.label);
    this.offer = all || !this.offers.length ? -1 : 0;
    this.draw();
  }
  private labelOf(at: string) {
    return this.s.w?.panel.controls.find((c) => c.id === at)?.label ?? "";
  }
  private section(): string {
    if (this.at.startsWith("+")) return this.at.slice(1);
    return (
      this.s.w?.panel.controls.find((c) => c.id === this.at)?.section ?? ""
    );
  }
  /** What the line that has the focus says, as far as it has been typed. */
  private said(): Said {
    const t = { ...this.typed };
    const picked = this.offers[this.offer];
    if (this.cell === "sets" && picked) t.sets = picked;
    if (!this.at.startsWith("+")) return { control: this.at, ...t };
    return { section: this.at.slice(1), ...nonempty(t) };
  }
  /** Draws the line as it would be. */
  draw() {
    clearTimeout(this.timer);
    const at = this.at;
    const n = ++this.drawing;
    if (at.startsWith("+") && !this.typed.label?.trim()) {
      this.drawn = null;
      return;
    }
    this.timer = window.setTimeout(() => {
      panels
        .trySaying(this.s.id, this.said())
        .then((d) => {
          if (n === this.drawing) this.drawn = d;
        })
        .catch(() => {
          if (n === this.drawing) this.drawn = null; // the edit itself tells what is wrong
        });
    }, 60);
  }

  /** Takes what a cell of a control says now. */
  take(at: string, cell: Cell, text: string) {
    delete this.typed[cell];
    this.s.say(
      { control: at, [cell]: text },
      () => delete this.wrong[`${at}/${cell}`],
      (faults) => (this.wrong[`${at}/${cell}`] = textOf(faults)),
    );
  }
  /** Takes a new control; what is refused stays on the page to be put right. */
  add(section: string, said: Partial<Record<Cell, string>>) {
    const one: Coming = {
      n: ++this.made,
      section,
      said: {
        label: said.label ?? "",
        printed: said.printed ?? "",
        sets: said.sets ?? "",
      },
      faults: [],
    };
    this.coming.push(one);
    this.send(one);
  }
  send(one: Coming) {
    const { n } = one;
    const find = () => this.coming.findIndex((x) => x.n === n);
    const it = this.coming[find()];
    if (!it) return;
    it.faults = [];
    this.s.say(
      { section: it.section, ...nonempty($state.snapshot(it.said)) },
      () => this.coming.splice(find(), 1),
      (faults) => {
        const x = this.coming[find()];
        if (x) x.faults = faults;
      },
    );
  }
  drop(one: Coming) {
    this.coming = this.coming.filter((x) => x.n !== one.n);
  }
  remove(at: string) {
    const all = this.order();
    const i = all.indexOf(at);
    const next = all[i + 1] ?? all[i - 1];
    this.s.takeOut(at, () => {
      if (next) void this.go(next, this.cell);
    });
  }
}

const textOf = (faults: Fault[]) => faults.map((f) => f.message).join("; ");

/** Without the cells that nothing was typed into: they are worked out of the rest. */
function nonempty(
  t: Partial<Record<Cell, string>>,
): Partial<Record<Cell, string>> {
  return Object.fromEntries(Object.entries(t).filter(([, v]) => v.trim()));
}

/** What a block is looked for by. */
export function blocksFor(text: string) {
  const want = text.trim().toLowerCase().split(/\s+/).filter(Boolean);
  return words.blocks.filter((b) => {
    const all = `${b.label} ${b.id} ${b.words}`.toLowerCase().split(/[\s-]+/);
    return want.every((w) => all.some((x) => x.startsWith(w)));
  });
}
