<script lang="ts">
  import { Button, Select, SelectItem } from "carbon-components-svelte";
  import type { BlindState } from "../../lib/blind.svelte";
  import type { ListenState } from "../../lib/listen.svelte";
  import type { TrialRow } from "../../lib/types";

  /** A blind test of the two sounds, and what came of the tests before. */
  let {
    s,
    test,
    kept,
  }: { s: ListenState; test: BlindState; kept: TrialRow[] } = $props();
</script>

<section class="blind" aria-labelledby="blind-title">
  <h2 id="blind-title">Blind test</h2>
  {#if s.blind}
    <p>
      Round <b class="num">{test.round}</b> of <b class="num">{test.rounds}</b>.
      X is A or B, drawn anew each round. Which?
    </p>
    <div class="bar">
      {#each ["A", "B", "X"] as const as w (w)}
        <button
          class="hear"
          aria-pressed={test.hears === w}
          onclick={() => test.hear(w)}
          >Hear {w} <kbd>{w.toLowerCase()}</kbd></button
        >
      {/each}
    </div>
    <div class="bar acts">
      <Button size="small" onclick={() => void test.answer("A")}
        >X is A&ensp;<kbd>←</kbd></Button
      >
      <Button size="small" onclick={() => void test.answer("B")}
        >X is B&ensp;<kbd>→</kbd></Button
      >
      <button class="linkish" onclick={test.leave}>leave the test</button>
    </div>
    <p class="small soft">
      A is the source and B the target, equally loud, at the same place in the
      phrase. Nothing is kept until the last round.
    </p>
  {:else}
    <div class="begin">
      <Select size="sm" inline labelText="Rounds" bind:selected={test.rounds}>
        {#each ["8", "10", "16", "24"] as n (n)}<SelectItem
            value={n}
            text={n}
          />{/each}
      </Select>
      <Button size="small" kind="tertiary" onclick={test.begin}
        >Begin a blind test&ensp;<kbd>b</kbd></Button
      >
    </div>
    {#if test.last}<p role="status"><b>{test.last}</b></p>{/if}
    {#if kept.length > 0}
      <table>
        <thead
          ><tr
            ><th scope="col">When</th><th scope="col">Right</th><th scope="col"
              >By guessing</th
            ><th scope="col">Of</th></tr
          ></thead
        >
        <tbody>
          {#each kept.slice(0, 6) as t, i (i)}
            <tr
              ><td>{new Date(t.at).toLocaleString("en-GB")}</td><td class="num"
                >{t.right} of {t.of}</td
              ><td class="num">p = {t.p.toFixed(4)}</td><td class="soft"
                >{t.sounds}</td
              ></tr
            >
          {/each}
        </tbody>
      </table>
      <p class="small soft">
        p: how likely as many right answers are by guessing (binomial,
        one-sided).
      </p>
    {/if}
  {/if}
</section>

<style>
  .blind {
    border-top: 1px solid var(--rule);
    margin-top: 0.5rem;
    padding-top: 0.25rem;
  }
  .begin {
    display: flex;
    gap: 1rem;
    align-items: center;
  }
  .begin :global(.bx--form-item) {
    flex: 0 0 auto;
  }
  .hear {
    font: inherit;
    font-size: 1.125rem;
    color: inherit;
    background: var(--sheet);
    border: 1px solid var(--ink-3);
    padding: 0.625rem 1.5rem;
    cursor: pointer;
  }
  .hear[aria-pressed="true"] {
    background: var(--chosen);
    font-weight: 600;
  }
  .acts {
    margin-top: 0.75rem;
    gap: 0.75rem;
  }
  table {
    border-collapse: collapse;
    font-size: 0.8125rem;
  }
  th {
    text-align: left;
    font-size: 0.75rem;
    color: var(--ink-2);
  }
  td,
  th {
    padding: 0.125rem 1rem 0.125rem 0;
  }
</style>
