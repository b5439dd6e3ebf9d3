<script lang="ts">
  import { along, at, write } from "../../lib/axis";
  import { plain } from "../../lib/app.svelte";
  import { press, type Key } from "../../lib/keys.svelte";
  import { nearest, next } from "../../lib/rule";
  import type { Scales } from "../../lib/types";
  import RuleDrawing from "./RuleDrawing.svelte";
  import RuleWords from "./RuleWords.svelte";

  /** Two scales along one physical axis, with a hairline that reads both. */
  let {
    rule,
    set,
    moved,
  }: {
    rule: Scales;
    set: (control: string, reading: string) => void;
    /** Told what the target would read under the hairline; nothing where that is where it stands. */
    moved?: (at: { control: string; reading: string } | null) => void;
  } = $props();

  let width = $state(900);
  let box = $state<HTMLElement | undefined>();
  const pad = 26;
  const x = (v: number) => pad + along(rule, v) * (width - 2 * pad);

  const start = () => {
    const q = rule.wanted?.quantity;
    if (q && !q.off) return q.value;
    const r = rule.reached?.quantity;
    return r && !r.off ? r.value : rule.min;
  };
  let hair = $state(0);
  let touched = $state(false);
  let of = "";
  $effect.pre(() => {
    if (of === rule.gloss) return; // the same line drawn again: the hairline stays
    of = rule.gloss;
    touched = false;
    hair = start();
  });

  const onSource = $derived(nearest(rule, rule.source, hair));
  const onTarget = $derived(nearest(rule, rule.target, hair));

  const there = $derived(
    rule.target && onTarget && touched ? onTarget.reading : "",
  );
  $effect(() => {
    const control = rule.target?.control ?? "";
    moved?.(
      there && there !== rule.target?.reading
        ? { control, reading: there }
        : null,
    );
  });

  /** Moves to a place of the axis, 0 to 1. */
  function to(p: number) {
    touched = true;
    hair = at(rule, Math.min(1, Math.max(0, p)));
  }
  const move = (px: number) => to((px - pad) / (width - 2 * pad));
  const table: Key[] = [
    {
      keys: "arrows",
      does: "move",
      on: ["ArrowRight", "ArrowUp", "ArrowLeft", "ArrowDown"],
      run: (e) => {
        const by = e.key === "ArrowRight" || e.key === "ArrowUp" ? 1 : -1;
        touched = true;
        if (!e.shiftKey) hair = next(rule, hair, by);
        else to(along(rule, hair) + 0.002 * by);
      },
    },
    { on: "Home", run: () => (hair = rule.min) },
    { on: "End", run: () => (hair = rule.max) },
    {
      keys: "w",
      does: "where it is wanted",
      on: "w",
      run: () => {
        touched = false;
        hair = start();
      },
    },
    {
      keys: "Enter",
      does: "sets",
      on: "Enter",
      run: () =>
        rule.target && onTarget && set(rule.target.control, onTarget.reading),
    },
  ];
  function keydown(e: KeyboardEvent) {
    if (plain(e) && press(table, e)) e.stopPropagation();
  }
  export function focus() {
    box?.focus();
  }
  export const focused = () => !!box && document.activeElement === box;
</script>

{#if rule.named}
  <RuleWords {rule} />
{:else}
  <div class="rule" bind:clientWidth={width}>
    <div
      bind:this={box}
      role="slider"
      tabindex="0"
      aria-label="Hairline"
      aria-valuemin={rule.min}
      aria-valuemax={rule.max}
      aria-valuenow={hair}
      aria-valuetext={`${write(hair, rule.writing)}; ${rule.source ? `${rule.source.panel} ${onSource?.reading ?? "none"}` : ""}; ${rule.target ? `${rule.target.panel} ${onTarget?.reading ?? "none"}` : ""}`}
      onkeydown={keydown}
      onpointermove={(e) =>
        move(e.clientX - e.currentTarget.getBoundingClientRect().left)}
      onpointerdown={(e) => {
        move(e.clientX - e.currentTarget.getBoundingClientRect().left);
        box?.focus();
      }}
    >
      <RuleDrawing {rule} {width} {hair} {x} />
    </div>
    <div class="read num" aria-live="off">
      <span><span class="soft">hairline</span> {write(hair, rule.writing)}</span
      >
      {#if rule.source}<span
          ><span class="soft">{rule.source.panel}</span>
          {onSource?.reading ?? "–"}</span
        >{/if}
      {#if rule.target}
        <span
          ><span class="soft">{rule.target.panel}</span>
          {onTarget?.reading ?? "–"}</span
        >
        <button
          class="linkish"
          disabled={!onTarget || onTarget.reading === rule.target.reading}
          onclick={() =>
            rule.target &&
            onTarget &&
            set(rule.target.control, onTarget.reading)}
          >set {rule.target.panel} to {onTarget?.reading}</button
        >
      {/if}
      <span class="soft small keys"
        ><kbd>r</kbd> here{#each table.filter((k) => k.does) as k (k.keys)}, <kbd
            >{k.keys}</kbd
          >
          {k.does}{/each}</span
      >
    </div>
  </div>
{/if}

<style>
  .rule [role="slider"] {
    cursor: crosshair;
    touch-action: none;
    background: var(--sheet);
    border: 1px solid var(--rule);
  }
  .read {
    display: flex;
    flex-wrap: wrap;
    gap: 0 1.25rem;
    align-items: baseline;
    padding-top: 0.25rem;
    min-height: 1.5rem;
  }
  .read span,
  .read button {
    line-height: max(1.25em, 1.125rem);
    max-width: 26rem;
    overflow: hidden;
    text-overflow: ellipsis;
    white-space: nowrap;
  }
  .read .soft {
    display: inline-block;
    max-width: 14rem;
    vertical-align: bottom;
  }
  .read .keys {
    max-width: none;
  }
  .read button:disabled {
    visibility: hidden;
  }
  .keys {
    margin-left: auto;
    font-family: var(--sans);
  }
  @media (max-width: 640px) {
    .keys {
      display: none;
    }
  }
</style>
