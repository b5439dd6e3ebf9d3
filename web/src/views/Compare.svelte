<script lang="ts">
  import { part } from "../lib/api";
  import { app } from "../lib/app.svelte";
  import * as patches from "../lib/calls/patches";
  import * as sheets from "../lib/calls/sheets";
  import { keys } from "../lib/keys.svelte";
  import { load } from "../lib/load.svelte";
  import { Places } from "../lib/places";
  import { route } from "../lib/route.svelte";
  import type { Ranking, TargetHeard } from "../lib/types";
  import Share from "../parts/Share.svelte";
  import Summary from "../parts/Summary.svelte";

  /** Which of the instruments carries a patch best, with what each loses. */
  let { id }: { id: string } = $props();
  let view = $state.raw<Ranking | null>(null);
  let missing = $state("");
  let layer = $state("");
  const rows = new Places();

  load(
    () => patches.targets(id, { layer }),
    (v) => {
      view = v;
      missing = "";
      document.title = `Targets for ${v.patch.name} - Glossator`;
    },
    (detail) => (missing = detail),
  );
  /** How far each sounds apart, as it comes in; listening is begun by a press. */
  let heard = $state<Record<string, TargetHeard>>({});
  let running = $state<AbortController | null>(null);
  let bySound = $state(false);
  async function listen() {
    if (running) {
      running.abort();
      running = null;
      return;
    }
    const gone = new AbortController();
    running = gone;
    for (const t of view?.targets ?? []) {
      if (gone.signal.aborted) break;
      if (heard[t.target.id]) continue;
      try {
        heard[t.target.id] = await patches.targetHeard(
          id,
          t.target.id,
          gone.signal,
        );
      } catch (e) {
        if (!gone.signal.aborted) app.fail(e);
      }
    }
    if (running === gone) running = null;
  }
  $effect(() => () => running?.abort());
  const targets = $derived(
    bySound
      ? [...(view?.targets ?? [])].sort(
          (a, b) =>
            (heard[a.target.id]?.apart ?? Infinity) -
            (heard[b.target.id]?.apart ?? Infinity),
        )
      : (view?.targets ?? []),
  );
  const chosen = $derived(
    targets.find((t) => t.target.id === route.line) ?? targets[0],
  );
  function move(by: number) {
    const all = targets;
    const i = all.findIndex((t) => t.target.id === chosen?.target.id);
    const t = all[Math.min(all.length - 1, Math.max(0, i + by))];
    if (!t) return;
    route.choose(t.target.id);
    rows.show(t.target.id);
  }
  const open = (target: string | undefined) =>
    app.attempt(async () => {
      if (!target) return;
      const s = await sheets.open({ patch: id, target, layer });
      route.go(`/sheets/${s.id}`);
    });
  keys([
    {
      keys: "↑ ↓",
      does: "move through the instruments",
      on: ["ArrowUp", "ArrowDown"],
      run: (e) => move(e.key === "ArrowDown" ? 1 : -1),
    },
    {
      keys: "Enter",
      does: "open the sheet",
      on: "Enter",
      run: () => void open(chosen?.target.id),
    },
    {
      keys: "h",
      does: "listen to all of them, or stop",
      on: "h",
      run: () => void listen(),
    },
    {
      keys: "o",
      does: "order by what is carried, or by sound",
      on: "o",
      run: () => (bySound = !bySound),
    },
    {
      keys: "Esc",
      does: "back to where you came from",
      on: "Escape",
      run: () => route.back(`/patches/${part(id)}`),
    },
  ]);
</script>

<div class="page">
  {#if missing}
    <h1>No such patch</h1>
    <p>{missing} <a href="/patches">All patches</a></p>
  {:else if !view}
    <p class="soft" role="status">Loading</p>
  {:else}
    <div class="bar">
      <h1>
        Targets for <a href={`/patches/${part(id)}`}>{view.patch.name}</a>
      </h1>
      <span>{view.patch.kind} on {view.patch.panelName}</span>
      {#if view.patch.layers.length > 1}
        <label class="small"
          >Layer <select bind:value={layer}>
            <option value="">first</option>
            {#each view.patch.layers as l (l)}<option value={l}>{l}</option
              >{/each}
          </select></label
        >
      {/if}
      <span class="end bar small">
        <span class="soft"
          >Share of the patch that is carried, by the weights of its parts</span
        >
        <button class="linkish" onclick={() => (bySound = !bySound)}
          >{bySound ? "Order by share" : "Order by sound"}</button
        >
        <button class="linkish" onclick={listen}
          >{running ? "Stop listening" : "Listen to all"}</button
        >
      </span>
    </div>
    {#if view.targets.length === 0}
      <p>There is no other instrument: import or make a panel first.</p>
    {:else}
      <table class="lines stack" role="grid" aria-label="Targets">
        <thead
          ><tr
            ><th>Instrument</th><th>Carried</th><th
              title="Just-noticeable differences between the patch and its translation by ear"
              >Apart in sound</th
            ><th>Lines</th><th>What decides</th><th>By other means</th></tr
          ></thead
        >
        <tbody>
          {#each targets as t (t.target.id)}
            <tr
              {@attach rows.at(t.target.id)}
              class="open"
              tabindex={t.target.id === chosen?.target.id ? 0 : -1}
              aria-selected={t.target.id === chosen?.target.id}
              onclick={() => route.choose(t.target.id)}
              ondblclick={() => open(t.target.id)}
            >
              <td
                ><button class="linkish" onclick={() => open(t.target.id)}
                  >{t.target.name}</button
                ></td
              >
              <td class="share"><Share share={t.share} /></td>
              <td class="num apart" title={heard[t.target.id]?.headline}
                >{heard[t.target.id]
                  ? heard[t.target.id]?.silent
                    ? "cannot be heard here"
                    : heard[t.target.id]?.apart.toFixed(1)
                  : running
                    ? "…"
                    : "–"}</td
              >
              <td class="sum"
                ><Summary summary={t.summary} />{#if !t.clean}<span
                    class="red small">a check fails</span
                  >{/if}</td
              >
              <td class="reason wide">{t.why}</td>
              <td class="small wide">
                {#each t.recast as r, i (i)}<div>{r}</div>{:else}<span
                    class="soft">–</span
                  >{/each}
              </td>
            </tr>
          {/each}
        </tbody>
      </table>
      {#if chosen && chosen.lost.length > 0}
        <h2 class="sub">What {chosen.target.name} leaves out</h2>
        <p>{chosen.lost.join(", ")}</p>
      {/if}
    {/if}
  {/if}
</div>

<style>
  table {
    margin-top: 1rem;
  }
  .share {
    width: 9rem;
  }
  .apart {
    width: 7rem;
  }
  .sum {
    width: 14rem;
  }
  td {
    vertical-align: top;
  }
  select {
    font: inherit;
    color: var(--ink);
    background: var(--sheet);
    border: 0;
    border-bottom: 1px solid var(--ink-3);
  }
</style>
