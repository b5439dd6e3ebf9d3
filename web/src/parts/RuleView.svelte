<script lang="ts">
  import { along, at, marks, short, write } from "../lib/axis";
  import type { Rule, Side, Tick } from "../lib/types";

  /** Two scales along one physical axis, with a hairline that reads both. */
  let {
    rule,
    set,
  }: { rule: Rule; set: (control: string, reading: string) => void } = $props();

  let width = $state(900);
  let box = $state<HTMLElement | undefined>();
  const pad = 26;
  const x = (v: number) => pad + along(rule, v) * (width - 2 * pad);
  const inside = (v: number) => Math.min(width - pad, Math.max(pad, x(v)));

  const places = (s: Side | undefined) =>
    (s?.ticks ?? []).filter((t) => !t.off);
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

  function nearest(ticks: Tick[], v: number): Tick | undefined {
    let best: Tick | undefined;
    let least = Infinity;
    for (const t of ticks) {
      const d = Math.abs(along(rule, t.value) - along(rule, v));
      if (d < least) [best, least] = [t, d];
    }
    return best;
  }
  const onSource = $derived(nearest(places(rule.source), hair));
  const onTarget = $derived(nearest(places(rule.target), hair));

  function move(px: number) {
    hair = at(rule, Math.min(1, Math.max(0, (px - pad) / (width - 2 * pad))));
  }
  function step(by: number) {
    const ticks = [
      ...(places(rule.target).length
        ? places(rule.target)
        : places(rule.source)),
    ].sort((a, b) => a.value - b.value);
    if (!ticks.length) return;
    const p = along(rule, hair);
    const i = ticks.findIndex((t) => along(rule, t.value) > p + 1e-7);
    const j = ticks.findLastIndex((t) => along(rule, t.value) < p - 1e-7);
    const t =
      by > 0 ? ticks[i < 0 ? ticks.length - 1 : i] : ticks[Math.max(0, j)];
    if (t) hair = t.value;
  }
  function keydown(e: KeyboardEvent) {
    if (e.ctrlKey || e.metaKey || e.altKey) return;
    const fine = e.shiftKey ? 0.002 : 0;
    switch (e.key) {
      case "ArrowRight":
      case "ArrowUp":
        if (fine) hair = at(rule, Math.min(1, along(rule, hair) + fine));
        else step(1);
        break;
      case "ArrowLeft":
      case "ArrowDown":
        if (fine) hair = at(rule, Math.max(0, along(rule, hair) - fine));
        else step(-1);
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

  /** The major ticks whose readings do not run into each other. */
  function labelled(s: Side | undefined): Tick[] {
    const out: Tick[] = [];
    let last = -Infinity;
    for (const t of [...places(s)].sort((a, b) => a.value - b.value)) {
      if (!t.major) continue;
      const px = x(t.value);
      const half = t.reading.length * 3.6 + 3;
      if (px - half < last) continue;
      out.push(t);
      last = px + half;
    }
    return out;
  }
  const axisMarks = $derived.by(() => {
    let last = -Infinity;
    return marks(rule, rule.unit).filter((v) => {
      const px = x(v);
      if (px - last < 34) return false;
      last = px;
      return true;
    });
  });
  const offs = (s: Side | undefined) =>
    (s?.ticks ?? []).filter((t) => t.off).map((t) => t.reading);
  const bandLow = $derived(
    rule.geometric ? Math.max(rule.low, rule.min * 1e-6) : rule.low,
  );
</script>

{#if rule.named}
  <div class="words">
    {#each [rule.source, rule.target] as side, i (i)}
      {#if side}
        <div>
          <div class="small soft">{side.panel}: {side.label}</div>
          <ul>
            {#each side.ticks as t, n (n)}
              <li class="num" class:here={t.reading === side.reading}>
                {t.reading}{#if t.text !== t.reading}<span class="soft small"
                    >{t.text}</span
                  >{/if}
              </li>
            {/each}
          </ul>
        </div>
      {/if}
    {/each}
    <p class="reason small">{rule.explanation}</p>
  </div>
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
      aria-valuetext={`${write(hair, rule.unit)}; ${rule.source ? `${rule.source.panel} ${onSource?.reading ?? "none"}` : ""}; ${rule.target ? `${rule.target.panel} ${onTarget?.reading ?? "none"}` : ""}`}
      onkeydown={keydown}
      onpointermove={(e) =>
        move(e.clientX - e.currentTarget.getBoundingClientRect().left)}
      onpointerdown={(e) => {
        move(e.clientX - e.currentTarget.getBoundingClientRect().left);
        box?.focus();
      }}
    >
      <svg {width} height="132" aria-hidden="true">
        {#if rule.high > rule.low}
          <rect
            class="band"
            x={inside(bandLow)}
            width={Math.max(2, inside(rule.high) - inside(bandLow))}
            y="38"
            height="56"
          />
        {/if}
        <line class="hair" x1={x(hair)} x2={x(hair)} y1="20" y2="112" />
        <line class="edge" x1="0" x2={width} y1="54" y2="54" />
        <line class="edge" x1="0" x2={width} y1="78" y2="78" />
        {#each axisMarks as v (v)}
          <text class="axis" x={x(v)} y="70">{short(v, rule.unit)}</text>
        {/each}
        {#each places(rule.source) as t, i (i)}
          <line
            class="tick"
            x1={x(t.value)}
            x2={x(t.value)}
            y1={t.major ? 40 : 47}
            y2="54"
          />
        {/each}
        {#each labelled(rule.source) as t, i (i)}
          <text class="reading" x={x(t.value)} y="34">{t.reading}</text>
        {/each}
        {#each places(rule.target) as t, i (i)}
          <line
            class="tick"
            x1={x(t.value)}
            x2={x(t.value)}
            y1="78"
            y2={t.major ? 92 : 85}
          />
        {/each}
        {#each labelled(rule.target) as t, i (i)}
          <text class="reading" x={x(t.value)} y="105">{t.reading}</text>
        {/each}
        {#if rule.wanted && !rule.wanted.quantity.off}
          <path
            class="wanted"
            d={`M${x(rule.wanted.quantity.value)} 54l-5 -8h10z`}
          />
        {/if}
        {#if rule.reached && !rule.reached.quantity.off}
          <path
            class="wanted"
            d={`M${x(rule.reached.quantity.value)} 78l-5 8h10z`}
          />
        {/if}
        <text class="side" x="2" y="12"
          >{rule.source
            ? `${rule.source.panel}: ${rule.source.label}`
            : "no control of the source"}<tspan class="law"
            >{rule.source ? "  " + rule.source.law : ""}{offs(rule.source)
              .length
              ? `; ${offs(rule.source).join(", ")} is off`
              : ""}</tspan
          ></text
        >
        <text class="side" x="2" y="127"
          >{rule.target
            ? `${rule.target.panel}: ${rule.target.label}`
            : "no control of the target"}<tspan class="law"
            >{rule.target ? "  " + rule.target.law : ""}{offs(rule.target)
              .length
              ? `; ${offs(rule.target).join(", ")} is off`
              : ""}</tspan
          ></text
        >
      </svg>
    </div>
    <div class="read num" aria-live="off">
      <span><span class="soft">hairline</span> {write(hair, rule.unit)}</span>
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
  svg {
    display: block;
    overflow: hidden;
  }
  .edge {
    stroke: var(--ink);
    stroke-width: 1;
  }
  .tick {
    stroke: var(--ink-2);
    stroke-width: 1;
  }
  .band {
    fill: var(--band);
  }
  text {
    font-family: var(--mono);
    font-size: 11px;
    fill: var(--ink);
  }
  .reading {
    text-anchor: middle;
    paint-order: stroke;
    stroke: var(--sheet);
    stroke-width: 4px;
  }
  .axis {
    text-anchor: middle;
    fill: var(--ink-3);
    font-size: 10.5px;
  }
  .side {
    font-family: var(--sans);
    font-size: 12px;
  }
  .law {
    fill: var(--ink-3);
    font-family: var(--serif);
    font-style: italic;
    white-space: pre;
  }
  .hair {
    stroke: var(--rubric);
    stroke-width: 1.25;
  }
  .wanted {
    fill: var(--ink);
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
  .words {
    display: flex;
    flex-wrap: wrap;
    gap: 0.5rem 2rem;
    min-height: 8rem;
    align-content: flex-start;
  }
  .words ul {
    display: flex;
    flex-wrap: wrap;
    gap: 0.25rem;
    margin: 0.25rem 0;
    padding: 0;
    list-style: none;
  }
  .words li {
    border: 1px solid var(--rule);
    padding: 0.0625rem 0.5rem;
  }
  .words li span {
    margin-left: 0.5rem;
  }
  .here {
    background: var(--chosen);
    border-color: var(--ink-3);
    font-weight: 500;
  }
  .words p {
    flex-basis: 100%;
    margin: 0;
  }
</style>
