<script lang="ts">
  import { Button, Select, SelectItem } from "carbon-components-svelte";
  import { app, plain, typing } from "../lib/app.svelte";
  import { ask } from "../lib/api";
  import type { Player, Side } from "../lib/player.svelte";
  import type { TrialRow, Trials } from "../lib/types";

  let {
    id,
    player,
    trials,
    sounds,
    ready,
    running = $bindable(),
  }: {
    id: number;
    player: Player;
    trials: TrialRow[];
    sounds: string;
    ready: () => Promise<void>;
    running: boolean;
  } = $props();

  let rounds = $state("16");
  let round = $state(0);
  let right = $state(0);
  let x: Side = "source";
  let hears = $state<"A" | "B" | "X">("X");
  let kept = $state<TrialRow[] | null>(null);
  let last = $state("");
  const list = $derived(kept ?? trials);

  function draw() {
    const b = new Uint8Array(1);
    crypto.getRandomValues(b);
    x = ((b[0] ?? 0) & 1) === 1 ? "target" : "source";
  }
  export async function begin() {
    running = true;
    round = 1;
    right = 0;
    last = "";
    draw();
    await ready();
    hear("X");
    if (!player.playing) player.start();
  }
  function hear(which: "A" | "B" | "X") {
    hears = which;
    player.turn(which === "A" ? "source" : which === "B" ? "target" : x);
  }
  async function answer(which: "A" | "B") {
    if ((which === "A") === (x === "source")) right++;
    if (round < Number(rounds)) {
      round++;
      draw();
      hear("X");
      return;
    }
    player.stop();
    running = false;
    try {
      const t = await ask<Trials>("POST", `/sheets/${id}/trials`, {
        right,
        of: Number(rounds),
        sounds,
      });
      kept = t.trials;
      app.pending = t.pending;
      const p = t.trials[0]?.p ?? 1;
      last = `${right} of ${rounds} right. Guessing does as well ${(100 * p).toFixed(p < 0.1 ? 1 : 0)} times in 100${p < 0.05 ? ": you hear a difference" : ": that does not show that you hear a difference"}.`;
    } catch (e) {
      app.fail(e);
    }
  }
  function leave() {
    player.stop();
    running = false;
    last = "";
  }
  function keydown(e: KeyboardEvent) {
    if (!running || typing(e) || !plain(e) || app.help) return;
    if (e.key === "a") hear("A");
    else if (e.key === "b") hear("B");
    else if (e.key === "x") hear("X");
    else if (e.key === "ArrowLeft") void answer("A");
    else if (e.key === "ArrowRight") void answer("B");
    else if (e.key === "Escape") leave();
    else return;
    e.preventDefault();
    e.stopPropagation();
  }
</script>

<svelte:window onkeydowncapture={keydown} />

<section class="blind" aria-labelledby="blind-title">
  <h2 id="blind-title">Blind test</h2>
  {#if running}
    <p>
      Round <b class="num">{round}</b> of <b class="num">{rounds}</b>. X is A or
      B, drawn anew each round. Which?
    </p>
    <div class="bar">
      {#each ["A", "B", "X"] as const as w (w)}
        <button class="hear" aria-pressed={hears === w} onclick={() => hear(w)}
          >Hear {w} <kbd>{w.toLowerCase()}</kbd></button
        >
      {/each}
    </div>
    <div class="bar acts">
      <Button size="small" on:click={() => void answer("A")}
        >X is A&ensp;<kbd>←</kbd></Button
      >
      <Button size="small" on:click={() => void answer("B")}
        >X is B&ensp;<kbd>→</kbd></Button
      >
      <button class="linkish" onclick={leave}>leave the test</button>
    </div>
    <p class="small soft">
      A is the source and B the target, equally loud, at the same place in the
      phrase. Nothing is kept until the last round.
    </p>
  {:else}
    <div class="begin">
      <Select size="sm" inline labelText="Rounds" bind:selected={rounds}>
        {#each ["8", "10", "16", "24"] as n (n)}<SelectItem
            value={n}
            text={n}
          />{/each}
      </Select>
      <Button size="small" kind="tertiary" on:click={() => void begin()}
        >Begin a blind test&ensp;<kbd>b</kbd></Button
      >
    </div>
    {#if last}<p role="status"><b>{last}</b></p>{/if}
    {#if list.length > 0}
      <table>
        <thead
          ><tr
            ><th scope="col">When</th><th scope="col">Right</th><th scope="col"
              >By guessing</th
            ><th scope="col">Of</th></tr
          ></thead
        >
        <tbody>
          {#each list.slice(0, 6) as t, i (i)}
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
