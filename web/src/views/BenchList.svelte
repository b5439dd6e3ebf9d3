<script lang="ts">
  import { part } from "../lib/api";
  import * as bench from "../lib/calls/bench";
  import { keys } from "../lib/keys.svelte";
  import { load } from "../lib/load.svelte";
  import { Places } from "../lib/places";
  import { route } from "../lib/route.svelte";
  import type { BenchView } from "../lib/types";

  /** What of a panel can be measured. */
  let { id }: { id: string } = $props();
  let view = $state.raw<BenchView | null>(null);
  let missing = $state("");
  let all = $state(false);
  const rows = new Places();

  load(
    () => bench.list(id),
    (v) => {
      view = v;
      document.title = `${v.panelName}, bench - Glossator`;
    },
    (detail) => (missing = detail),
  );
  const assumed = $derived(
    (view?.controls ?? []).filter(
      (c) => c.source === "assumed" || c.takes > 0 || c.gain > 0,
    ),
  );
  const shown = $derived(
    all || assumed.length === 0 ? (view?.controls ?? []) : assumed,
  );
  const left = $derived(
    assumed.filter((c) => c.source === "assumed" && !c.why && c.takes === 0),
  );
  const next = $derived(
    view?.controls.find((c) => c.control === view?.walk[0]?.control),
  );
  const chosen = $derived(
    shown.find((c) => c.control === route.line) ?? shown[0],
  );
  const to = (control: string) => `/panels/${part(id)}/bench/${part(control)}`;
  function move(by: number) {
    const i = shown.findIndex((c) => c.control === chosen?.control);
    const c = shown[Math.min(shown.length - 1, Math.max(0, i + by))];
    if (!c) return;
    route.choose(c.control);
    rows.show(c.control);
  }
  keys([
    {
      keys: "↑ ↓",
      does: "move through the controls",
      on: ["ArrowUp", "ArrowDown"],
      run: (e) => move(e.key === "ArrowDown" ? 1 : -1),
    },
    {
      keys: "Enter",
      does: "measure the control",
      on: "Enter",
      run: () => chosen && !chosen.why && route.go(to(chosen.control)),
    },
    {
      keys: "n",
      does: "begin the sitting: the controls one after another, by the fewest changes",
      on: "n",
      run: () => next && route.go(to(next.control)),
    },
    {
      keys: "a",
      does: "all controls, or those in doubt",
      on: "a",
      run: () => (all = !all),
    },
    {
      keys: "Esc",
      does: "back to where you came from",
      on: "Escape",
      run: () => route.back(`/panels/${part(id)}`),
    },
  ]);
</script>

<div class="page">
  {#if missing}
    <h1>No such panel</h1>
    <p>{missing} <a href="/panels">All panels</a></p>
  {:else if !view}
    <p class="soft" role="status">Loading</p>
  {:else}
    <div class="bar">
      <h1>
        Bench for <a href={`/panels/${part(id)}`}>{view.panelName}</a>
      </h1>
      <span class="soft small"
        >{left.length === 0
          ? "no assumed law is left to measure"
          : left.length === 1
            ? "one assumed law is not measured yet"
            : `${left.length} assumed laws are not measured yet`}</span
      >
      <div class="end bar">
        <button class="linkish" onclick={() => (all = !all)}
          >{all ? "Only what is in doubt" : "All controls"}</button
        >
      </div>
    </div>
    <p class="reason">
      A translation is as good as the laws of both panels. What is set in your
      own patches and known least comes first.
      {#if next && view.walk.length > 1}
        One after another by the fewest changes, from
        <a href={to(next.control)}>{next.section} {next.label}</a>
        <kbd>n</kbd>, the {view.walk.length} take about
        <span class="num">{Math.ceil(view.minutes / 5) * 5}</span> minutes with
        <span class="num">{view.changes}</span> settings changed on the way.{/if}
    </p>
    {#if view.hour.length > 0}<p class="small">
        Worth an hour: {view.hour
          .map((c) => view?.controls.find((x) => x.control === c)?.label ?? c)
          .join(", ")}. They are
        <span class="num">{view.hourGain.toFixed(1)}</span>
        of the <span class="num">{view.doubt.toFixed(1)}</span> just-noticeable differences
        that your patches are in doubt by.
      </p>{/if}
    <table class="lines stack" role="grid" aria-label="Controls to measure">
      <thead
        ><tr
          ><th>Section</th><th>Control</th><th>Law</th><th>In patches</th><th
            title="Uncertainty of the law, in just-noticeable differences, summed over the readings of your patches"
            >Doubt</th
          ><th>Takes</th><th>Ways to measure it</th></tr
        ></thead
      >
      <tbody>
        {#each shown as c (c.control)}
          <tr
            {@attach rows.at(c.control)}
            class="open"
            tabindex={c.control === chosen?.control ? 0 : -1}
            aria-selected={c.control === chosen?.control}
            onclick={() => route.choose(c.control)}
          >
            <td>{c.section}</td>
            <td
              >{#if c.why}{c.label}{:else}<a href={to(c.control)}>{c.label}</a
                >{/if}</td
            >
            <td class="small" class:red={c.source === "assumed"}>{c.law}</td>
            <td class="num">{c.patches || "–"}</td>
            <td class="num">{c.gain ? c.gain.toFixed(1) : "–"}</td>
            <td class="num">{c.takes || "–"}</td>
            <td class="small soft"
              >{c.why || c.recipes.map((r) => r.label).join(", ")}</td
            >
          </tr>
        {:else}
          <tr
            ><td colspan="7"
              >No control of this panel goes by a law of numbers.</td
            ></tr
          >
        {/each}
      </tbody>
    </table>
  {/if}
</div>
