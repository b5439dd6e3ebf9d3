<script lang="ts">
  import type { SittingView } from "../lib/types";

  /** Takes with their bars, the law through them with its band, and the law that the panel has, over the control's own scale. */
  let { view }: { view: SittingView } = $props();
  let wide = $state(860);
  const W = $derived(Math.max(300, wide));
  const H = 320,
    L = 48,
    B = 28,
    T = 10,
    R = 12,
    rest = 54; // of what is left, under it
  const used = $derived(view.takes.filter((t) => !t.why));
  const up = (v: number) => (view.log ? Math.log(Math.max(v, 1e-12)) : v);
  const values = $derived([
    ...view.band.flatMap((b) => [b.value, b.was].filter((x) => x !== null)),
    ...used.map((t) => t.value),
  ]);
  const low = $derived(Math.min(...values.map(up)));
  const high = $derived(Math.max(...values.map(up)));
  const x = (p: number) => L + p * (W - L - R);
  const y = (v: number) =>
    T + (1 - (up(v) - low) / Math.max(high - low, 1e-9)) * (H - T - B);
  const inside = (v: number) => Math.min(H - B, Math.max(T, y(v)));
  const line = (of: (b: SittingView["band"][number]) => number | null) =>
    view.band
      .map((b) => [b.travel, of(b)] as const)
      .filter((p): p is readonly [number, number] => p[1] !== null)
      .map(([p, v]) => `${x(p).toFixed(1)},${inside(v).toFixed(1)}`)
      .join(" ");
  const area = $derived(
    [
      line((b) => b.high),
      line((b) => b.low)
        .split(" ")
        .reverse()
        .join(" "),
    ].join(" "),
  );
  const show = (v: number) => Number(v.toPrecision(3)).toString();
  /** Up to six values for the axis: round ones, where they are few. */
  const marks = $derived.by(() => {
    const out: number[] = [];
    if (!isFinite(low) || !isFinite(high)) return out;
    if (view.log) {
      for (let e = Math.floor(low / Math.LN10); e <= high / Math.LN10; e++)
        for (const m of [1, 3]) {
          const v = m * 10 ** e;
          if (up(v) >= low && up(v) <= high) out.push(v);
        }
      return out.length > 8 ? out.filter((_, i) => i % 2 === 0) : out;
    }
    const span = high - low;
    const raw = 10 ** Math.floor(Math.log10(Math.max(span, 1e-9)));
    const step = span / raw < 2 ? raw / 4 : span / raw < 5 ? raw / 2 : raw;
    for (let v = Math.ceil(low / step) * step; v <= high + 1e-9; v += step)
      out.push(Math.abs(v) < step / 1e6 ? 0 : v);
    return out;
  });
  const readings = $derived.by(() => {
    const n = view.band.length;
    const by = Math.max(1, Math.ceil(n / Math.max(4, Math.min(9, W / 90))));
    return view.band.filter((_, i) => i % by === 0 || i === n - 1);
  });
  const said = $derived(
    `${view.label}: ${used.length} takes; ${view.law}. Before: ${view.was}.`,
  );
</script>

<div bind:clientWidth={wide}>
  <svg viewBox={`0 0 ${W} ${H + rest}`} role="img" aria-label={said}>
    {#each marks as m (m)}
      <line class="grid" x1={L} x2={W - R} y1={y(m)} y2={y(m)} />
      <text class="mark" x={L - 6} y={y(m) + 3.5} text-anchor="end"
        >{show(m)}</text
      >
    {/each}
    <text class="mark" x="4" y={T + 4}>{view.unit}</text>
    {#each readings as r, i (r.reading)}
      {#if i === 0 || i === readings.length - 1 || x(r.travel) < W - R - 44}
        <line
          class="grid"
          x1={x(r.travel)}
          x2={x(r.travel)}
          y1={T}
          y2={H - B + 4}
        />
        <text
          class="mark"
          x={x(r.travel)}
          y={H - B + 16}
          text-anchor={i === readings.length - 1 ? "end" : "middle"}
          >{r.reading}</text
        >
      {/if}
    {/each}
    {#if used.length > 0}<polygon class="band" points={area} />{/if}
    <polyline class="was" points={line((b) => b.was)} />
    {#if used.length > 0}<polyline
        class="law"
        points={line((b) => b.value)}
      />{/if}
    {#each view.takes as t, i (i)}
      {#if !t.why || t.why.startsWith("the others")}
        {@const hi = view.log
          ? t.value * (1 + (2 * t.u) / Math.max(t.value, 1e-12))
          : t.value + 2 * t.u}
        {@const lo = view.log
          ? t.value / (1 + (2 * t.u) / Math.max(t.value, 1e-12))
          : t.value - 2 * t.u}
        <line
          class="bar"
          x1={x(t.travel)}
          x2={x(t.travel)}
          y1={inside(lo)}
          y2={inside(hi)}
        />
        <circle
          class={i === view.odd ? "odd" : "take"}
          cx={x(t.travel)}
          cy={inside(t.value)}
          r="3"
        />
      {/if}
    {/each}
    <line class="grid" x1={L} x2={W - R} y1={H + rest / 2} y2={H + rest / 2} />
    <text class="mark" x="4" y={H + rest / 2 + 3.5}>left</text>
    {#each used as t, i (i)}
      <circle
        class={Math.abs(t.off) > 3 ? "odd" : "take"}
        cx={x(t.travel)}
        cy={H + rest / 2 - Math.max(-3.5, Math.min(3.5, t.off)) * (rest / 8)}
        r="2"
      />
    {/each}
  </svg>
</div>
<p class="small key" aria-hidden="true">
  <span class="dot"></span> take with two uncertainties either way
  <span class="stroke law"></span> the law that goes through them, with what it
  may be
  <span class="stroke was"></span> the law as the panel has it
  <span class="soft">below: what is left, four uncertainties either way</span>
</p>

<style>
  svg {
    width: 100%;
    display: block;
    background: var(--paper);
    border: 1px solid var(--rule);
  }
  .grid {
    stroke: var(--rule);
    stroke-width: 1;
  }
  .mark {
    font-family: var(--figures, monospace);
    font-size: 10px;
    fill: var(--ink-2);
  }
  .band {
    fill: var(--rubric);
    opacity: 0.14;
  }
  polyline {
    fill: none;
    stroke-width: 1.75;
  }
  polyline.law {
    stroke: var(--rubric);
  }
  polyline.was {
    stroke: var(--ink-2);
    stroke-dasharray: 5 4;
  }
  .bar {
    stroke: var(--ink);
    stroke-width: 1;
  }
  .take {
    fill: var(--ink);
  }
  .odd {
    fill: var(--paper);
    stroke: var(--rubric);
    stroke-width: 2;
  }
  .key {
    display: flex;
    flex-wrap: wrap;
    gap: 0.25rem 0.5rem;
    align-items: center;
    color: var(--ink-2);
    margin: 0.25rem 0 0;
  }
  .dot {
    width: 7px;
    height: 7px;
    border-radius: 50%;
    background: var(--ink);
  }
  .stroke {
    width: 1.5rem;
    border-top: 2px solid var(--rubric);
    margin-left: 0.75rem;
  }
  .stroke.was {
    border-top: 2px dashed var(--ink-2);
  }
</style>
