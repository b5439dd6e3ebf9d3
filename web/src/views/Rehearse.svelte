<script lang="ts">
  import { Button } from "carbon-components-svelte";
  import { part } from "../lib/api";
  import { app } from "../lib/app.svelte";
  import { stayAwake } from "../lib/awake.svelte";
  import * as sheets from "../lib/calls/sheets";
  import { keys } from "../lib/keys.svelte";
  import { Rehearsal } from "../lib/rehearsal.svelte";
  import { route } from "../lib/route.svelte";
  import { clock } from "../lib/times";
  import type { RunCue } from "../lib/types";
  import ClockPointer from "../parts/ClockPointer.svelte";

  /** A rehearsal: the running order with a clock, what to change by whom, how long it took. */
  let { id, house, evening }: { id: number; house: string; evening: number } =
    $props();
  // svelte-ignore state_referenced_locally
  const r = new Rehearsal(id, house, evening);
  stayAwake();

  const view = $derived(r.view);
  const all = $derived(view?.cues ?? []);
  const mine = (c: RunCue) => !r.who || c.player === r.who || !c.player;
  const at = $derived(r.clock);
  const playing = $derived(all.filter((c) => c.start <= at && at < c.end));
  const next = $derived(all.find((c) => c.start > at));
  /** The changeovers that are to be done, by when they must be. */
  const todo = $derived(all.filter((c) => mine(c) && r.left(c) > 0));
  let picked = $state("");
  const current = $derived(
    todo.find((c) => c.id === picked) ?? todo[0] ?? undefined,
  );
  const move = $derived(
    current?.moves.find((m) => !r.is(current, m.key)) ?? undefined,
  );
  const gap = (c: RunCue) => c.start - c.fromEnd;
  /** How a changeover stands: done in time, ran over, being late, to come. */
  function stands(c: RunCue): string {
    if (c.moves.length === 0) return c.from ? "stands" : "set beforehand";
    const ready = r.ready(c);
    if (ready !== undefined)
      return ready > c.start
        ? `ran over by ${clock(ready - c.start)}`
        : `done, ${clock(Math.max(0, ready - c.fromEnd))} of ${clock(gap(c))}`;
    const left = r.left(c);
    if (at > c.start) return `${left} left, late by ${clock(at - c.start)}`;
    return `${left} to change, ${clock(c.takes)} of ${clock(gap(c))}`;
  }
  const late = (c: RunCue) => {
    const ready = r.ready(c);
    return ready !== undefined
      ? ready > c.start
      : c.moves.length > 0 &&
          at > c.start - c.takes * (r.left(c) / c.moves.length);
  };
  /** Which move is next is asked when it is ticked: two keys in one breath are two moves. */
  async function tickNext() {
    await r.settled();
    if (current && move) await r.tick(current, move.key, true);
  }
  async function takeBack() {
    await r.settled();
    let last: { c: RunCue; key: string; at: number } | undefined;
    for (const c of all)
      for (const m of c.moves) {
        const t = r.done.get(Rehearsal.key(c.id, m.key));
        if (t !== undefined && mine(c) && t >= (last?.at ?? -Infinity))
          last = { c, key: m.key, at: t };
      }
    if (last) await r.tick(last.c, last.key, false);
  }
  const jump = (c: RunCue | undefined) => {
    if (c) r.set(r.going, Math.max(0, c.fromEnd || c.start - 10));
  };
  const openSheet = (c: RunCue) =>
    app.attempt(async () => {
      const made = await sheets.open({ patch: c.patch, target: c.panel });
      route.go(`/sheets/${made.id}/dial-in`);
    });
  const go = (h: string, e: number) =>
    route.go(`/shows/${id}/${part(h)}/rehearse/${e}`);
  function turn() {
    const list = ["", ...(view?.players ?? [])];
    r.be(list[(list.indexOf(r.who) + 1) % list.length] ?? "");
  }
  keys([
    {
      keys: "Space or Enter",
      does: "the next move is done",
      on: [" ", "Enter"],
      run: () => void tickNext(),
    },
    {
      keys: "Backspace",
      does: "the last one is not done after all",
      on: "Backspace",
      run: () => void takeBack(),
    },
    {
      keys: "s",
      does: "let the clock go, or hold it",
      on: "s",
      run: () => void r.toggle(),
    },
    {
      keys: "← →",
      does: "the clock ten seconds back or on",
      on: ["ArrowLeft", "ArrowRight"],
      run: (e) =>
        r.set(
          r.going,
          Math.max(0, r.clock + (e.key === "ArrowLeft" ? -10 : 10)),
        ),
    },
    {
      keys: "↑ ↓",
      does: "another changeover",
      on: ["ArrowUp", "ArrowDown"],
      run: (e) => {
        const i = current ? todo.indexOf(current) : 0;
        picked =
          todo[
            Math.max(
              0,
              Math.min(todo.length - 1, i + (e.key === "ArrowDown" ? 1 : -1)),
            )
          ]?.id ?? "";
      },
    },
    {
      keys: "c",
      does: "put the clock to where this changeover begins",
      on: "c",
      run: () => jump(current),
    },
    { keys: "w", does: "whose part this is", on: "w", run: turn },
    { keys: "a", does: "begin anew", on: "a", run: () => void r.begin() },
    { keys: "p", does: "print", on: "p", run: () => print() },
    {
      keys: "Esc",
      does: "back to where you came from",
      on: "Escape",
      run: () => route.back(`/shows/${id}/${part(house)}`),
    },
  ]);
