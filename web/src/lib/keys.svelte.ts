// Keys: one table for each view is what its keys do and what the list of keys (?) shows.
import { app, plain, pressing, typing } from "./app.svelte";

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

/** Does what the table has for a key press; tells whether there was anything. */
export function press(table: Key[], e: KeyboardEvent): boolean {
  for (const k of table) {
    if (!k.run || !means(k, e) || (k.while && !k.while())) continue;
    if (typing(e) && !(k.typing && !chooses(e))) continue;
    if (k.run(e) !== through) e.preventDefault();
    return true;
  }
  return false;
}

/** Lists the keys of a view, and does what they say. Call it while a component starts. Keys that a
    focused button or link takes are left to it. */
export function keys(table: Key[]) {
  $effect(() => {
    app.keys = table.filter((k) => k.does);
    const down = (e: KeyboardEvent) => {
      if (!plain(e) || app.help || pressing(e)) return;
      press(table, e);
    };
    addEventListener("keydown", down);
    return () => removeEventListener("keydown", down);
  });
}
