<script lang="ts">
  import { Button } from "carbon-components-svelte";
  import { tick } from "svelte";
  import { app, plain, pressing, typing } from "../lib/app.svelte";
  import { ask, part } from "../lib/api";
  import { load } from "../lib/load.svelte";
  import { route } from "../lib/route.svelte";
  import type { Opened, PatchList, Ranking } from "../lib/types";
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

  load<PatchList>(
    () => "/patches",
    (l) => {
      if (!list)
        chosen = l.panels
          .filter((p) => p.kind === "instrument")
          .map((p) => p.id);
      list = l;
    },
  );
  $effect(() => {
    document.title = "Bank - Glossator";
    app.keys = [
      { keys: "r", does: "run, or stop" },
      { keys: "↑ ↓ ← →", does: "move through the table" },
      { keys: "Enter", does: "open the sheet" },
      { keys: "Esc", does: "to the patches" },
    ];
  });
  const targets = $derived(
    (list?.panels ?? []).filter((p) => p.kind === "instrument"),
  );
  const shownTargets = $derived(targets.filter((t) => chosen.includes(t.id)));
  const tags = $derived(
    [...new Set((list?.patches ?? []).flatMap((p) => p.tags))].sort(),
  );
  const patches = $derived(
    (list?.patches ?? []).filter((p) => !tag || p.tags.includes(tag)),
  );

  async function run() {
    if (running) {
      stopped = true;
      return;
    }
    if (patches.length === 0 || chosen.length === 0) return;
    [running, stopped, done, rows, failed] = [true, false, 0, {}, []];
    const wanted = [...chosen];
    for (const p of patches) {
      if (stopped) break;
      const ids = wanted.filter((t) => t !== p.panel);
      try {
        const r = ids.length
          ? await ask<Ranking>(
              "GET",
              `/patches/${part(p.id)}/targets?targets=${ids.map(part).join(",")}`,
            )
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
  async function open(patch: string, target: string) {
    try {
      const s = await ask<Opened>("POST", "/sheets", { patch, target });
      route.go(`/sheets/${s.id}`);
    } catch (e) {
      app.fail(e);
    }
  }
  function move(dx: number, dy: number) {
    const cells = [
      ...document.querySelectorAll<HTMLElement>("button[data-cell]"),
    ];
    const at = document.activeElement as HTMLElement | null;
    if (!at?.dataset.cell) {
      cells[0]?.focus();
      return;
    }
    const [r = 0, c = 0] = at.dataset.cell.split(",").map(Number);
    for (let k = 1; k < 50; k++) {
      const next = document.querySelector<HTMLElement>(
        `button[data-cell="${r + dy * k},${c + dx * k}"]`,
      );
      if (next) {
        next.focus();
        next.scrollIntoView({ block: "nearest" });
        return;
      }
    }
  }
  function keydown(e: KeyboardEvent) {
    if (typing(e) || !plain(e) || app.help || pressing(e)) return;
    if (e.key === "r") {
      void run();
      void tick();
    } else if (e.key === "ArrowDown") move(0, 1);
    else if (e.key === "ArrowUp") move(0, -1);
    else if (e.key === "ArrowLeft") move(-1, 0);
    else if (e.key === "ArrowRight") move(1, 0);
    else if (e.key === "Escape") route.go("/patches");
    else return;
    e.preventDefault();
  }
</script>

<svelte:window onkeydown={keydown} />

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
        >{#if running || done}{done} of {patches.length}{stopped
            ? ", stopped"
            : ""}{failed.length ? `, ${failed.length} failed` : ""}{/if}</span
      >
      <Button
        size="small"
        kind={running ? "tertiary" : "primary"}
        disabled={!running && (patches.length === 0 || chosen.length === 0)}
        on:click={run}>{running ? "Stop" : "Translate all"}</Button
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
      max={Math.max(1, patches.length)}
      value={done}
      aria-label="Patches translated"
      class:idle={!running}
    ></progress>
    <table class="lines" aria-label="Share carried">
      <thead
        ><tr
          ><th>Patch</th><th>On</th>{#each shownTargets as t (t.id)}<th
              >{t.name}</th
            >{/each}</tr
        ></thead
      >
      <tbody>
        {#each patches as p, r (p.id)}
          <tr>
            <td><a href={`/patches/${part(p.id)}/targets`}>{p.name}</a></td>
            <td class="small">{p.panelName}</td>
            {#each shownTargets as t, c (t.id)}
              {@const s = share(p.id, t.id)}
              <td
                >{#if s}<button
                    class="cell"
                    data-cell={`${r},${c}`}
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
              <td
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
