/** Moves the focus through the rows of a list ([data-row]) by the arrow keys. */
export function walkRows(e: KeyboardEvent): boolean {
  if (e.key !== "ArrowDown" && e.key !== "ArrowUp") return false;
  const all = [...document.querySelectorAll<HTMLElement>("[data-row]")];
  if (all.length === 0) return false;
  const i = all.indexOf(document.activeElement as HTMLElement);
  const to =
    e.key === "ArrowDown"
      ? Math.min(all.length - 1, i + 1)
      : Math.max(0, i - 1);
  all[to]?.focus();
  e.preventDefault();
  return true;
}
