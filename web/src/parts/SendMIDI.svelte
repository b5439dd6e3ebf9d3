<script lang="ts">
  import { Button } from "carbon-components-svelte";
  import { onDestroy } from "svelte";
  import { app } from "../lib/app.svelte";
  import { Output } from "../lib/midi.svelte";
  import type { Sending } from "../lib/types";

  /** The settings of a sheet sent to the instrument: first shown, then sent in the order of work, each ticked as it goes. */
  let {
    ask,
    ticks,
    sent,
    close,
    file,
  }: {
    /** What can be sent, on a channel. */
    ask: (channel: number) => Promise<Sending>;
    ticks: Set<string>;
    sent: (key: string) => void;
    close: () => void;
    /** Where the same is a file. */
    file: string;
  } = $props();
  const out = new Output();
  let all = $state.raw<Sending | null>(null);
  let channel = $state(1);
  let running = $state(false);
  let done = $state(0);
  let wrong = $state("");
  const rest = $derived(
    (all?.lines ?? []).flatMap((l) => l.keys).filter((k) => !ticks.has(k))
      .length,
  );
  const whole = $derived((all?.lines ?? []).flatMap((l) => l.keys).length);
  const loud = $derived((all?.lines ?? []).filter((l) => l.caution));
  $effect(() => {
    const c = channel;
    void app.attempt(async () => {
      if (c >= 1 && c <= 16) all = await ask(c);
    });
  });
  // a dump is system exclusive, which the browser asks for by itself
  let asked = false;
  $effect(() => {
    if (!all || asked) return;
    asked = true;
    void out.open(all.lines.some((l) => l.bytes[0] === 0xf0));
  });
  onDestroy(() => {
    running = false;
    out.close();
  });
  async function go() {
    if (running || !all) {
      running = false;
      return;
    }
    running = true;
    done = 0;
    wrong = "";
    for (const l of all.lines) {
      if (!running) break;
      if (l.keys.every((k) => ticks.has(k))) continue;
      if (!(await out.send(l.bytes))) {
        wrong = `The port has gone before ${l.section} ${l.label}: what was sent is ticked, the rest is not. Plug it in and send again.`;
        break;
      }
      done += l.keys.length;
      l.keys.forEach(sent);
    }
    running = false;
  }
</script>

<section class="send" aria-label="Send by MIDI">
  <p>
    <strong>Turn the volume down first.</strong>
    {#if all}{rest === whole
        ? `${rest} settings can be sent`
        : `${rest} of ${whole} settings are still to be sent`}, in the order of
      this list, to what is on the instrument now; nothing is stored in it.
      {#if all.left.length > 0}{all.left.length === 1
          ? "One stays"
          : `${all.left.length} stay`} for the hands.{/if}{/if}
  </p>
  {#if loud.length > 0}<p class="small red">
      Mind these: {loud
        .map((l) => `${l.section} ${l.label} ${l.reading} (${l.caution})`)
        .join("; ")}.
    </p>{/if}
  <div class="bar">
    {#if out.why}<span class="red small">{out.why}</span>{:else}
      <label class="small"
        >To <select bind:value={out.port}
          >{#each out.ports as p (p.id)}<option value={p.id}>{p.name}</option
            >{/each}</select
        ></label
      >
      <label class="small"
        >channel <input
          type="number"
          min="1"
          max="16"
          class="num"
          bind:value={channel}
        /></label
      >
      <Button
        size="small"
        disabled={!running && (!out.port || !rest)}
        onclick={() => void go()}
        >{running ? "Stop" : "Send what is not ticked"}</Button
      >
    {/if}
    {#if all && all.lines.length > 0}
      <a download href={file}>As a MIDI file</a>
    {/if}
    <button class="linkish" onclick={close}>Close</button>
    <span class="small" role="status"
      >{#if wrong}<span class="red">{wrong}</span>{:else if done > 0}{done} sent{/if}</span
    >
  </div>
  {#if all && all.left.length > 0}
    <details>
      <summary class="small">What stays for the hands</summary>
      <ul class="small">
        {#each all.left as l (l.label)}<li>
            {l.label} <span class="num">{l.reading}</span>
            <span class="soft">{l.why}</span>
          </li>{/each}
      </ul>
    </details>
  {/if}
</section>

<style>
  .send {
    border-left: 3px solid var(--rubric);
    background: var(--sheet);
    padding: 0.5rem 0.75rem;
    margin: 0.5rem 0;
  }
  p {
    margin: 0 0 0.25rem;
  }
  .bar {
    gap: 0.5rem 1rem;
    align-items: center;
  }
  input {
    font: inherit;
    width: 3.5rem;
    color: var(--ink);
    background: var(--paper);
    border: 0;
    border-bottom: 1px solid var(--ink-3);
  }
  ul {
    margin: 0.25rem 0;
    padding-left: 1rem;
  }
</style>
