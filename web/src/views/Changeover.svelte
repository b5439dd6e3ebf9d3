<script lang="ts">
  import { exportURL } from "../lib/api";
  import { app } from "../lib/app.svelte";
  import { stayAwake } from "../lib/awake.svelte";
  import * as sheets from "../lib/calls/sheets";
  import { keys } from "../lib/keys.svelte";
  import { load } from "../lib/load.svelte";
  import { route } from "../lib/route.svelte";
  import type { ChangeoverView } from "../lib/types";
  import More from "../parts/More.svelte";
  import ClockPointer from "../parts/ClockPointer.svelte";

  /** From one patch to the next on an instrument: only what changes, in the order of its panel. */
  let { id }: { id: number } = $props();
  let view = $state.raw<ChangeoverView | null>(null);
  let missing = $state("");
  let from = $state(0);
  let done = $state<string[]>([]);
  load(
    () => sheets.changeover(id, from),
    (v) => {
      view = v;
      from = v.from;
      missing = "";
      document.title = `Change over to ${v.changeover.to} - Glossator`;
      void look();
    },
    (detail) => (missing = detail),
  );
  const x = $derived(view?.changeover);
  const all = $derived(
    x
      ? [
          ...x.pull.map((c) => `pull ${c}`),
          ...x.moves.map((m) => m.control),
          ...x.run.map((c) => `run ${c}`),
        ]
      : [],
  );
  const next = $derived(all.find((k) => !done.includes(k)));
  let waiting = 0;
  let queue: Promise<void> = Promise.resolve();
  /** What is done, here or on another device. */
  const look = () =>
    from > 0 && waiting === 0
      ? sheets
          .overTicks(id, from)
          .then((v) => {
            if (waiting === 0) done = v.ticks;
          })
          .catch(() => undefined) // the next look may do
      : undefined;
  $effect(() => {
    const every = setInterval(() => !document.hidden && void look(), 4000);
    return () => clearInterval(every);
  });
  /** Ticks a move: it is seen at once, and taken back where it could not be kept. */
  function toggle(k: string) {
    const on = !done.includes(k);
    done = on ? [...done, k] : done.filter((d) => d !== k);
    waiting++;
    queue = queue.then(async () => {
      const v = await app.attempt(() => sheets.overTick(id, from, k, on));
      waiting--;
      if (v) app.pending = v.pending;
      if (waiting > 0) return;
      if (v) done = v.ticks;
      else void look();
    });
  }
  const anew = () =>
    app.attempt(async () => {
      const v = await sheets.overBegin(id, from);
      [done, app.pending] = [v.ticks, v.pending];
    });
  const minutes = (seconds: number) =>
    seconds < 90
      ? `${Math.round(seconds)} s`
      : `${(seconds / 60).toFixed(1)} min`;
  stayAwake();
  keys([
    {
      keys: "Space or Enter",
      does: "the next one is done",
      on: [" ", "Enter"],
      run: () => next && toggle(next),
    },
    {
      keys: "Backspace",
      does: "the last one is not done after all",
      on: "Backspace",
      run: () => {
        const k = done.at(-1);
        if (k) toggle(k);
      },
    },
    {
      keys: "a",
      does: "begin anew: no move is done",
      on: "a",
      run: () => void anew(),
    },
    { keys: "p", does: "print", on: "p", run: () => print() },
    {
      keys: "Esc",
      does: "back to where you came from",
      on: "Escape",
      run: () => route.back(`/sheets/${id}/dial-in`),
    },
  ]);
</script>

