<script lang="ts">
  import type { Trace } from "../../lib/pictures";
  import { round } from "../../lib/axis";
  import type { Picture } from "../../lib/types";
  import Traces from "../listen/Traces.svelte";

  /** What the part of the chosen line does: the source in black, the target red and dashed over it. */
  let {
    picture: p,
    hair,
  }: {
    picture: Picture;
    hair: { control: string; reading: string } | null;
  } = $props();

  const pairs = (list: number[][]) =>
    list.map((q): [number, number] => [
      q[0] ?? 0,
      log && (q[1] ?? 0) <= p.low ? NaN : (q[1] ?? 0),
    ]);
  const traces = $derived<Trace[]>([
    { kind: "source", label: p.sourceLabel, points: pairs(p.source) },
    { kind: "target", label: p.targetLabel, points: pairs(p.target) },
  ]);
  const log = $derived(p.along === "Hz");
  const ms = $derived(p.along === "s" && p.end < 0.5);
  const end = $derived(log ? 20000 : p.along === "periods" ? 2 : p.end);
  const ticks = $derived(
    log
      ? [50, 200, 1000, 5000]
      : p.along === "periods"
        ? [0, 1, 2]
        : round(0, p.end, 4),
  );
  const marks = $derived(
    p.along === "Hz" ? [-48, -24, 0, 24] : round(p.low, p.high, 3),
  );
</script>

<div class="picture">
  <Traces
    title={p.title}
    unit={p.unit}
    {traces}
    from={log ? 20 : 0}
    to={end}
    low={p.low}
    high={p.high}
    {log}
    {ticks}
    {marks}
    xunit={ms ? "s" : p.along === "periods" ? "" : p.along}
    height={132}
  />
  <p class="small soft key">
    <span class="line"></span>
    {p.sourceLabel}
    {#if p.target.length > 0}<span class="line other"></span>
      {p.targetLabel}{hair ? `, at ${hair.reading}` : ""}{:else}: nothing of it
      on {p.targetLabel}{/if}
  </p>
</div>

<style>
  .picture {
    margin: 0.5rem 0 0.25rem;
  }
  .picture :global(figure) {
    margin-bottom: 0.125rem;
  }
  .key {
    margin: 0 !important;
  }
  .line {
    display: inline-block;
    width: 1.5rem;
    border-top: 2px solid var(--ink);
    vertical-align: middle;
  }
  .other {
    margin-left: 0.5rem;
    border-top: 2px dashed var(--rubric);
  }
</style>
