<script lang="ts">
  import { clock } from "../../lib/times";
  import type { ShowPlan } from "../../lib/types";

  /** An evening on the instruments of a house: what plays when, and when hands are at which. */
  let {
    plan,
    evening,
    chosen,
    choose,
  }: {
    plan: ShowPlan;
    evening: number;
    chosen: string;
    choose: (id: string) => void;
  } = $props();
  let width = $state(900);
  const left = 108;
  const height = 38;
  const cues = $derived(
    plan.cues
      .map((c, i) => ({ ...c, i }))
      .filter((c) => c.evening === evening && c.end > c.start),
  );
  const from = $derived(Math.min(...cues.map((c) => c.start), Infinity));
  const to = $derived(Math.max(...cues.map((c) => c.end), -Infinity));
  const wide = $derived(Math.max(width, 640));
  const x = (t: number) =>
    left + ((t - from) / Math.max(1, to - from)) * (wide - left - 4);
  const out = $derived(cues.some((c) => c.on < 0));
  const rows = $derived([
    ...plan.instruments.map((i) => i.name),
    ...(out ? ["not played"] : []),
  ]);
  const row = (on: number) => (on < 0 ? plan.instruments.length : on);
  const bad = $derived(new Set(plan.conflicts.flatMap((c) => c.cues)));
  const marks = $derived.by(() => {
    if (!(to > from)) return [];
    const span = to - from;
    const step =
      [60, 120, 300, 600, 900, 1800, 3600].find((s) => span / s <= 10) ?? 7200;
    const all: number[] = [];
    for (let t = Math.ceil(from / step) * step; t <= to; t += step) all.push(t);
    return all;
  });
  const says = (c: (typeof cues)[number]) =>
    `${c.name}, ${clock(c.start)} to ${clock(c.end)}${c.player ? `, ${c.player}` : ""}${c.on < 0 ? `, not played${c.fault ? `: ${c.fault}` : ""}` : `, on ${plan.instruments[c.on]?.name ?? ""}`}`;
</script>

<div class="chart" bind:clientWidth={width}>
  {#if cues.length > 0}
    <svg
      width={wide}
      height={rows.length * height + 20}
      role="group"
      aria-label={`Evening ${evening}: what plays on which instrument`}
    >
      <defs
        ><pattern
          id="hands"
          width="5"
          height="5"
          patternUnits="userSpaceOnUse"
          patternTransform="rotate(45)"
          ><line x1="0" y1="0" x2="0" y2="5" class="hatch" /></pattern
        ></defs
      >
      {#each marks as t (t)}
        <line
          class="mark"
          x1={x(t)}
          x2={x(t)}
          y1="0"
          y2={rows.length * height}
        />
        <text
          class="time"
          x={Math.min(wide - 20, x(t))}
          y={rows.length * height + 14}
          text-anchor="middle">{clock(t)}</text
        >
      {/each}
      {#each rows as name, k (name)}
        <line
          class="rule"
          x1="0"
          x2={wide}
          y1={(k + 1) * height}
          y2={(k + 1) * height}
        />
        <foreignObject x="0" y={k * height} width={left - 8} {height}
          ><div class="name" title={name}>{name}</div></foreignObject
        >
      {/each}
      {#each cues as c (c.i)}
        {@const y = row(c.on) * height + 4}
        {#each c.work as w (w.from)}<rect
            class="work"
            x={x(w.from)}
            {y}
            width={Math.max(2, x(w.to) - x(w.from))}
            height={height - 8}
          />{/each}
        <foreignObject
          x={x(c.start)}
          {y}
          width={Math.max(6, x(c.end) - x(c.start))}
          height={height - 8}
        >
          <button
            class="cue"
            class:bad={c.on < 0 || bad.has(c.i)}
            class:chosen={!!c.id && c.id === chosen}
            tabindex="-1"
            title={says(c)}
            aria-label={says(c)}
            onclick={() => c.id && choose(c.id)}
            ><span>{c.name}</span><small>{c.player ?? ""}</small></button
          >
        </foreignObject>
      {/each}
    </svg>
  {/if}
</div>

<style>
  .chart {
    overflow-x: auto;
    border-top: 1px solid var(--ink-3);
  }
  svg {
    display: block;
  }
  .mark {
    stroke: var(--rule);
    stroke-dasharray: 2 3;
  }
  .rule {
    stroke: var(--rule);
  }
  .hatch {
    stroke: var(--ink-3);
    stroke-width: 1.5;
  }
  .work {
    fill: url(#hands);
    stroke: var(--rule);
  }
  .time {
    font: 0.6875rem var(--mono);
    fill: var(--ink-3);
  }
  .name {
    height: 100%;
    display: flex;
    align-items: center;
    font-size: 0.8125rem;
    overflow: hidden;
    white-space: nowrap;
    text-overflow: ellipsis;
  }
  .cue {
    display: block;
    width: 100%;
    height: 100%;
    padding: 0 0.25rem;
    text-align: left;
    font: 0.75rem/1rem var(--sans);
    color: var(--ink);
    background: var(--sheet);
    border: 1px solid var(--ink-3);
    overflow: hidden;
    white-space: nowrap;
    cursor: pointer;
  }
  .cue span {
    display: block;
    line-height: 0.875rem;
  }
  .cue small {
    display: block;
    font-size: 0.6875rem;
    line-height: 0.75rem;
    color: var(--ink-3);
  }
  .cue.bad {
    border-color: var(--rubric);
    background: var(--rubric-wash);
  }
  .cue.chosen {
    background: var(--chosen);
    box-shadow: inset 3px 0 0 var(--rubric);
  }
</style>
