<script lang="ts">
  import { Button, Checkbox, ProgressBar } from "carbon-components-svelte";
  import { onDestroy } from "svelte";
  import { app } from "../lib/app.svelte";
  import { ask, Refusal } from "../lib/api";
  import type { Refining, SheetView } from "../lib/types";

  let {
    id,
    body,
    refined,
    before = $bindable(),
    changed,
  }: {
    id: number;
    body: { phrase: string; octaves: number; off: string[]; plain: boolean };
    refined: boolean;
    before: boolean;
    changed: (v: SheetView) => void;
  } = $props();

  let state = $state<Refining | null>(null);
  let timer: ReturnType<typeof setTimeout> | undefined;
  onDestroy(() => clearTimeout(timer));

  async function look() {
    try {
      state = await ask<Refining>("GET", `/sheets/${id}/refine`);
      if (state.running) timer = setTimeout(() => void look(), 250);
    } catch (e) {
      if (!(e instanceof Refusal && e.problem.status === 404)) app.fail(e);
    }
  }
  void look();
  async function start() {
    try {
      state = await ask<Refining>("POST", `/sheets/${id}/refine`, body);
      timer = setTimeout(() => void look(), 250);
    } catch (e) {
      app.fail(e);
    }
  }
  async function stop() {
    try {
      state = await ask<Refining>("DELETE", `/sheets/${id}/refine`);
    } catch (e) {
      app.fail(e);
    }
  }
  async function adopt() {
    try {
      const v = await ask<SheetView>("POST", `/sheets/${id}/refine/adopt`);
      state = null;
      app.pending = v.pending;
      changed(v);
      app.changed++;
      app.say("The readings found by ear are on the sheet");
    } catch (e) {
      app.fail(e);
    }
  }
  const result = $derived(state?.result ?? null);
</script>

<p class="small soft">
  Moves the target’s controls by a few of their own steps about where the sheet
  puts them, within the plan, and keeps what brings the sound nearer. What you
  have set by hand stays.
</p>
{#if state?.running}
  <ProgressBar
    size="sm"
    labelText="Searching"
    value={state.done}
    max={Math.max(1, state.most)}
    helperText={`${state.done} of at most ${state.most} renders; ${state.distance.toFixed(2)} apart now`}
  />
  <Button size="small" kind="tertiary" on:click={() => void stop()}
    >Stop and keep what is found</Button
  >
{:else}
  <Button size="small" kind="tertiary" on:click={() => void start()}
    >{result ? "Search again" : "Search by ear"}</Button
  >
{/if}
{#if state?.error}<p class="red small" role="alert">{state.error}</p>{/if}
{#if result}
  <p aria-live="polite">
    <b class="num">{result.before.total.toFixed(2)}</b> to
    <b class="num">{result.after.total.toFixed(2)}</b>
    just-noticeable differences in {result.renders} renders over {result.controls}
    controls{result.stopped ? ", stopped" : ""}{result.spent
      ? ", as far as the budget goes"
      : ""}.
  </p>
  {#if result.changes.length === 0}
    <p class="soft">No step brought it nearer.</p>
  {:else}
    <table>
      <thead
        ><tr
          ><th scope="col">Control</th><th scope="col">From</th><th scope="col"
            >To</th
          ><th scope="col">Gain</th></tr
        ></thead
      >
      <tbody>
        {#each result.changes as c (c.control)}
          <tr
            ><th scope="row">{c.label}</th><td class="num">{c.from}</td><td
              class="num">{c.to}</td
            ><td class="num">{c.gain.toFixed(2)}</td></tr
          >
          <tr class="why"><td colspan="4" class="reason small">{c.text}</td></tr
          >
        {/each}
      </tbody>
    </table>
    <p>
      <Button size="small" on:click={() => void adopt()}
        >Put them on the sheet</Button
      >
    </p>
  {/if}
{/if}
{#if refined}
  <Checkbox
    labelText="Hear the target as it was before readings were set by hand or by ear"
    bind:checked={before}
  />
{/if}

<style>
  table {
    width: 100%;
    border-collapse: collapse;
    font-size: 0.8125rem;
  }
  th {
    text-align: left;
    font-weight: 400;
  }
  thead th {
    font-size: 0.75rem;
    font-weight: 600;
    color: var(--ink-2);
  }
  td,
  th {
    padding: 0.125rem 0.25rem;
  }
  .why td {
    border-bottom: 1px solid var(--rule);
    padding-top: 0;
  }
</style>
