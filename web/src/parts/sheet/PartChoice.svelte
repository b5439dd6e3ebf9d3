<script lang="ts">
  import type { SheetState } from "../../lib/sheet.svelte";
  import type { Alternative, Sheet } from "../../lib/types";

  /** What is decided about the part of the chosen line: whether it matters, and by which means. */
  let {
    s,
    sheet,
    source,
    label,
  }: { s: SheetState; sheet: Sheet; source: string; label: string } = $props();

  let ways = $state.raw<Alternative[] | null>(null);
  let of = "";
  $effect(() => {
    void sheet;
    if (of !== source) ways = null;
    of = source;
  });
  const weight = $derived(sheet.choices.weight?.[source] ?? 1);
  const refused = $derived(sheet.choices.refuse?.[source] ?? []);
  const rule = $derived(
    [...sheet.plan.modules, ...sheet.plan.routes].find(
      (p) => p.source === source,
    )?.rule,
  );
  const now = $derived(
    weight > 1 ? "keep" : weight < 1 ? "not needed" : "as usual",
  );
  async function choose(matters: string, refuse: string[]) {
    await s.decide({ part: source, matters, refuse });
    if (ways) await look();
  }
  async function look() {
    ways = (await s.alternatives(source)) ?? ways;
  }
  const same = (a: string[], b: string[]) => a.join() === b.join();
</script>

<div class="part">
  <div class="small soft">{label}, as a part of the patch</div>
  <div class="row" role="group" aria-label={`How much ${label} matters`}>
    {#each [["keep", "Keep this"], ["as usual", "As usual"], ["not needed", "Does not matter"]] as const as [value, text] (value)}
      <button
        aria-pressed={now === value}
        onclick={() => choose(value, refused)}>{text}</button
      >
    {/each}
  </div>
  {#if rule || refused.length > 0}
    {#if !ways}
      <button class="linkish small" onclick={look}>Other ways</button>
    {:else}
      <table class="lines small" aria-label={`Ways to make ${label}`}>
        <thead
          ><tr
            ><th>Way</th><th>Carried</th><th
              ><span class="visually-hidden">Take</span></th
            ></tr
          ></thead
        >
        <tbody>
          {#each ways as w, i (i)}
            <tr class:now={same(w.refuse, refused)}>
              <td
                >{w.name}{#if w.by}<span class="soft">: {w.by}</span>{/if}</td
              >
              <td class="num">{(w.share * 100).toFixed(1)} %</td>
              <td
                >{#if same(w.refuse, refused)}<span class="soft">taken</span
                  >{:else}<button
                    class="linkish"
                    aria-label={`take: ${w.name}`}
                    onclick={() => choose(now, w.refuse)}>take</button
                  >{/if}</td
              >
            </tr>
          {/each}
        </tbody>
      </table>
    {/if}
  {/if}
</div>

<style>
  .part {
    margin: 0.75rem 0;
    padding-top: 0.5rem;
    border-top: 1px solid var(--rule);
  }
  .row {
    display: flex;
    flex-wrap: wrap;
    gap: 0.25rem;
    margin: 0.25rem 0;
  }
  .row button {
    font: inherit;
    font-size: 0.75rem;
    padding: 0.125rem 0.5rem;
    color: var(--ink);
    background: var(--paper);
    border: 1px solid var(--rule);
    cursor: pointer;
  }
  .row button[aria-pressed="true"] {
    background: var(--chosen);
    border-color: var(--ink-3);
    font-weight: 600;
  }
  .now td {
    background: var(--chosen);
  }
</style>
