<script lang="ts">
  import { Button } from "carbon-components-svelte";
  import { part } from "../lib/api";
  import { app } from "../lib/app.svelte";
  import * as patches from "../lib/calls/patches";
  import * as sheets from "../lib/calls/sheets";
  import { keys } from "../lib/keys.svelte";
  import { load } from "../lib/load.svelte";
  import { Places } from "../lib/places";
  import { route } from "../lib/route.svelte";
  import type { PatchList, Ranking, TargetHeard } from "../lib/types";
  import Share from "../parts/Share.svelte";

  /** All patches to all chosen instruments, with the best for each patch. */
  let list = $state.raw<PatchList | null>(null);
  let chosen = $state<string[]>([]);
  let rows = $state.raw<Record<string, Ranking["targets"]>>({});
  let done = $state(0);
  let running = $state(false);
  let stopped = $state(false);
  let failed = $state<string[]>([]);
  let tag = $state("");

  document.title = "Bank - Glossator";
  load(
    () => patches.list(),
    (l) => {
      if (!list)
        chosen = l.panels
          .filter((p) => p.kind === "instrument")
          .map((p) => p.id);
      list = l;
    },
  );
  const targets = $derived(
    (list?.panels ?? []).filter((p) => p.kind === "instrument"),
  );
  const shownTargets = $derived(targets.filter((t) => chosen.includes(t.id)));
  const tags = $derived(
    [...new Set((list?.patches ?? []).flatMap((p) => p.tags))].sort(),
  );
  const shown = $derived(
    (list?.patches ?? []).filter((p) => !tag || p.tags.includes(tag)),
  );

  async function run() {
    if (running) {
      stopped = true;
      return;
    }
    if (shown.length === 0 || chosen.length === 0) return;
    [running, stopped, done, rows, failed] = [true, false, 0, {}, []];
    const wanted = [...chosen];
    for (const p of shown) {
      if (stopped) break;
      const ids = wanted.filter((t) => t !== p.panel);
      try {
        const r = ids.length
          ? await patches.targets(p.id, { targets: ids.join(",") })
          : null;
        rows = { ...rows, [p.id]: r?.targets ?? [] };
      } catch (e) {
        failed = [...failed, p.name];
        app.fail(e);
      }
      done++;
    }
    running = false;
  }
  /** How far each pair sounds apart, by patch and target. */
  let sound = $state<Record<string, TargetHeard>>({});
  let hearing = $state<AbortController | null>(null);
  let bySound = $state(false);
  let order = $state("");
  let heardPairs = $state(0);
  const pairs = $derived(
    shown.flatMap((p) =>
      shownTargets.filter((t) => t.id !== p.panel).map((t) => [p.id, t.id]),
    ),
  );
  async function listen() {
    if (hearing) {
      hearing.abort();
      hearing = null;
      return;
    }
    const gone = new AbortController();
    [hearing, bySound, heardPairs] = [gone, true, 0];
    for (const [p, t] of pairs) {
      if (gone.signal.aborted) break;
      if (p && t && !sound[`${p} ${t}`])
        try {
          sound[`${p} ${t}`] = await patches.targetHeard(p, t, gone.signal);
        } catch (e) {
          if (!gone.signal.aborted) app.fail(e);
        }
      heardPairs++;
    }
    if (hearing === gone) hearing = null;
  }
  $effect(() => () => hearing?.abort());
  /** The rows, by one column where one is chosen: the most carried first, or the nearest in sound. */
  const sorted = $derived(
    order === ""
      ? shown
      : [...shown].sort((a, b) =>
          bySound
            ? (sound[`${a.id} ${order}`]?.apart ?? Infinity) -
              (sound[`${b.id} ${order}`]?.apart ?? Infinity)
            : (share(b.id, order)?.share ?? -1) -
              (share(a.id, order)?.share ?? -1),
        ),
  );
  const share = (patch: string, target: string) =>
    rows[patch]?.find((t) => t.target.id === target);
  const mean = (target: string) => {
    const all = Object.values(rows)
      .map((r) => r.find((t) => t.target.id === target)?.share)
      .filter((x) => x !== undefined);
    return all.length ? all.reduce((a, b) => a + b, 0) / all.length : undefined;
  };
  const bestMean = $derived.by(() => {
    let best = "";
    let most = -1;
    for (const t of shownTargets) {
      const m = mean(t.id) ?? -1;
      if (m > most) [best, most] = [t.id, m];
    }
    return best;
  });
  const open = (patch: string, target: string) =>
    app.attempt(async () =>
      route.go(`/sheets/${(await sheets.open({ patch, target })).id}`),
    );
  const cells = new Places();
  let at: [number, number] | null = null;
  /** Moves to the next cell that holds a result. */
  function move(dx: number, dy: number) {
    let [r, c] = at ?? [0, -1];
    if (!at) [dx, dy] = [1, 0];
    for (let k = 0; k < Math.max(shown.length, shownTargets.length); k++) {
      [r, c] = [r + dy, c + dx];
      if (cells.get(`${r},${c}`)) {
        cells.show(`${r},${c}`);
        return;
      }
    }
  }
  keys([
    { keys: "r", does: "run, or stop", on: "r", run: () => void run() },
    {
      keys: "h",
      does: "listen to all, or stop",
      on: "h",
      run: () => void listen(),
    },
    {
      keys: "o",
      does: "show what is carried, or how far apart in sound",
      on: "o",
      run: () => (bySound = !bySound),
    },
    {
      keys: "↑ ↓ ← →",
      does: "move through the table",
      on: ["ArrowUp", "ArrowDown", "ArrowLeft", "ArrowRight"],
      run: (e) =>
        move(
          Number(e.key === "ArrowRight") - Number(e.key === "ArrowLeft"),
          Number(e.key === "ArrowDown") - Number(e.key === "ArrowUp"),
        ),
    },
    { keys: "Enter", does: "open the sheet" },
    {
      keys: "Esc",
      does: "back to where you came from",
      on: "Escape",
      run: () => route.back("/patches"),
    },
  ]);