</script>

<div class="page">
  {#if r.missing}
    <h1>No such rehearsal</h1>
    <p>{r.missing} <a href="/shows">All shows</a></p>
  {:else if !view}
    <p class="soft" role="status">Loading</p>
  {:else}
    <div class="bar">
      <h1>Rehearse {view.name}</h1>
      <label class="small noprint"
        >in <select
          value={view.houseId}
          onchange={(e) => go(e.currentTarget.value, evening)}
          >{#each view.houses as h (h.id)}<option value={h.id}>{h.name}</option
            >{/each}</select
        ></label
      >
      <label class="small noprint"
        >evening <select
          value={String(evening)}
          onchange={(e) => go(view.houseId, Number(e.currentTarget.value))}
          >{#each [...new Set([...view.evenings, evening])] as e (e)}<option
              value={String(e)}>{e}</option
            >{/each}</select
        ></label
      >
      <label class="small noprint"
        >as <select value={r.who} onchange={(e) => r.be(e.currentTarget.value)}
          ><option value="">everybody</option
          >{#each view.players as p (p)}<option value={p}>{p}</option
            >{/each}</select
        ></label
      >
      <div class="end noprint">
        <a href={`/shows/${id}/${part(house)}`}>The plan</a> &nbsp;
        <button class="linkish" disabled={!r.run} onclick={() => void r.begin()}
          >Begin anew</button
        >
      </div>
    </div>
    {#if all.length === 0}
      <p>
        Nothing is played on evening {evening} in this house. {#each view.dropped as d (d)}<span
            class="red">{d}</span
          >{/each}
      </p>
    {:else}
      <div class="top">
        <div class="watch" class:held={!r.going}>
          <time class="num" aria-label="The clock of the evening"
            >{clock(at)}</time
          >
          <Button
            size="small"
            kind={r.going ? "tertiary" : "primary"}
            onclick={() => void r.toggle()}
            >{r.going ? "Hold the clock" : r.run ? "Go on" : "Begin"}</Button
          >
        </div>
        <div class="cues" role="status">
          <p>
            <span class="small soft">playing</span>
            <strong
              >{playing
                .map((c) => `${c.name} (${c.player || c.on})`)
                .join(", ") || "nothing"}</strong
            >
          </p>
          {#if next}<p>
              <span class="small soft">next</span>
              <strong>{next.name}</strong>
              <span>{next.player}{next.player ? ", " : ""}{next.on}</span>
              in <b class="num">{clock(next.start - at)}</b>
              {#if r.left(next) > 0}<span class="red"
                  >{r.left(next)} still to change</span
                >{/if}
            </p>{/if}
          {#if r.waiting.length > 0 || r.away}<p class="small red">
              The program does not answer.
              {r.waiting.length > 0
                ? `${r.waiting.length} changes are kept here and sent when it does.`
                : "Go on: what you do is kept here and sent when it does."}
            </p>{/if}
        </div>
      </div>
      <div class="two">
        <section aria-label="What to change">
          {#if current}
            <h2>
              {current.on}: {current.from ? `from ${current.from} ` : ""}to {current.name}
            </h2>
            <p class="small">
              {current.player || "whoever is free"}, from
              <span class="num">{clock(current.begin)}</span>, on at
              <b class="num">{clock(current.start)}</b>:
              <span class="num" class:red={late(current)}
                >{clock(current.start - at)}</span
              >
              left{#if current.over > 0}; <span class="red"
                  >ran over by {clock(current.over)} last time</span
                >{/if}. Turn down first.
            </p>
            <ul class="moves">
              {#each current.moves as m (m.key)}
                {@const is = r.is(current, m.key)}
                <li class:done={is} class:next={m.key === move?.key}>
                  <label
                    ><input
                      type="checkbox"
                      checked={is}
                      onchange={() => void r.tick(current, m.key, !is)}
                    /><span class="soft small">{m.section}</span><span
                      >{m.label}</span
                    ><span class="num soft small">{m.from}</span><b class="num"
                      >{#if m.to}<ClockPointer reading={m.to} /> {m.to}{/if}</b
                    >{#if m.caution}<span class="red small">{m.caution}</span
                      >{/if}</label
                  >
                </li>
              {/each}
            </ul>
          {:else}
            <h2>Nothing to change{r.who ? ` for ${r.who}` : ""}</h2>
            <p>All that the evening needs is done.</p>
          {/if}
        </section>
        <section aria-label="Running order">
          <h2>Running order</h2>
          <ol class="order">
            {#each all as c (c.id)}
              <li
                class:now={playing.includes(c)}
                class:other={!mine(c)}
                class:past={at >= c.end}
              >
                <button
                  onclick={() => (picked = c.id)}
                  aria-current={c.id === current?.id ? "true" : undefined}
                >
                  <span class="num">{clock(c.start)}</span>
                  <span
                    ><strong>{c.name}</strong>
                    <span class="small soft"
                      >{[c.player, c.on].filter(Boolean).join(", ")}</span
                    ></span
                  >
                  <span class="small" class:red={late(c)}>{stands(c)}</span>
                </button>
                {#if !c.from}<button
                    class="linkish small sheet noprint"
                    onclick={() => void openSheet(c)}>its list</button
                  >{/if}
              </li>
            {/each}
          </ol>
          {#each view.dropped as d (d)}<p class="small red">{d}</p>{/each}
          <p class="small soft">
            Set beforehand what the first cue on each instrument needs. How long
            hands take here goes into the plan of this show.
          </p>
        </section>
      </div>
    {/if}
  {/if}
</div>

<style>
  .top {
    margin-top: 0.5rem;
    display: flex;
    flex-wrap: wrap;
    gap: 0.5rem 2rem;
    align-items: center;
    border-top: 1px solid var(--ink-3);
    border-bottom: 1px solid var(--ink-3);
    padding: 0.625rem 0;
    position: sticky;
    top: 2.75rem;
    background: var(--paper);
    z-index: 5;
  }
  .watch {
    display: flex;
    align-items: center;
    gap: 1rem;
  }
  .watch time {
    font-size: 3rem;
    line-height: 3rem;
    min-width: 7.5rem;
  }
  .held time {
    color: var(--ink-3);
  }
  .cues p {
    margin: 0.125rem 0;
    font-size: 1rem;
  }
  .two {
    display: grid;
    grid-template-columns: minmax(0, 1fr) minmax(0, 1fr);
    gap: 0 2rem;
  }
  ul,
  ol {
    list-style: none;
    margin: 0.25rem 0;
    padding: 0;
    border-top: 1px solid var(--ink-3);
  }
  li {
    border-bottom: 1px solid var(--rule);
  }
  .moves label {
    display: grid;
    grid-template-columns: 1.5rem 7rem minmax(0, 1fr) 5rem 7rem;
    gap: 0 0.75rem;
    align-items: baseline;
    padding: 0.25rem 0.25rem;
    font-size: 1rem;
  }
  .moves .red {
    grid-column: 3 / -1;
  }
  .next {
    background: var(--chosen);
  }
  .next .soft {
    color: var(--ink-2);
  }
  .done {
    text-decoration: line-through;
    color: var(--ink-3);
  }
  input[type="checkbox"] {
    width: 1rem;
    height: 1rem;
    accent-color: var(--ink);
  }
  .order li {
    position: relative;
  }
  .order .sheet {
    position: absolute;
    right: 6.5rem;
    top: 0.25rem;
  }
  .order li > button:first-child {
    display: grid;
    grid-template-columns: 3.5rem minmax(0, 1fr) auto;
    gap: 0 0.75rem;
    align-items: baseline;
    width: 100%;
    text-align: left;
    font: inherit;
    color: var(--ink);
    background: none;
    border: 0;
    padding: 0.25rem;
    cursor: pointer;
  }
  .order button[aria-current] {
    background: var(--chosen);
  }
  .order button[aria-current] .soft {
    color: var(--ink-2);
  }
  .now button {
    box-shadow: inset 3px 0 0 var(--rubric);
  }
  .past strong,
  .other strong {
    font-weight: 400;
  }
  .past button,
  .other button {
    color: var(--ink-3);
  }
  @media (max-width: 760px) {
    .two {
      grid-template-columns: minmax(0, 1fr);
    }
    .top {
      position: static;
    }
    .moves label {
      grid-template-columns: 2rem minmax(0, 1fr) auto auto;
      min-height: 2.75rem;
      align-items: center;
    }
    .moves label > span:nth-of-type(1) {
      grid-column: 2 / -1;
      grid-row: 1;
    }
    .moves label > span:nth-of-type(2) {
      grid-column: 2;
      grid-row: 2;
    }
    input[type="checkbox"] {
      width: 1.75rem;
      height: 1.75rem;
      grid-row: 1 / 3;
    }
    .order li > button:first-child {
      min-height: 2.75rem;
      align-items: center;
    }
  }
</style>
