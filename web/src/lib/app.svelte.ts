// What the whole page shares: theme, what can be undone, messages, the keys of the view.
import { Refusal, stale } from "./api";
import * as program from "./calls/program";
import type { Key } from "./keys.svelte";
import type { Done, Fault, Pending, Problem } from "./types";

type Message = {
  kind: "info" | "error";
  title: string;
  text: string;
  problem?: Problem;
};

const themeKey = "glossator-theme";

function storedTheme(): "white" | "g90" {
  const saved = localStorage.getItem(themeKey);
  if (saved === "white" || saved === "g90") return saved;
  return matchMedia("(prefers-color-scheme: dark)").matches ? "g90" : "white";
}

class App {
  theme: "white" | "g90" = $state(storedTheme());
  pending: Pending = $state({
    undo: "",
    redo: "",
    undoStep: 0,
    redoStep: 0,
  });
  message: Message | null = $state(null);
  /** Counts changes that came from elsewhere than the view: views load again. */
  changed = $state(0);
  keys: Key[] = $state([]);
  help = $state(false);
  /** Whether what the view is for is shown beside it. */
  beside = $state(false);
  busy = $state(false);
  /** The panel whose workshop is open: undo there undoes the workshop. */
  within = "";
  /** Set while a question waits for its answer: no key is a command of the view. */
  asking = $state(false);
  /** The value of the chosen line, for the reckoner: what it is, whose, and the tempo. */
  carry: { value: string; of: string; tempo: number } | null = $state(null);

  /** Where the reckoner is, with the chosen line's value. */
  reckoner(): string {
    const c = this.carry;
    if (!c?.value) return "/reckoner";
    const q = new URLSearchParams({ value: c.value, of: c.of });
    if (c.tempo) q.set("tempo", String(c.tempo));
    return `/reckoner?${q}`;
  }

  toggleTheme() {
    this.theme = this.theme === "white" ? "g90" : "white";
    localStorage.setItem(themeKey, this.theme);
  }

  /** Tells of something done; the message goes by itself. */
  say(title: string, text = "") {
    const m: Message = { kind: "info", title, text };
    this.message = m;
    setTimeout(() => {
      if (this.message?.title === m.title && this.message.text === m.text)
        this.message = null;
    }, 8000);
  }

  /** Tells what came of a table: how many controls went in, and which rows did not. */
  taken(n: number, rows: Fault[]) {
    const title = n === 1 ? "1 control read" : `${n} controls read`;
    if (!rows.length) {
      this.say(title, "Undo takes the table back.");
      return;
    }
    const detail =
      rows.length === 1
        ? "One row did not go in; the others did."
        : `${rows.length} rows did not go in; the others did.`;
    this.message = {
      kind: "info",
      title,
      text: detail,
      problem: {
        type: "about:blank",
        title,
        status: 200,
        detail,
        faults: rows,
      },
    };
  }

  fail(e: unknown) {
    if (stale(e)) this.changed++; // what stands there now is shown beside what is told
    if (e instanceof Refusal) {
      this.message = {
        kind: "error",
        title: e.problem.title,
        text: e.problem.detail,
        problem: e.problem,
      };
    } else {
      this.message = {
        kind: "error",
        title: "The page failed",
        text: `Reload it. (${String(e)})`,
      };
    }
  }

  async undo() {
    await this.step(
      () => program.undo(this.pending.undoStep, this.within),
      "Took back: ",
    );
  }

  async redo() {
    await this.step(
      () => program.redo(this.pending.redoStep, this.within),
      "Did again: ",
    );
  }

  /** Does something; what fails is told. Undefined where it did. */
  async attempt<T>(work: () => Promise<T>): Promise<T | undefined> {
    try {
      return await work();
    } catch (e) {
      this.fail(e);
      return undefined;
    }
  }

  private async step(take: () => Promise<Done>, says: string) {
    try {
      const done = await take();
      this.pending = done.pending;
      this.changed++;
      this.say(says + done.what);
    } catch (e) {
      this.fail(e);
    }
  }
}

export const app = new App();

/** Tells whether a key press belongs to a field that takes text; a box to tick takes the space bar alone. */
export function typing(e: KeyboardEvent): boolean {
  const t = e.target as HTMLElement | null;
  if (t instanceof HTMLInputElement && t.type === "checkbox")
    return e.key === " ";
  return (
    !!t &&
    (t.isContentEditable || ["INPUT", "TEXTAREA", "SELECT"].includes(t.tagName))
  );
}

/** A key without a modifier that changes its meaning. */
export const plain = (e: KeyboardEvent) =>
  !e.ctrlKey && !e.metaKey && !e.altKey;

/** Tells whether a key press belongs to a button or link that has the focus. */
export function pressing(e: KeyboardEvent): boolean {
  const t = e.target as HTMLElement | null;
  return (
    !!t &&
    (e.key === "Enter" || e.key === " ") &&
    !!t.closest("button, a, [role=button], summary")
  );
}
