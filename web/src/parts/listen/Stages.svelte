<script lang="ts">
  import type { ListenState } from "../../lib/listen.svelte";

  /** Levels within both instruments, what the limiter did and what was assumed. */
  let { s }: { s: ListenState } = $props();
  const source = $derived(s.source);
  const target = $derived(s.target);
  const stages = $derived.by(() => {
    const a = source?.stages ?? [];
    const b = target?.stages ?? [];
    return Array.from({ length: Math.max(a.length, b.length) }, (_, i) => ({
      a: a[i],
      b: b[i],
    }));
  });
</script>

<p class="small soft">
  The highest level in each stage, over the full level of one oscillator.
  Marked: over the 12 dB that a stage has in hand.
</p>
<table class="figures">
  <thead>
    <tr
      ><th scope="col">Source</th><th scope="col" class="r">dB</th><th
        scope="col">Target</th
      ><th scope="col" class="r">dB</th></tr
    >
  </thead>
  <tbody>
    {#each stages as s, i (i)}
      <tr>
        <th scope="row">{s.a?.name ?? ""}</th>
        <td class="num r" class:red={s.a?.over}
          >{s.a ? `${s.a.peak.toFixed(1)}${s.a.over ? " over" : ""}` : ""}</td
        >
        <th scope="row">{s.b?.name ?? ""}</th>
        <td class="num r" class:red={s.b?.over}
          >{s.b ? `${s.b.peak.toFixed(1)}${s.b.over ? " over" : ""}` : ""}</td
        >
      </tr>
    {/each}
  </tbody>
</table>
{#each [source, target] as t, i (i)}
  {#if t && (t.limited > 0.1 || t.assumed.length > 0)}
    <h3>{i === 0 ? "Source" : "Target"}</h3>
    <ul class="small">
      {#if t.limited > 0.1}<li class="red">
          The limiter turned it down by {t.limited.toFixed(1)} dB at its loudest place.
        </li>{/if}
      {#each t.assumed as a, k (k)}<li>{a}</li>{/each}
    </ul>
  {/if}
{/each}
