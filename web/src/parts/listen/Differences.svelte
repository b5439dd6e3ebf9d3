<script lang="ts">
  import { InlineLoading } from "carbon-components-svelte";
  import type { ListenState } from "../../lib/listen.svelte";
  import type { Listening, Measured } from "../../lib/types";

  /** How far the sounds lie apart, and in what. */
  let { s, loaded }: { s: ListenState; loaded: Listening } = $props();
  const table = $derived(s.table);
  const apart = $derived((s.table ?? loaded).apart);

  /** A figure and its expanded uncertainty (k = 2), with as many digits as that is worth. */
  const figure = (m: Measured): [string, string] => {
    if (!m.known) return ["?", ""];
    if (m.word) return [m.word, ""];
    const u = 2 * m.uncertainty;
    const digits =
      u > 0
        ? Math.min(4, Math.max(0, Math.ceil(-Math.log10(u))))
        : Number(!Number.isInteger(m.value)); // a count has none
    return [m.value.toFixed(digits), u > 0 ? `±${u.toFixed(digits)}` : ""];
  };
</script>

<p class="apart">
  <b class="num">{apart.total.toFixed(1)}</b>
  just-noticeable differences apart
</p>
<p class="small soft">
  {#each ["level", "colour", "shape", "brightness", "motion", "pitch"] as const as k (k)}
    <span class="bit"
      >{k}
      <span class="num">{apart[k].toFixed(1)}</span></span
    >
  {/each}
</p>
{#if s.measuring}<InlineLoading description="Measuring" />{/if}
{#if table}
  <table class="figures">
    <thead>
      <tr
        ><th scope="col">Measured</th><th scope="col" class="r">Source</th><th
          scope="col"
          class="r">Target</th
        ><th scope="col" class="r">Steps</th></tr
      >
    </thead>
    <tbody>
      {#each table.rows.filter((r) => r.a.known || r.b.known) as r (r.label)}
        <tr class:far={r.known && r.sure && r.jnds > 1}>
          <th scope="row"
            >{r.label}
            <span class="soft">{r.a.unit || r.b.unit}</span></th
          >
          {#each [r.a, r.b] as m, i (i)}
            {@const [value, unsure] = figure(m)}
            <td class="num r" title={m.why}
              >{value} <span class="soft pm">{unsure}</span></td
            >
          {/each}
          <td class="num r" class:soft={!r.sure}
            >{!r.known
              ? "-"
              : r.a.word
                ? r.a.word === r.b.word
                  ? "0.0"
                  : "another"
                : r.sure || r.jnds < 1
                  ? r.jnds.toFixed(1)
                  : "unsure"}</td
          >
        </tr>
      {/each}
    </tbody>
  </table>
  <p class="small soft">
    Steps: just-noticeable differences; unsure: no more than the two figures may
    be off by (±, 95 times of 100). A question mark: the sound does not tell. {#if table.rows.some((r) => r.of)}The
      attack is the first note’s; pitch, decay, release, detuning and what moves
      are the last one’s.{/if}
    Not told by either: {table.rows
      .filter((r) => !r.a.known && !r.b.known)
      .map((r) => r.label)
      .join(", ") || "nothing"}.
  </p>
{/if}

<style>
  .apart {
    margin: 0;
  }
  .apart b {
    font-size: 1.25rem;
  }
  .bit {
    display: inline-block;
    margin-right: 0.5rem;
  }
  .pm {
    display: inline-block;
    min-width: 2.25rem;
    padding-right: 0.25rem;
    font-size: 0.6875rem;
  }
  tr.far td:last-child {
    color: var(--rubric);
    font-weight: 600;
  }
</style>