<div class="page">
  {#if missing}
    <h1>No such changeover</h1>
    <p>{missing} <a href="/">To the desk</a></p>
  {:else if !view || !x}
    <p class="soft" role="status">Loading</p>
  {:else}
    <div class="bar">
      <h1>Change {x.on} over to {x.to}</h1>
      {#if view.others.length > 0}<label class="small"
          >from <select
            value={String(from)}
            onchange={(e) => {
              from = Number(e.currentTarget.value);
              done = [];
              app.changed++;
            }}
            >{#each view.others as o (o.id)}<option value={String(o.id)}
                >{o.name}</option
              >{/each}</select
          ></label
        >{/if}
      <div class="end noprint">
        <a href={`/sheets/${id}/dial-in`}>Whole list</a> &nbsp;
        <button
          class="linkish"
          disabled={done.length === 0}
          onclick={() => void anew()}>Begin anew</button
        >
        &nbsp;
        <More
          acts={[
            { text: "Print", run: () => print() },
            ...["pdf", "xlsx", "csv", "md"].map((form) => ({
              text: `Save as ${form === "md" ? "text" : form.toUpperCase()}`,
              href: exportURL(
                `/sheets/${id}/papers/changeover.${form}?from=${from}`,
              ),
            })),
          ]}
        />
      </div>
    </div>
    {#if view.others.length === 0}
      <p>
        There is no other sheet on {x.on}: open one of the patch that is played
        before, and the list is what changes between the two.
      </p>
    {:else}
      <p>
        <strong class="num">{view.count}</strong> to change, {x.same} stand right
        already{#if view.pace.each > 0}; about
          <span class="num">{minutes(view.pace.each * view.count)}</span>
          by your own past lines (<span class="num"
            >{minutes(view.pace.low * view.count)}</span
          >
          to
          <span class="num">{minutes(view.pace.high * view.count)}</span>, half
          of {view.pace.n} lines){:else}; how long that takes is told after some
          lists have been ticked by hand{/if}. Turn down first.
      </p>
      <ul class="moves">
        {#each x.pull as c (c)}{@render line(
            `pull ${c}`,
            "Cables",
            `pull ${c}`,
            "",
            "",
            "",
          )}{/each}
        {#each x.moves as m (m.control)}{@render line(
            m.control,
            m.section,
            m.label,
            m.from || "anywhere",
            m.to,
            m.caution ?? "",
          )}{/each}
        {#each x.run as c (c)}{@render line(
            `run ${c}`,
            "Cables",
            `run ${c}`,
            "",
            "",
            "",
          )}{/each}
      </ul>
      {#if view.count === 0}<p>Nothing: it stands as it should.</p>{/if}
    {/if}
  {/if}
</div>

{#snippet line(
  key: string,
  section: string,
  label: string,
  was: string,
  to: string,
  caution: string,
)}
  <li class:done={done.includes(key)} class:next={key === next}>
    <label
      ><input
        type="checkbox"
        checked={done.includes(key)}
        onchange={() => toggle(key)}
      /><span class="soft section">{section}</span><span>{label}</span><span
        class="num soft">{was}</span
      ><b class="num"
        >{#if to}<ClockPointer reading={to} /> {to}{/if}</b
      >{#if caution}<span class="red small">{caution}</span>{/if}</label
    >
  </li>
{/snippet}

<style>
  ul {
    list-style: none;
    margin: 0.5rem 0;
    padding: 0;
    border-top: 1px solid var(--ink-3);
  }
  li {
    border-bottom: 1px solid var(--rule);
  }
  label {
    display: grid;
    grid-template-columns: 1.5rem 11rem 16rem 8rem 8rem 1fr;
    gap: 0 1rem;
    align-items: baseline;
    padding: 0.375rem 0.5rem;
    font-size: 1.0625rem;
  }
  .bar label {
    display: inline;
    padding: 0;
    font-size: 0.8125rem;
  }
  .section {
    font-size: 0.8125rem;
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
  input {
    width: 1rem;
    height: 1rem;
    accent-color: var(--ink);
  }
  @media (max-width: 700px) {
    .moves label {
      grid-template-columns: 2rem 1fr auto auto;
      min-height: 2.75rem;
    }
    .moves .section {
      grid-column: 2 / -1;
    }
    .moves label > span:nth-child(3) {
      grid-column: 2;
    }
    input {
      width: 1.75rem;
      height: 1.75rem;
    }
  }
</style>
