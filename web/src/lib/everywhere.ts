// The keys that work in every view.
import { app, plain } from "./app.svelte";
import { press, type Key } from "./keys.svelte";
import { guide } from "./guide.svelte";
import { route } from "./route.svelte";

// a g waits for the letter of a view
let go = false;
const to: Record<string, string> = {
  d: "/",
  p: "/patches",
  b: "/bank",
  i: "/panels",
  l: "/log",
  k: "/keep",
  s: "/shows",
  e: "/ear",
};
const free = () => !app.help && !app.asking;
export const everywhere: Key[] = [
  {
    on: (e) => go && !!to[e.key],
    run: (e) => {
      route.go(to[e.key] ?? "/");
      e.stopImmediatePropagation();
    },
    while: free,
  },
  {
    keys: "?",
    does: "show or hide this list",
    on: "?",
    run: () => (app.help = !app.help),
  },
  {
    keys: "F1",
    does: "what this view is for, beside it",
    on: "F1",
    run: () => (app.beside = !app.beside),
    typing: true,
  },
  {
    keys: "F2",
    does: "the next step of the guide",
    on: "F2",
    run: () => guide.next(),
    while: () => free() && !!guide.now,
    typing: true,
  },
  {
    keys: "g then d, p, b, i, s, l, e or k",
    does: "go to the desk, the patches, the bank, the instruments' panels, the shows, the log, ear practice, or to backups and archives",
    on: "g",
    run: () => (go = true),
    while: free,
  },
  {
    keys: "=",
    does: "open the reckoner, with the value of the chosen line",
    on: "=",
    run: () => route.go(app.reckoner()),
    while: free,
  },
  {
    keys: "t",
    does: "light or dark",
    on: "t",
    run: () => app.toggleTheme(),
    while: free,
  },
];
export const withControl: Key[] = [
  {
    keys: "Ctrl Z",
    does: "take the last change back",
    on: (e) => e.key.toLowerCase() === "z" && !e.shiftKey,
    run: () => void app.undo(),
  },
  {
    keys: "Ctrl Shift Z",
    does: "do it again",
    on: (e) => e.key.toLowerCase() === "z" && e.shiftKey,
    run: () => void app.redo(),
  },
];
/** Does what keys do everywhere; listened to before the keys of a view. */
export function keydown(e: KeyboardEvent) {
  if (e.ctrlKey || e.metaKey) {
    press(withControl, e);
    return;
  }
  if (!plain(e)) return;
  const waited = go;
  press(everywhere, e);
  if (waited) go = false;
}