</script>

<div class="page">
  <div class="bar">
    <h1>Bank</h1>
    <span class="soft">all patches to all chosen instruments</span>
    <div class="end bar">
      {#if tags.length}
        <label class="small"
          >Only <select bind:value={tag} disabled={running}>
            <option value="">all patches</option>
            {#each tags as t (t)}<option value={t}>{t}</option>{/each}
          </select></label
        >
      {/if}
      <span role="status" class="num small"
        >{#if running || done}{done} of {shown.length}{stopped
            ? ", stopped"
            : ""}{failed.length ? `, ${failed.length} failed` : ""}{/if}</span
      >
      {#if hearing || heardPairs}<span class="num small"
          >{heardPairs} of {pairs.length} heard</span
        >{/if}
      <Button
        size="small"
        kind="tertiary"
        disabled={running || pairs.length === 0}
        onclick={listen}>{hearing ? "Stop listening" : "Listen to all"}</Button
      >
      <button class="linkish small" onclick={() => (bySound = !bySound)}
        >{bySound ? "Show what is carried" : "Show apart in sound"}</button
      >
      <Button
        size="small"
        kind={running ? "tertiary" : "primary"}
        disabled={!running && (shown.length === 0 || chosen.length === 0)}
        onclick={run}>{running ? "Stop" : "Translate all"}</Button
      >
    </div>
  </div>
  {#if !list}
    <p class="soft" role="status">Loading</p>
  {:else if list.all === 0}
    <p>
      There is no patch yet. Import one in <a href="/patches">patches</a>, or
      open the sample from the <a href="/">desk</a>.
    </p>
  {:else}
    <fieldset class="small" disabled={running}>
      <legend>Instruments</legend>
      {#each targets as t (t.id)}
        <label
          ><input type="checkbox" value={t.id} bind:group={chosen} />
          {t.name}</label
        >
      {/each}
    </fieldset>
    <progress
      max={Math.max(1, shown.length)}
      value={done}
      aria-label="Patches translated"
      class:idle={!running}
    ></progress>
    <table
      class="lines stack"
      aria-label={bySound
        ? "Just-noticeable differences apart in sound, by ear"
        : "Share carried"}
    >
      <thead
        ><tr
          ><th>Patch</th><th>On</th>{#each shownTargets as t (t.id)}<th
              aria-sort={order === t.id
                ? bySound
                  ? "ascending"
                  : "descending"
                : "none"}
              ><button
                class="linkish"
                title="Order the patches by this column"
                onclick={() => (order = order === t.id ? "" : t.id)}
                >{t.name}</button
              ></th
            >{/each}</tr
        ></thead
      >
      <tbody>
        {#each sorted as p, r (p.id)}
          <tr>
            <td class="head"
              ><a href={`/patches/${part(p.id)}/targets`}>{p.name}</a></td
            >
            <td class="small">{p.panelName}</td>
            {#each shownTargets as t, c (t.id)}
              {@const s = share(p.id, t.id)}
              {@const h = sound[`${p.id} ${t.id}`]}
              <td class="of" data-of={t.name}
                >{#if bySound && h}<button
                    class="cell num"
                    {@attach cells.at(`${r},${c}`)}
                    onfocus={() => (at = [r, c])}
                    title={h.headline}
                    aria-label={`${p.name} on ${t.name}: ${h.headline}`}
                    onclick={() => open(p.id, t.id)}
                    >{h.silent ? "not heard" : h.apart.toFixed(1)}</button
                  >{:else if bySound && t.id !== p.panel}<span class="soft"
                    >–</span
                  >{:else if s}<button
                    class="cell"
                    {@attach cells.at(`${r},${c}`)}
                    onfocus={() => (at = [r, c])}
                    title={s.why}
                    aria-label={`${p.name} on ${t.name}: ${(s.share * 100).toFixed(1)} %${rows[p.id]?.[0] === s ? ", the best" : ""}; ${s.why}`}
                    onclick={() => open(p.id, t.id)}
                    ><Share
                      share={s.share}
                      best={rows[p.id]?.[0] === s}
                    /></button
                  >{:else if t.id === p.panel}<span class="soft small"
                    >its own</span
                  >{:else}<span class="soft">–</span>{/if}</td
              >
            {/each}
          </tr>
        {/each}
        {#if done > 0}
          <tr class="mean">
            <td>Mean</td><td></td>
            {#each shownTargets as t (t.id)}
              {@const m = mean(t.id)}
              <td class="of" data-of={t.name}
                >{#if m !== undefined}<Share
                    share={m}
                    best={t.id === bestMean}
                  />{/if}</td
              >
            {/each}
          </tr>
        {/if}
      </tbody>
    </table>
  {/if}
</div>

<style>
  fieldset {
    border: 0;
    margin: 0.75rem 0 0.25rem;
    padding: 0;
    display: flex;
    flex-wrap: wrap;
    gap: 0.25rem 1rem;
  }
  legend {
    float: left;
    margin-right: 1rem;
    font-weight: 600;
    padding: 0;
  }
  fieldset label {
    display: inline-flex;
    gap: 0.25rem;
    align-items: center;
  }
  progress {
    width: 100%;
    height: 4px;
    display: block;
    margin: 0.5rem 0;
    accent-color: var(--rubric);
  }
  progress.idle {
    visibility: hidden;
  }
  .cell {
    font: inherit;
    display: block;
    width: 100%;
    text-align: left;
    color: var(--ink);
    background: none;
    border: 0;
    padding: 0;
    cursor: pointer;
  }
  .cell:hover {
    background: var(--shade);
  }
  @media (max-width: 760px) {
    .of {
      flex: 1 1 40%;
    }
    .head {
      font-weight: 600;
    }
    .head + td {
      flex: 1 1 60%;
    }
  }
  .mean td {
    border-top: 1px solid var(--ink-3);
    font-weight: 600;
  }
  select {
    font: inherit;
    color: var(--ink);
    background: var(--sheet);
    border: 0;
    border-bottom: 1px solid var(--ink-3);
  }
</style>
