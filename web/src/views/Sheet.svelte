<script lang="ts">
  import { flushSync, onDestroy, untrack } from "svelte";
  import { exportURL, part } from "../lib/api";
  import * as sheets from "../lib/calls/sheets";
  import { keys, through } from "../lib/keys.svelte";
  import { Live } from "../lib/live.svelte";
  import { narrow } from "../lib/narrow";
  import { route } from "../lib/route.svelte";
  import { SheetState } from "../lib/sheet.svelte";
  import SendMIDI from "../parts/SendMIDI.svelte";
  import ChosenLine from "../parts/sheet/ChosenLine.svelte";
  import GlossTable from "../parts/sheet/GlossTable.svelte";
  import PlanView from "../parts/sheet/PlanView.svelte";
  import RuleView from "../parts/sheet/RuleView.svelte";
  import SheetHead from "../parts/sheet/SheetHead.svelte";
  import SheetNotes from "../parts/sheet/SheetNotes.svelte";

  let { id }: { id: number } = $props();
  // svelte-ignore state_referenced_locally
  const s = new SheetState(id);
  let rule = $state<RuleView | undefined>();
  let midi = $state<SendMIDI | undefined>();
  // the target as it is set, heard as the hairline moves
  const live = new Live((from, seconds, signal) =>
    s.live(from, seconds, signal),
  );
  onDestroy(() => live.close());
  $effect(() => {
    void s.view;
    void s.hair?.reading;
    void s.single;
    untrack(() => void live.changed());
  });

  /** Opens the field of the chosen line with the focus in it. */
  function edit(empty = false) {
    if (!s.edit(empty)) return;
    flushSync();
    s.field?.focus();
    if (!empty) s.field?.select();
  }
  function leave() {
    if (s.plan) s.plan = false;
    else if (s.midi) s.midi = false;
    else if (s.editing) {
      s.close();
      void s.choose(s.chosen);
    } else if (rule?.focused()) void s.choose(s.chosen);
    else route.back("/");
  }
  keys([
    {
      keys: "↑ ↓",
      does: "move through the lines",
      on: ["ArrowUp", "ArrowDown"],
      run: (e) => s.move(e.key === "ArrowDown" ? 1 : -1),
    },
    { on: "Home", run: () => s.move(-Infinity) },
    { on: "End", run: () => s.move(Infinity) },
    {
      keys: "0-9 + - ~",
      does: "type another reading for the target",
      on: (e) =>
        /^[0-9+\-~.]$/.test(e.key) && !(e.key === "." && s.midi && !s.editing),
      run: () => {
        edit(true);
        return through; // the key itself goes into the field
      },
    },
    {
      keys: "Enter",
      does: "open the reading; Enter again sets it, Esc leaves it",
      on: "Enter",
      run: () => edit(),
    },
    {
      keys: "i",
      does: "hear the part of this line alone; again for all",
      on: "i",
      run: () => s.isolate(),
    },
    {
      keys: "x",
      does: "take a reading set by hand back",
      on: "x",
      run: s.takeBack,
    },
    {
      keys: "r",
      does: "go to the rule; arrows move the hairline by the target's steps, Shift finely",
      on: "r",
      run: () => rule?.focus(),
    },
    {
      keys: "Space",
      does: "hear the target as it is set, round and round: what the hairline sets is heard at once",
      on: " ",
      run: () => void live.toggle(),
    },
    {
      keys: "l",
      does: "only what is bent, recast or left out",
      on: "l",
      run: () => s.filterLosses(),
    },
    {
      keys: "v",
      does: "hide or show idle lines",
      on: "v",
      run: () => (s.idle = !s.idle),
    },
    {
      keys: "p",
      does: "the plan: what plays what, and what is made by other means",
      on: "p",
      run: () => (s.plan = !s.plan),
    },
    {
      keys: "s",
      does: "the next school: numbers, or by the instrument",
      on: "s",
      run: () => s.nextSchool(),
    },
    {
      keys: "b",
      does: "compare targets",
      on: "b",
      run: () => s.sheet && route.go(`/patches/${part(s.sheet.patch)}/targets`),
    },
    {
      keys: "m",
      does: "MIDI: send what is set as it changes, take what is moved on the instrument",
      on: "m",
      run: () => (s.midi = !s.midi),
    },
    {
      keys: ".",
      does: "send this line alone, while MIDI is open",
      on: ".",
      while: () => s.midi,
      run: () => void midi?.sendOne(),
    },
    {
      keys: "d",
      does: "dial in",
      on: "d",
      run: () => route.go(`/sheets/${id}/dial-in`),
    },
    {
      keys: "h",
      does: "hear both sides",
      on: "h",
      run: () => route.go(`/sheets/${id}/listen`),
    },
    {
      keys: "Esc",
      does: "back to where you came from",
      on: "Escape",
      run: leave,
    },
  ]);
</script>

{#if s.missing}
  <div class="page">
    <h1>No such sheet</h1>
    <p>{s.missing} <a href="/">To the desk</a></p>
  </div>
{:else if !s.view || !s.sheet}
  <div class="page"><p class="soft" role="status">Loading</p></div>
{:else}
  <div class="sheet">
    <SheetHead {s} view={s.view} {live} />
    <SheetNotes {s} view={s.view} />
    {#if s.midi}<SendMIDI
        bind:this={midi}
        ask={(of) => sheets.sending(id, of)}
        hear={(before, now) => sheets.received(id, before, now)}
        sound={(unit, bytes) => sheets.onStandIn(id, unit, bytes)}
        file={exportURL(`/sheets/${id}/midi`)}
        panel={s.sheet.target.id}
        name={s.sheet.target.name}
        line={s.control}
        live
        hair={s.hair}
        stands={s.view}
        moved={s.moved}
        close={() => (s.midi = false)}
      />{/if}
    {#if s.plan}<PlanView {s} sheet={s.sheet} />{/if}
    <div class="body">
      <GlossTable
        {s}
        sheet={s.sheet}
        {edit}
        about={narrow.current ? about : undefined}
      />
      {#if !narrow.current}<ChosenLine {s} sheet={s.sheet} {edit} />{/if}
    </div>
    {#if !narrow.current}<div class="dock" role="region" aria-label="Rule">
        {@render scales()}
      </div>{/if}
  </div>
{/if}

{#snippet about()}
  {#if s.sheet}<ChosenLine {s} sheet={s.sheet} {edit} />{/if}
  {@render scales()}
{/snippet}
{#snippet scales()}
  {#if s.scales}<RuleView
      bind:this={rule}
      rule={s.scales}
      set={s.put}
      moved={(at) => (s.hair = at)}
    />{/if}
{/snippet}

<style>
  .sheet {
    display: flex;
    flex-direction: column;
    height: calc(100vh - 2.75rem);
    min-height: 34rem;
  }
  .body {
    flex: 1;
    display: grid;
    grid-template-columns: minmax(0, 1fr) 19rem;
    min-height: 0;
  }
  .dock {
    flex: none;
    min-height: 11.25rem;
    padding: 0.4375rem 1.25rem 0.375rem;
    border-top: 1px solid var(--ink-3);
    background: var(--paper);
  }
  @media (max-width: 640px) {
    .sheet {
      height: auto;
      min-height: 0;
    }
    .body {
      display: block;
    }
  }
  @media (min-width: 640.1px) and (max-width: 1100px) {
    .body {
      grid-template-columns: minmax(0, 1fr) 15.5rem;
    }
  }
</style>
