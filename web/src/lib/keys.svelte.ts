// Keys: one table for each view is what its keys do and what the list of keys (?) shows.
import { tick } from "svelte";
import { app, plain, pressing, typing } from "./app.svelte";
import { loading, whenLoaded } from "./load.svelte";

/** What a key's run gives where the key goes on to the page: into the field that it has opened. */
export const through = Symbol("through");

export type Key = {
  /** As the list of keys shows it, and what it does; what has neither is not listed. */
  keys?: string;
  does?: string;
  /** The keys as events name them (KeyboardEvent.key), or a test of the event; absent where others see to it. */
  on?: string | string[] | ((e: KeyboardEvent) => boolean);
  /** What is done; through leaves the key to the page too. */
  run?: (e: KeyboardEvent) => unknown;
  /** The key counts only while this holds. */
  while?: () => boolean;
  /** The key counts in fields that take text, too. */
  typing?: boolean;
};

const means = (k: Key, e: KeyboardEvent) =>
  typeof k.on === "function"
    ? k.on(e)
    : typeof k.on === "string"
      ? e.key === k.on
      : !!k.on?.includes(e.key);

/** Tells whether a key moves through the options of a field. */
const chooses = (e: KeyboardEvent) =>
  e.target instanceof HTMLSelectElement && e.key.startsWith("Arrow");

/** How long after a field has been left by Tab or by a click no key is a command, in ms: what is typed on still means the field. */
const moment = 400;
let leftAt = -Infinity;
let lastKey = "";
let inField = false; // what had the focus last takes text

/** Notes when fields are left by Tab or by a click. Other keys leave one on purpose: what comes after them is meant. */
export function watchFields() {
  const field = (t: EventTarget | null) =>
    t instanceof HTMLElement &&
    (t.isContentEditable ||
      t instanceof HTMLTextAreaElement ||
      (t instanceof HTMLInputElement &&
        !["checkbox", "radio", "button", "file", "range"].includes(t.type)));
  const out = (e: FocusEvent) => {
    if (field(e.target) && (lastKey === "Tab" || lastKey === ""))
      leftAt = performance.now();
  };
  const down = (e: KeyboardEvent) => {
    if (field(e.target)) leftAt = -Infinity; // typed into the next field: what comes after that is meant again
    lastKey = e.key;
  };
  const point = () => {
    lastKey = "";
    leftAt = -Infinity; // whoever points a second time does not type on
  };
  addEventListener("focusout", out, true);
  addEventListener("keydown", down, true);
  addEventListener("pointerdown", point, true);
  // where what had the focus is taken off the page, the page itself takes it: at once, but where it was a field that somebody may still be typing into
  let waiting = 0;
  addEventListener("focusin", (e) => (inField = field(e.target)), true);
  const back = () => {
    waiting = 0;
    goHome();
  };
  const gone = new MutationObserver(() => {
    if (document.activeElement !== document.body || waiting) return;
    if (inField) waiting = window.setTimeout(back, moment);
    else back();
  });
  gone.observe(document.body, { childList: true, subtree: true });
}

/** What has the focus where nothing else does. */
let home: HTMLElement | undefined;
export function setHome(el: HTMLElement | undefined) {
  home = el;
}

/** Gives the focus to the page where nothing has it. */
export function goHome() {
  if (document.activeElement === document.body)
    home?.focus({ preventScroll: true });
}

/** Tells whether a key press cannot be meant as a command: the focus is on nothing, or a field has been left less than a moment ago. */
const astray = (e: KeyboardEvent) =>
  !typing(e) &&
  plain(e) &&
  e.key !== "Escape" &&
  (document.activeElement === document.body ||
    document.activeElement === null ||
    (e.key.length === 1 && performance.now() - leftAt < moment));

/** Does what the table has for a key press; tells whether there was anything. */
export function press(table: Key[], e: KeyboardEvent): boolean {
  if (astray(e)) {
    if (!inField) goHome(); // the next one counts
    return false;
  }
  for (const k of table) {
    if (!k.run || !means(k, e) || (k.while && !k.while())) continue;
    if (typing(e) && !(k.typing && !chooses(e))) continue;
    if (k.run(e) !== through) e.preventDefault();
    return true;
  }
  return false;
}

/** A key that has opened a field goes into it. */
function put(key: string) {
  const field = document.activeElement;
  if (!(field instanceof HTMLInputElement) || key.length !== 1) return;
  field.setRangeText(
    key,
    field.selectionStart ?? 0,
    field.selectionEnd ?? field.value.length,
    "end",
  );
  field.dispatchEvent(new InputEvent("input", { bubbles: true, data: key }));
}

/** Lists the keys of a view, and does what they say. Call it while a component starts. Keys that a
    focused button or link takes are left to it. What is pressed before the view has what it shows is
    done as soon as it has, in its order; Esc is done at once. */
export function keys(table: Key[]) {
  $effect(() => {
    app.keys = table.filter((k) => k.does);
    let held: KeyboardEvent[] = [];
    const replay = async () => {
      await tick();
      for (let e = held[0]; e; e = held[0]) {
        goHome();
        for (const k of table) {
          if (!k.run || !means(k, e) || (k.while && !k.while())) continue;
          const went = k.run(e);
          await tick();
          if (went === through) put(e.key);
          break;
        }
        held = held.slice(1);
      }
    };
    const down = (e: KeyboardEvent) => {
      if (!plain(e) || app.help || app.asking || pressing(e)) return;
      if (
        (loading() || held.length > 0) &&
        e.key !== "Escape" &&
        !typing(e) &&
        table.some((k) => k.run && means(k, e))
      ) {
        e.preventDefault();
        held.push(e);
        if (held.length === 1) whenLoaded(() => void replay());
        return;
      }
      press(table, e);
    };
    addEventListener("keydown", down);
    return () => {
      held = [];
      removeEventListener("keydown", down);
    };
  });
}
