<script lang="ts" module>
  /** What is wrong with a text; undefined where nothing is. */
  export type Wrong = string | undefined;
</script>

<script lang="ts">
  /** One labelled field. What is typed is told at once (typed), and taken when it is left or Enter
      is pressed (take); both may answer with what is wrong. Esc puts the old text back. */
  let {
    label,
    value,
    how = "line",
    options = [],
    offers = [],
    list = "",
    hint = "",
    wrong = "",
    wide = false,
    mono = true,
    rows = 3,
    id = "",
    disabled = false,
    el = $bindable(null),
    typed,
    take,
  }: {
    label: string;
    value: string;
    how?: "line" | "area" | "choice" | "flag";
    options?: { value: string; text: string }[];
    offers?: string[];
    /** The id of a datalist that several fields share. */
    list?: string;
    hint?: string;
    wrong?: string;
    wide?: boolean;
    mono?: boolean;
    rows?: number;
    id?: string;
    disabled?: boolean;
    /** The element that takes the text. */
    el?: HTMLElement | null;
    typed?: (text: string) => Wrong;
    take: (text: string) => Wrong | Promise<Wrong>;
  } = $props();

  const uid = $props.id();
  const field = $derived(id || `f-${uid}`);
  let text = $state("");
  let fault = $state("");
  let dropped = $state(""); // what Esc took away
  let typing = false; // an answer to an earlier edit does not take away what is being typed
  let kept = ""; // what was taken last, also while the answer to it is on its way
  $effect.pre(() => {
    const now = value;
    kept = now;
    if (typing) return;
    text = now;
    fault = "";
  });
  function input() {
    typing = true;
    dropped = "";
    fault = typed?.(text) ?? "";
  }
  async function change(now: string) {
    typing = false;
    if (now === kept && !fault) return;
    const says = take(now);
    if (says instanceof Promise) {
      kept = now; // until the answer tells, which may write it otherwise
      fault = (await says) ?? "";
      return;
    }
    fault = says ?? "";
    if (!fault) kept = now;
  }
  function keydown(e: KeyboardEvent) {
    if (e.key === "Escape" && text !== kept) {
      e.stopPropagation();
      typing = false;
      dropped = text;
      text = kept;
      fault = typed?.(kept) ?? "";
    } else if (e.key === "ArrowUp" && dropped && text === kept) {
      e.preventDefault();
      e.stopPropagation();
      text = dropped;
      input();
    } else if (
      e.key === "Enter" &&
      how === "area" &&
      (e.ctrlKey || e.metaKey)
    ) {
      e.preventDefault();
      void change(text);
    }
  }
  const says = $derived(fault || wrong);
  const lost = $derived(
    dropped ? `Dropped “${dropped.slice(0, 60)}”: ↑ brings it back` : "",
  );
</script>

<div class="field" class:wide>
  {#if how === "flag"}
    <label class="flag">
      <input
        bind:this={el}
        id={field}
        type="checkbox"
        checked={value === "yes"}
        {disabled}
        onchange={(e) => take(e.currentTarget.checked ? "yes" : "")}
      />
      {label}</label
    >
  {:else}
    <label for={field}>{label}</label>
    {#if how === "choice"}
      <select
        bind:this={el}
        id={field}
        {value}
        {disabled}
        aria-invalid={!!says}
        aria-describedby={`${field}-says`}
        onchange={(e) => change(e.currentTarget.value)}
      >
        {#each options as o (o.value)}<option value={o.value}>{o.text}</option
          >{/each}
        {#if !options.some((o) => o.value === value)}<option {value}
            >{value}</option
          >{/if}
      </select>
    {:else if how === "area"}
      <textarea
        bind:this={el}
        id={field}
        class:num={mono}
        {rows}
        {disabled}
        aria-invalid={!!says}
        aria-describedby={`${field}-says`}
        spellcheck="false"
        placeholder={hint}
        bind:value={text}
        oninput={input}
        onchange={() => change(text)}
        onkeydown={keydown}></textarea>
    {:else}
      <input
        bind:this={el}
        id={field}
        class:num={mono}
        list={list || (offers.length ? `${field}-list` : undefined)}
        {disabled}
        aria-invalid={!!says}
        aria-describedby={`${field}-says`}
        autocomplete="off"
        spellcheck="false"
        placeholder={hint}
        bind:value={text}
        oninput={input}
        onchange={() => change(text)}
        onkeydown={keydown}
      />
      {#if offers.length}
        <datalist id={`${field}-list`}
          >{#each new Set(offers) as o (o)}<option value={o}
            ></option>{/each}</datalist
        >
      {/if}
    {/if}
  {/if}
  <div class="says small red" id={`${field}-says`} aria-live="polite">
    {says}
  </div>
  {#if lost}<div class="small soft" role="status">{lost}</div>{/if}
</div>

<style>
  .field {
    min-width: 0;
  }
  .wide {
    grid-column: 1 / -1;
  }
  label {
    display: block;
    font-size: 0.75rem;
    line-height: 1.125rem;
    color: var(--ink-2);
  }
  .flag {
    display: flex;
    align-items: center;
    gap: 0.375rem;
    font-size: 0.8125rem;
    margin-top: 1.125rem;
    height: 1.75rem;
    color: var(--ink);
  }
  input:not([type="checkbox"]),
  select,
  textarea {
    box-sizing: border-box;
    width: 100%;
    font-size: 0.8125rem;
    line-height: 1.125rem;
    padding: 0.25rem 0.375rem;
    color: var(--ink);
    background: var(--sheet);
    border: 0;
    border-bottom: 1px solid var(--ink-3);
    border-radius: 0;
    font-family: var(--sans);
  }
  input.num,
  textarea.num {
    font-family: var(--mono);
  }
  textarea {
    border: 1px solid var(--rule);
    border-bottom-color: var(--ink-3);
    resize: vertical;
    display: block;
  }
  ::placeholder {
    color: var(--ink-3);
    opacity: 1;
    font-style: italic;
  }
  [aria-invalid="true"] {
    border-bottom: 2px solid var(--rubric) !important;
  }
  .says:empty {
    display: none;
  }
</style>
