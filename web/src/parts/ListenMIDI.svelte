<script lang="ts">
  import { onDestroy } from "svelte";
  import { app } from "../lib/app.svelte";
  import { Ear, Instrument } from "../lib/midi.svelte";
  import type { Found, Taken } from "../lib/types";

  /** Listens to an instrument by MIDI: what is moved on it is taken, a dump is shown first. */
  let {
    panel,
    hint,
    hear,
    moved,
    many,
    close,
  }: {
    panel: string;
    /** What to do. */
    hint: string;
    /** What the bytes mean. */
    hear: (before: number[], now: number[]) => Promise<Found>;
    /** One control was moved; what to say of it. */
    moved: (t: Taken) => Promise<string> | string;
    /** Many came at once. */
    many?: (f: Found) => void;
    close: () => void;
  } = $props();
  // svelte-ignore state_referenced_locally
  const i = new Instrument(panel);
  let says = $state("");
  const ear = new Ear(async (before, now) => {
    const f = await app.attempt(() => hear(before, now));
    if (!f) return;
    if (many && f.taken.length > 3) {
      many(f);
      says = "";
    } else if (f.taken.length === 0) says = f.other[0] ?? "";
    else for (const t of f.taken) says = await moved(t);
  });
  i.listen(ear.hears);
  void i.open(true);
  onDestroy(() => {
    ear.close();
    i.close();
  });
</script>

<section class="bar listening" aria-label="Listening by MIDI">
  {#if i.why || i.ins.length === 0}<span class="red small"
      >{i.why ||
        "Nothing comes in: no MIDI input is connected to this computer."}</span
    >{:else}
    <label class="small"
      >Listening to <select
        value={i.in}
        onchange={(e) => i.from(e.currentTarget.value)}
        >{#each i.ins as p (p.id)}<option value={p.id}>{p.name}</option
          >{/each}</select
      ></label
    >
    <span class="small" role="status">{says || hint}</span>
  {/if}
  <button class="linkish end" onclick={close}>Stop</button>
</section>

<style>
  .listening {
    border-left: 3px solid var(--rubric);
    background: var(--sheet);
    padding: 0.375rem 0.75rem;
    margin: 0.375rem 0;
    gap: 0.5rem 1rem;
    flex-wrap: wrap;
  }
</style>
