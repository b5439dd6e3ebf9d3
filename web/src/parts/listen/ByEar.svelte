<script lang="ts">
  import { Button, Checkbox, ProgressBar } from "carbon-components-svelte";
  import type { ListenState } from "../../lib/listen.svelte";
  import type { Listening } from "../../lib/types";

  /** The search by ear: what it found, and putting it on the sheet. */
  let { s, loaded }: { s: ListenState; loaded: Listening } = $props();
  const search = $derived(s.search);
  const result = $derived(search?.result ?? null);
  /** A nearer plan is taken whole: its steps have no gain of their own. */
  const weighed = $derived(result?.changes.some((c) => c.gain !== 0) ?? false);
</script>

<p class="small soft">
  Looks longer: renders more plans, moves the target’s controls over the whole
  of their travel, and keeps what brings the sound nearer. What you have set by
  hand stays. Nothing changes before you take it.
</p>
<p class="small">
  {#if s.recordings.source}
    It aims at the recording <i>{s.recordings.source.label}</i>, which has to
    play the notes chosen above from their beginning; how loud it is does not
    count.
  {:else}
    <span class="soft"
      >It aims at the source’s rendering. Drop a recording of the instrument
      itself under Recordings, and it aims at that.</span
    >
  {/if}
</p>
{#if search?.running}
  <ProgressBar
    size="sm"
    labelText="Searching"
    value={search.done}
    max={Math.max(1, search.most)}
    helperText={search.place > 0
      ? `Waits for its turn: number ${search.place} in the queue`
      : `${search.done} of at most ${search.most} renders; ${search.distance.toFixed(2)} apart now`}
  />
  <Button size="small" kind="tertiary" onclick={s.stopSearch}
    >Stop and keep what is found</Button
  >
{:else}
  <Button size="small" kind="tertiary" onclick={s.startSearch}
    >{result ? "Search again" : "Search by ear"}</Button
  >
{/if}
{#if search?.error}<p class="red small" role="alert">{search.error}</p>{/if}
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
    <table class="figures">
      <thead
        ><tr
          ><th scope="col">Control</th><th scope="col">From</th><th scope="col"
            >To</th
          >{#if weighed}<th scope="col">Gain</th>{/if}</tr
        ></thead
      >
      <tbody>
        {#each result.changes as c (c.control)}
          <tr class="what"
            ><th scope="row">{c.label}</th><td class="num">{c.from}</td><td
              class="num">{c.to}</td
            >{#if weighed}<td class="num">{c.gain.toFixed(2)}</td>{/if}</tr
          >
          <tr class="why"
            ><td colspan={weighed ? 4 : 3} class="reason small">{c.text}</td
            ></tr
          >
        {/each}
      </tbody>
    </table>
    <p>
      <Button size="small" onclick={s.adopt}>Put them on the sheet</Button>
    </p>
  {/if}
{/if}
{#if loaded.refined}
  <Checkbox
    labelText="Hear the target as it was before readings were set by hand or by ear"
    bind:checked={s.before}
  />
{/if}

<style>
  p {
    margin-bottom: 0.5rem;
  }
  .what th,
  .what td {
    border-bottom: 0;
  }
  .why td {
    border-bottom: 1px solid var(--rule);
    padding-top: 0;
  }
</style>
