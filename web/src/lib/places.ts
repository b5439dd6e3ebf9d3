// The elements of a list by what they show, so that one can be scrolled to and focused.

export class Places {
  private all = new Map<string, HTMLElement>();

  /** Attached to an element, keeps it under a key. */
  at = (key: string) => (el: HTMLElement) => {
    this.all.set(key, el);
    return () => {
      if (this.all.get(key) === el) this.all.delete(key);
    };
  };

  get(key: string): HTMLElement | undefined {
    return this.all.get(key);
  }

  show(key: string, focus = true, block: ScrollLogicalPosition = "nearest") {
    const el = this.all.get(key);
    el?.scrollIntoView({ block });
    if (focus) el?.focus({ preventScroll: true });
  }

  /** The elements in the order of the page. */
  private ordered(): HTMLElement[] {
    return [...this.all.values()].sort((a, b) =>
      a.compareDocumentPosition(b) & Node.DOCUMENT_POSITION_FOLLOWING ? -1 : 1,
    );
  }

  /** Moves the focus by a number of elements; from outside of the list to its first. */
  walk(by: number) {
    const all = this.ordered();
    const i = all.indexOf(document.activeElement as HTMLElement);
    all[i < 0 ? 0 : Math.min(all.length - 1, Math.max(0, i + by))]?.focus();
  }
}
