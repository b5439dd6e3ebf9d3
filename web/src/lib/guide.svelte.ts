// The guide: the first half hour in the real views, from the sample to a show. Each step says what to do and notices when it has been done.
import { app } from "./app.svelte";
import { route, type Place } from "./route.svelte";

type Step = {
  title: string;
  text: string;
  /** Where it is done; absent where one gets there by doing it. */
  href?: string;
  /** Tells whether it has been done. */
  done: (place: Place, undo: string) => boolean;
};

const at =
  (...views: Place["view"][]) =>
  (p: Place) =>
    views.includes(p.view);
const did = (text: string) => (_: Place, undo: string) => undo.includes(text);

export const steps: Step[] = [
  {
    title: "The desk",
    text: "Here is what you work on. Press s (or the button): it loads nine instruments and the patches of a stage piece, and opens the first translation.",
    href: "/",
    done: at("sheet"),
  },
  {
    title: "A sheet",
    text: "Left: the patch as it stands. Right: what to set on the other instrument. Go down the lines with ↓; press l to see only what is bent, recast or left out.",
    done: (p) => p.view === "sheet" && route.line !== "",
  },
  {
    title: "Another reading",
    text: "On a line with a number, type another reading for the target and press Enter: the verdict follows. Ctrl Z takes it back, as it does everything.",
    done: (p, undo) => p.view === "sheet" && undo.includes(": set "),
  },
  {
    title: "Listen",
    text: "Monitors down first. Press h, and hear both sides at the same loudness; s switches between them.",
    done: at("listen"),
  },
  {
    title: "Dial in",
    text: "Esc, then d: the list to set the instrument by. Space ticks a line. Tick three.",
    done: (p, undo) => p.view === "dialin" && undo.includes("tick"),
  },
  {
    title: "Set otherwise",
    text: "With c you say that you have set a line otherwise, and why. It stands in the log, and is learnt from.",
    done: (p, undo) => p.view === "dialin" && undo.includes(": set "),
  },
  {
    title: "The patch itself",
    text: "A patch is readings as they stand on the instrument. Change one with ← and →, and press Space to hear it.",
    href: "/patches/keel",
    done: (p, undo) =>
      p.view === "patch" && undo !== "" && !undo.includes("tick"),
  },
  {
    title: "Which instrument",
    text: "Press b: what each instrument carries of this patch, and, with h, how far apart they sound.",
    done: at("targets"),
  },
  {
    title: "The instrument",
    text: "A panel describes an instrument. Open one and look at a control's scale; press b for the bench, where laws are measured.",
    href: "/panels/halyard",
    done: at("benches", "bench"),
  },
  {
    title: "A night on stage",
    text: "Press g then s, and open the show. In the harbour room one evening does not fit: read why, and what would let all be played. Try Do so, then take it back.",
    href: "/shows",
    done: did("change the show"),
  },
  {
    title: "Rehearse",
    text: "Press r: the running order with a clock. s lets it go, Space ticks what is changed.",
    done: at("rehearse"),
  },
  {
    title: "Keep it",
    text: "Press g then k, and make a backup. Archives take patches elsewhere with all that belongs to them.",
    href: "/keep",
    done: at("keep"),
  },
  {
    title: "Your own",
    text: "Describe your instrument (n on the panels' page, a table will do), write a patch down, and open its sheet. The desk takes the sample away again, and nothing of yours.",
    href: "/panels",
    done: at("workshop"),
  },
];

const key = "glossator-guide";

class Guide {
  /** The step that is shown; -1 where the guide is closed. */
  step = $state(Number(localStorage.getItem(key) ?? "-1"));
  done = $state(false);

  get now(): Step | undefined {
    return steps[this.step];
  }
  go(to: number) {
    this.step = to >= 0 && to < steps.length ? to : -1;
    this.done = false;
    localStorage.setItem(key, String(this.step));
  }
  begin() {
    this.go(0);
    if (steps[0]?.href) route.go(steps[0].href);
  }
  next() {
    this.go(this.step + 1);
    const to = this.now?.href;
    if (to && this.now && !this.now.done(route.place, app.pending.undo))
      route.go(to);
  }
  end() {
    this.go(-1);
  }
  /** Notices what has been done. Call it while a component starts. */
  watch() {
    let before = "";
    let was = -2;
    $effect(() => {
      const place = route.place;
      void route.line;
      const undo = app.pending.undo;
      const s = this.now;
      if (this.step !== was) {
        // what was done before the step counts for it only where it is a place
        was = this.step;
        before = undo;
      }
      if (s?.done(place, undo === before ? "" : undo)) this.done = true;
    });
  }
}

export const guide = new Guide();
