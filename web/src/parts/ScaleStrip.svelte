<script lang="ts">
  import { along, spread } from "../lib/axis";
  import type { MeanView } from "../lib/types";
  /** One scale drawn as a rule: readings above, what they mean below. */
  let { mean }: { mean: MeanView } = $props();
  let width = $state(420);
  const pad = 44;
  const ticks = $derived(mean.ticks.filter((t) => !t.off));
  const off = $derived(mean.ticks.filter((t) => t.off).map((t) => t.reading));
  const axis = $derived({
    min: Math.min(...ticks.map((t) => t.value)),
    max: Math.max(...ticks.map((t) => t.value)),
    geometric: mean.geometric,
  });
  const x = (v: number) =>
    pad + (axis.max > axis.min ? along(axis, v) : 0.5) * (width - 2 * pad);
  const labelled = $derived(
    spread(
      ticks,
      x,
      (t) => Math.max(t.reading.length, t.text.length) * 3.3 + 4,
    ),
  );
</script>

{#if mean.named || ticks.length === 0}
  <span class="num words">
    {#each mean.ticks as t, i (i)}<span
        >{t.reading}{#if t.text !== t.reading}<i>{t.text}</i>{/if}</span
      >{/each}
  </span>
{:else}
  <div bind:clientWidth={width}>
    <svg
      {width}
      height="38"
      role="img"
      aria-label={labelled.map((t) => `${t.reading}: ${t.text}`).join(", ")}
    >
      <line x1={pad / 2} x2={width - pad / 2} y1="20" y2="20" />
      {#each ticks as t, i (i)}<line
          x1={x(t.value)}
          x2={x(t.value)}
          y1={t.major ? 15 : 18}
          y2="20"
        />{/each}
      {#each labelled as t, i (i)}
        <text x={x(t.value)} y="11">{t.reading}</text>
        <text class="soft" x={x(t.value)} y="33">{t.text}</text>
      {/each}
    </svg>
  </div>
  {#if off.length}<span class="small soft">{off.join(", ")}: off</span>{/if}
{/if}

<style>
  svg {
    display: block;
  }
  line {
    stroke: var(--ink-2);
  }
  text {
    font-family: var(--mono);
    font-size: 10.5px;
    text-anchor: middle;
    fill: var(--ink);
  }
  text.soft {
    fill: var(--ink-3);
  }
  .words {
    display: flex;
    flex-wrap: wrap;
    gap: 0.125rem 0.75rem;
    font-size: 0.8125rem;
  }
  .words i {
    font-style: normal;
    color: var(--ink-3);
    margin-left: 0.375rem;
    font-size: 0.75rem;
  }
</style>
