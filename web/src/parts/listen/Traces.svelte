<script lang="ts" module>
  const short = (v: number) =>
    v >= 1000 ? `${v / 1000}k` : String(Math.round(v * 100) / 100);
</script>

<script lang="ts">
  import type { Trace } from "../../lib/pictures";

  let {
    title,
    unit,
    traces,
    from,
    to,
    low,
    high,
    log = false,
    ticks,
    marks,
    xunit,
    cursor = -1,
    height = 128,
    name = short,
  }: {
    title: string;
    unit: string;
    traces: Trace[];
    from: number;
    to: number;
    low: number;
    high: number;
    log?: boolean;
    ticks: number[];
    marks: number[];
    xunit: string;
    cursor?: number;
    height?: number;
    /** How a mark of the upright axis is written. */
    name?: (v: number) => string;
  } = $props();

  let width = $state(560);
  const left = 44;
  const right = 8;
  const top = 6;
  const bottom = 18;
  const x = (v: number) => {
    const f = log
      ? (Math.log(v) - Math.log(from)) / (Math.log(to) - Math.log(from))
      : (v - from) / (to - from);
    return left + f * (width - left - right);
  };
  const y = (v: number) =>
    top +
    (1 - (Math.min(Math.max(v, low), high) - low) / (high - low)) *
      (height - top - bottom);
  const path = (points: [number, number][]) => {
    let d = "";
    let pen = false;
    for (const [px, py] of points) {
      if (Number.isNaN(py) || px < from || px > to) {
        pen = false;
        continue;
      }
      d += `${pen ? "L" : "M"}${x(px).toFixed(1)} ${y(py).toFixed(1)}`;
      pen = true;
    }
    return d;
  };
</script>

<figure bind:clientWidth={width}>
  <figcaption>{title} <span class="soft">{unit}</span></figcaption>
  <svg
    {width}
    {height}
    role="img"
    aria-label={`${title}: ${traces.map((t) => t.label).join(" and ")}`}
  >
    {#each marks as m, i (i)}
      <line class="grid" x1={left} x2={width - right} y1={y(m)} y2={y(m)} />
      <text class="num" x={left - 5} y={y(m) + 4} text-anchor="end"
        >{name(m)}</text
      >
    {/each}
    {#each ticks as t, i (i)}
      <line class="grid" x1={x(t)} x2={x(t)} y1={top} y2={height - bottom} />
      <text
        class="num"
        x={x(t)}
        y={height - 4}
        text-anchor={i === ticks.length - 1 && x(t) > width - 40
          ? "end"
          : "middle"}
        >{short(t)}{i === ticks.length - 1 ? ` ${xunit}` : ""}</text
      >
    {/each}
    {#each traces as t, i (i)}
      <path class={t.kind} d={path(t.points)} />
    {/each}
    {#if cursor >= from && cursor <= to}
      <line
        class="cursor"
        x1={x(cursor)}
        x2={x(cursor)}
        y1={top}
        y2={height - bottom}
      />
    {/if}
  </svg>
</figure>

<style>
  figure {
    margin: 0 0 0.5rem;
    min-width: 0;
  }
  figcaption {
    font-size: 0.8125rem;
    font-weight: 600;
  }
  svg {
    display: block;
    background: var(--sheet);
    border: 1px solid var(--rule);
    box-sizing: border-box;
  }
  text {
    font-size: 0.625rem;
    fill: var(--ink-3);
  }
  .grid {
    stroke: var(--rule);
    stroke-width: 0.5;
  }
  path {
    fill: none;
    stroke-width: 1.5;
  }
  .source {
    stroke: var(--ink);
  }
  .target {
    stroke: var(--rubric);
    stroke-dasharray: 5 2;
  }
  path[class~="filter"] {
    stroke-width: 1;
    opacity: 0.75;
    stroke-dasharray: 1.5 2.5;
  }
  .cursor {
    stroke: var(--focus);
    stroke-width: 1.5;
  }
</style>
