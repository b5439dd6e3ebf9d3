<script lang="ts">
  import { spread } from "../../lib/axis";
  import { places } from "../../lib/rule";
  import type { Scales, Side, Tick } from "../../lib/types";

  /** Two scales drawn along one physical axis, with the hairline. */
  let {
    rule,
    width,
    hair,
    x,
  }: {
    rule: Scales;
    width: number;
    hair: number;
    /** Where a value lies, in pixels. */
    x: (v: number) => number;
  } = $props();

  /** The major ticks whose readings do not run into each other. */
  const labelled = (s: Side | undefined): Tick[] =>
    spread([...places(s)], x, (t) => t.reading.length * 3.6 + 3);
  const axisMarks = $derived.by(() => {
    let last = -Infinity;
    return rule.marks.filter((m) => {
      const px = x(m.value);
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
  const inside = (v: number) => Math.min(width - 26, Math.max(26, x(v)));
</script>

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
  {#each axisMarks as m (m.value)}
    <text class="axis" x={x(m.value)} y="70">{m.text}</text>
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
    <path class="wanted" d={`M${x(rule.wanted.quantity.value)} 54l-5 -8h10z`} />
  {/if}
  {#if rule.reached && !rule.reached.quantity.off}
    <path class="wanted" d={`M${x(rule.reached.quantity.value)} 78l-5 8h10z`} />
  {/if}
  <text class="side" x="2" y="12"
    >{rule.source
      ? `${rule.source.panel}: ${rule.source.label}`
      : "no control of the source"}<tspan class="law"
      >{rule.source ? "  " + rule.source.law : ""}{offs(rule.source).length
        ? `; ${offs(rule.source).join(", ")} is off`
        : ""}</tspan
    ></text
  >
  <text class="side" x="2" y="127"
    >{rule.target
      ? `${rule.target.panel}: ${rule.target.label}`
      : "no control of the target"}<tspan class="law"
      >{rule.target ? "  " + rule.target.law : ""}{offs(rule.target).length
        ? `; ${offs(rule.target).join(", ")} is off`
        : ""}</tspan
    ></text
  >
</svg>

<style>
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
</style>
