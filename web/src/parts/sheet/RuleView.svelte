<script lang="ts">
  import { along, at, write } from "../../lib/axis";
  import { nearest, next } from "../../lib/rule";
  import type { Scales } from "../../lib/types";
  import RuleDrawing from "./RuleDrawing.svelte";
  import RuleWords from "./RuleWords.svelte";

  /** Two scales along one physical axis, with a hairline that reads both. */
  let {
    rule,
    set,
  }: { rule: Scales; set: (control: string, reading: string) => void } =
    $props();

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
  let of = "";
  $effect.pre(() => {
    if (of === rule.gloss) return; // the same line drawn again: the hairline stays
    of = rule.gloss;
    hair = start();
  });

  const onSource = $derived(nearest(rule, rule.source, hair));
  const onTarget = $derived(nearest(rule, rule.target, hair));

  function move(px: number) {
    hair = at(rule, Math.min(1, Math.max(0, (px - pad) / (width - 2 * pad))));
  }
  function keydown(e: KeyboardEvent) {
    if (e.ctrlKey || e.metaKey || e.altKey) return;
    const fine = e.shiftKey ? 0.002 : 0;
    switch (e.key) {
      case "ArrowRight":
      case "ArrowUp":
        if (fine) hair = at(rule, Math.min(1, along(rule, hair) + fine));
        else hair = next(rule, hair, 1);
        break;
      case "ArrowLeft":
      case "ArrowDown":
        if (fine) hair = at(rule, Math.max(0, along(rule, hair) - fine));
        else hair = next(rule, hair, -1);
        break;
      case "Home":
        hair = rule.min;
        break;
      case "End":
        hair = rule.max;
        break;
      case "w":
        hair = start();
        break;
      case "Enter":
        if (rule.target && onTarget) set(rule.target.control, onTarget.reading);
        break;
      default:
        return;
    }
    e.preventDefault();
    e.stopPropagation();
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
        ><kbd>r</kbd> here, arrows move, <kbd>Enter</kbd> sets</span
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
</style>
