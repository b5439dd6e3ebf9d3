// Files that are imported: each by what is in it, with a question where one of its id is here, and one report of all.
import { part, refusals } from "./api";
import { app } from "./app.svelte";
import * as shelf from "./calls/shelf";
import { route } from "./route.svelte";
import type { Fault, Imported } from "./types";

export type ImportLine = {
  file: string;
  says: string;
  href?: string;
  faults?: Fault[];
};
type As = "version" | "beside" | "leave";

const limit = 5 * 1024 * 1024;
const where = (r: Imported) =>
  r.kind === "patch"
    ? `/patches/${part(r.id)}`
    : r.kind === "table"
      ? `/panels/${part(r.id)}/workshop`
      : `/panels/${part(r.id)}`;
const did: Record<string, string> = {
  new: "imported",
  version: "imported in the place of what was here, which is kept",
  beside: "imported beside the one that was here",
  same: "is here already, just as it is",
};

export class Imports {
  report = $state.raw<ImportLine[]>([]);
  shown = $state(false);
  /** The question what is to be done with a file of which one is here, and how many files come after it. */
  asked = $state.raw<{ file: string; here: Imported; others: number } | null>(
    null,
  );
  /** Set where the answer holds for the files after it. */
  forAll = $state(false);
  private resolve: ((as: As) => void) | null = null;

  answer = (as: As) => {
    this.asked = null;
    app.asking = false;
    this.resolve?.(as);
    this.resolve = null;
  };

  private ask(file: string, here: Imported, others: number): Promise<As> {
    return new Promise((resolve) => {
      app.asking = true;
      this.asked = { file, here, others };
      this.resolve = resolve;
    });
  }

  show = (on: boolean) => {
    this.shown = on;
    app.asking = on;
  };

  private async one(
    file: File,
    all: { as?: As },
    others: number,
  ): Promise<{ line: ImportLine; got?: Imported }> {
    const line = (says: string): ImportLine => ({ file: file.name, says });
    if (file.size > limit)
      return {
        line: line(
          `not imported: it has ${(file.size / 1024 / 1024).toFixed(1)} MB; a file may have at most 5 MB`,
        ),
      };
    try {
      let got = await shelf.take(file, "ask");
      if (got.did === "asked") {
        const as = all.as ?? (await this.ask(file.name, got, others));
        if (this.forAll) all.as = as;
        if (as === "leave")
          return { line: line(`left: ${got.name} stays as it was here`) };
        got = await shelf.take(file, as);
      }
      const says =
        got.kind === "table"
          ? `${got.taken ?? 0} controls read, as the draft of ${got.name}`
          : `${got.kind} ${got.name}: ${did[got.did] ?? got.did}`;
      return {
        got,
        line: { ...line(says), href: where(got), faults: got.rows },
      };
    } catch (e) {
      const faults: Fault[] | undefined = refusals(e);
      if (!faults) {
        app.fail(e);
        return { line: line("not imported") };
      }
      if (faults.length > 1)
        return { line: { ...line("not imported"), faults } };
      const f = faults[0];
      const at = f?.path ? `${f.path}: ` : "";
      return {
        line: line(`not imported: ${f?.words ?? `${at}${f?.message ?? ""}`}`),
      };
    }
  }

  async take(list: Iterable<File>) {
    // panels first: patches stand on them
    const all = await Promise.all(
      [...list].map(async (f) => ({
        f,
        panel: (await f.slice(0, 400).text()).includes("-panel"),
      })),
    );
    if (all.length === 0) return;
    all.sort((a, b) => Number(b.panel) - Number(a.panel));
    app.busy = true;
    app.message = null;
    this.forAll = false;
    const lines: ImportLine[] = [];
    const way: { as?: As } = {};
    let last: Imported | undefined;
    for (const [i, { f }] of all.entries()) {
      const r = await this.one(f, way, all.length - i - 1);
      lines.push(r.line);
      last = r.got ?? last;
    }
    app.busy = false;
    app.changed++;
    if (lines.length === 1 && last) {
      route.go(where(last));
      if (last.kind === "table") app.taken(last.taken ?? 0, last.rows ?? []);
      else
        app.say(
          last.did === "same" ? "Here already" : "Imported",
          `${last.name}: ${did[last.did] ?? ""}.`,
        );
      return;
    }
    this.report = lines;
    this.show(true);
  }
}
