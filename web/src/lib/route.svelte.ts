// The address bar names the view and the chosen line.

export type Place =
  | { view: "desk" }
  | { view: "panels" }
  | { view: "panel"; id: string }
  | { view: "workshop"; id: string }
  | { view: "benches"; id: string }
  | { view: "bench"; id: string; control: string }
  | { view: "targets"; id: string }
  | { view: "bank" }
  | { view: "reckoner" }
  | { view: "log" }
  | { view: "keep" }
  | { view: "slots"; id: string }
  | { view: "patches" }
  | { view: "patch"; id: string }
  | { view: "sheet"; id: number }
  | { view: "dialin"; id: number }
  | { view: "changeover"; id: number }
  | { view: "listen"; id: number }
  | { view: "shows" }
  | { view: "ear" }
  | { view: "earsitting"; id: number }
  | { view: "show" | "hire"; id: number; house: string }
  | { view: "rehearse"; id: number; house: string; evening: number }
  | { view: "lost"; path: string };

function parse(path: string): Place {
  let p: string[];
  try {
    p = path.split("/").filter(Boolean).map(decodeURIComponent);
  } catch {
    return { view: "lost", path }; // a percent sign that begins no letter
  }
  const id = /^[1-9]\d{0,8}$/.test(p[1] ?? "") ? Number(p[1]) : 0;
  if (p.length === 0) return { view: "desk" };
  if (p.length === 1 && p[0] === "panels") return { view: "panels" };
  if (p.length === 1 && p[0] === "reckoner") return { view: "reckoner" };
  if (p.length === 1 && p[0] === "keep") return { view: "keep" };
  if (p.length === 1 && p[0] === "log") return { view: "log" };
  if (p.length === 1 && p[0] === "patches") return { view: "patches" };
  if (p.length === 2 && p[0] === "panels")
    return { view: "panel", id: p[1] ?? "" };
  if (p.length === 1 && p[0] === "bank") return { view: "bank" };
  if (p.length === 3 && p[0] === "patches" && p[2] === "targets")
    return { view: "targets", id: p[1] ?? "" };
  if (p.length === 3 && p[0] === "panels" && p[2] === "bench")
    return { view: "benches", id: p[1] ?? "" };
  if (p.length === 4 && p[0] === "panels" && p[2] === "bench")
    return { view: "bench", id: p[1] ?? "", control: p[3] ?? "" };
  if (p.length === 3 && p[0] === "panels" && p[2] === "slots")
    return { view: "slots", id: p[1] ?? "" };
  if (p.length === 3 && p[0] === "panels" && p[2] === "workshop")
    return { view: "workshop", id: p[1] ?? "" };
  if (p.length === 2 && p[0] === "patches")
    return { view: "patch", id: p[1] ?? "" };
  if (p.length === 1 && p[0] === "ear") return { view: "ear" };
  if (p.length === 2 && p[0] === "ear" && id > 0)
    return { view: "earsitting", id };
  if (p.length === 1 && p[0] === "shows") return { view: "shows" };
  if (p[0] === "shows" && id > 0) {
    const house = p[2] ?? "";
    if (p.length <= 3) return { view: "show", id, house };
    if (p.length === 4 && p[3] === "hire") return { view: "hire", id, house };
    if (p.length === 5 && p[3] === "rehearse" && /^[1-9]\d?$/.test(p[4] ?? ""))
      return { view: "rehearse", id, house, evening: Number(p[4]) };
  }
  if (p[0] === "sheets" && id > 0) {
    if (p.length === 2) return { view: "sheet", id };
    if (p.length === 3 && p[2] === "dial-in") return { view: "dialin", id };
    if (p.length === 3 && p[2] === "changeover")
      return { view: "changeover", id };
    if (p.length === 3 && p[2] === "listen") return { view: "listen", id };
  }
  return { view: "lost", path };
}

class Route {
  place: Place = $state(parse(location.pathname));
  line: string = $state(new URLSearchParams(location.search).get("line") ?? "");

  constructor() {
    addEventListener("popstate", () => {
      if (this.came.at(-1) === location.pathname + location.search)
        this.came.pop();
      this.read();
    });
  }

  /** The places that one has come through, here in the page. */
  private came: string[] = [];
  /** Goes back to where one came from; elsewhere where that is outside of the page. At once: what is typed next means the place that one is back at. */
  back(otherwise: string) {
    const to = this.came.pop() ?? otherwise;
    const left = this.came.length;
    this.go(to);
    this.came.length = left; // this was no step on
  }

  private read() {
    this.place = parse(location.pathname);
    this.line = new URLSearchParams(location.search).get("line") ?? "";
  }

  go(path: string) {
    if (path !== location.pathname + location.search) {
      this.came.push(location.pathname + location.search);
      if (this.came.length > 50) this.came.shift();
      history.pushState(null, "", path);
    }
    this.read();
    scrollTo(0, 0);
  }

  /** Names the chosen line without a step in the history. */
  choose(line: string) {
    if (line === this.line) return;
    this.line = line;
    history.replaceState(
      null,
      "",
      location.pathname + (line ? "?line=" + encodeURIComponent(line) : ""),
    );
  }
}

export const route = new Route();

/** Follows a plain click on a link within the app; others are left to the browser. */
export function follow(e: MouseEvent) {
  if (
    e.defaultPrevented ||
    e.button !== 0 ||
    e.metaKey ||
    e.ctrlKey ||
    e.shiftKey ||
    e.altKey
  )
    return;
  const a = (e.target as Element | null)?.closest("a");
  if (
    !a ||
    a.target ||
    a.hasAttribute("download") ||
    a.origin !== location.origin
  )
    return;
  if (a.pathname.startsWith("/api/")) return;
  e.preventDefault();
  route.go(a.pathname + a.search);
}
