<script lang="ts">
  import { Checkbox } from "carbon-components-svelte";
  import type { SheetState } from "../../lib/sheet.svelte";
  import type { PartChoice, Paths, Plans, Sheet } from "../../lib/types";
  import SignalPath from "./SignalPath.svelte";
  import Share from "../Share.svelte";

  /** Which part of the target plays which part of the source, and what is made by other means. */
  let { s, sheet }: { s: SheetState; sheet: Sheet } = $props();
  /** Decides about the sheet as a whole: weighing by ear, or another plan. */
  async function choose(choice: Partial<PartChoice>) {
    looking = true;
    await s.decide(choice);
    looking = false;
  }
  const bans = $derived(sheet.choices.bans ?? []);
  let next = $state.raw<Plans["next"] | null>(null);
  let looking = $state(false);
  $effect(() => {
    void sheet;
    next = null;
  });
  let paths = $state.raw<Paths | undefined>();
  $effect(() => {
    void sheet;
    void s.paths().then((p) => (paths = p ?? paths));
  });
  async function look() {
    looking = true;
    next = (await s.nextPlans()) ?? next;
    looking = false;
  }
  const share = $derived(
    sheet.plan.whole > 0
      ? Math.max(0, 1 - sheet.plan.cost / sheet.plan.whole)
      : 1,
  );
  const name = (rule: string | undefined) =>
    sheet.recasts.find((r) => r.rule === rule)?.name ?? rule ?? "";
  const lists = $derived([
    { title: "Parts", pairs: sheet.plan.modules },
    { title: "Routes", pairs: sheet.plan.routes },
  ]);
</script>

<!-- svelte-ignore a11y_no_noninteractive_tabindex -->
<section aria-label="Plan" tabindex="0">
  <div class="head">
    <span>Carried by weight</span>
    <span class="share"><Share {share} /></span>
    <span class="soft small"
      >what is lost weighs {sheet.plan.cost.toFixed(2)} of {sheet.plan.whole.toFixed(
        2,
      )}; {sheet.plan.nodes} plans looked at{sheet.plan.sets > 0
        ? `, ${sheet.plan.sets === 1 ? "one set" : `${sheet.plan.sets} sets`} of rules`
        : ""}{sheet.plan.exact && !sheet.plan.cut
        ? ": none loses less"
        : ": the search met a limit"}</span
    >
    <Checkbox
      labelText="Weigh parts by how much they are heard"
      bind:checked={
        () => sheet.choices.byEar ?? false, (byEar) => void choose({ byEar })
      }
      disabled={looking}
    />
  </div>
  {#if paths}
    <h2>The way of the sound</h2>
    {#each [paths.source, paths.target] as p, i (i)}
      <SignalPath path={p} red={i === 1} />
    {/each}
  {/if}
  {#if sheet.measure.length > 0}
    <h2>To measure, the most useful first</h2>
    <ul class="measure">
      {#each sheet.measure as m, i (i)}
        <li>
          {m.panel}, {m.label}
          <span class="small reason">{m.why}</span>
          <span class="small soft"
            >{m.lines.length === 1
              ? "one line hangs on it"
              : `${m.lines.length} lines hang on it`}, {Math.round(
              m.share * 100,
            )} % of the doubt</span
          >
        </li>
      {/each}
    </ul>
  {/if}
  {#if sheet.recasts.length > 0}
    <h2>By other means</h2>
    <table class="lines">
      <thead
        ><tr
          ><th>Rule</th><th>What</th><th>By</th><th>How</th><th
            >What it costs</th
          ></tr
        ></thead
      >
      <tbody>
        {#each sheet.recasts as r, i (i)}
          <tr>
            <td>{r.name}</td>
            <td>{r.parts.join(", ")}</td>
            <td>{r.by.join(", ") || "–"}</td>
            <td class="reason">{r.text}</td>
            <td class="small">{r.why} <span class="soft">{r.source}</span></td>
          </tr>
        {/each}
      </tbody>
    </table>
  {/if}
  <div class="next">
    {#if bans.length > 0}
      <p class="small">
        This is not the best plan: {bans.length === 1
          ? "one pair is"
          : `${bans.length} pairs are`} not to be.
        <button
          class="linkish"
          disabled={looking}
          onclick={() => void choose({ bans: [] })}
          >back to the best plan</button
        >
      </p>
    {/if}
    {#if next}
      <h2>Next best plans</h2>
      {#each next as n, i (i)}
        <p class="small">
          <span class="num">{(n.share * 100).toFixed(1)} %</span>
          {#each n.differs as d, k (k)}{k ? "; " : ""}{d.part}
            <span class="reason"
              >{d.here ? `by ${d.here}` : "left out"} instead of {d.best
                ? `by ${d.best}`
                : "left out"}</span
            >{/each}
          <button
            class="linkish"
            disabled={looking}
            onclick={() => void choose({ bans: n.bans })}>take this plan</button
          >
        </p>
      {:else}<p class="small soft">There is no other plan.</p>{/each}
    {:else}
      <button class="linkish small" disabled={looking} onclick={look}
        >{looking
          ? "Looking for the next best plans"
          : "Next best plans"}</button
      >
    {/if}
  </div>
  <div class="two">
    {#each lists as l (l.title)}
      {#if l.pairs.length > 0}
        <table class="lines">
          <thead
            ><tr
              ><th>{l.title} of {sheet.source.name}</th><th
                >On {sheet.target.name}</th
              ></tr
            ></thead
          >
          <tbody>
            {#each l.pairs as p (p.source)}
              <tr>
                <td>{p.sourceLabel}</td>
                <td
                  >{#if p.target}{p.targetLabel}{/if}
                  {#if p.rule}<span class="small reason"
                      >{p.target ? "by: " : ""}{name(p.rule)}</span
                    >
                  {:else if !p.target}<span class="red">left out</span>
                    <span class="small reason">{p.reason ?? ""}</span>{/if}</td
                >
              </tr>
            {/each}
          </tbody>
        </table>
      {/if}
    {/each}
  </div>
</section>

<style>
  .measure {
    margin: 0.25rem 0;
    padding: 0;
    list-style: none;
  }
  section {
    max-height: 36vh;
    overflow: auto;
    background: var(--sheet);
    border: 1px solid var(--rule);
    border-left: 3px solid var(--ink-3);
    padding: 0.5rem 1rem 0.75rem;
    margin: 0.25rem 0 0.5rem;
  }
  .head :global(.bx--form-item) {
    flex: 0 0 auto;
  }
  .head {
    flex-wrap: wrap;
    display: flex;
    gap: 1rem;
    align-items: baseline;
  }
  .share {
    width: 9rem;
  }
  h2 {
    margin: 0.5rem 0 0.25rem;
  }
  .two {
    display: grid;
    grid-template-columns: 1fr 1fr;
    gap: 0 2rem;
    align-items: start;
    margin-top: 0.75rem;
  }
  td {
    vertical-align: top;
  }
</style>
