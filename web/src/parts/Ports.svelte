<script lang="ts">
  import type { Instrument } from "../lib/midi.svelte";

  /** Where MIDI goes and comes from: ports, channel, or a stand-in for who has no instrument. */
  let { i, receives = false }: { i: Instrument; receives?: boolean } = $props();
</script>

<label class="small"
  >{receives ? "To and from" : "To"}
  <select value={i.out} onchange={(e) => i.choose(e.currentTarget.value)}>
    {#if !i.out}<option value="">choose</option>{/if}
    {#each i.outs as p (p.id)}<option value={p.id}>{p.name}</option>{/each}
  </select></label
>
{#if i.standIn}
  <label class="small"
    >unit <input
      type="number"
      min="1"
      max="9999"
      class="num"
      value={i.unit}
      onchange={(e) => i.setUnit(Number(e.currentTarget.value) || 1)}
    /></label
  >
{:else if i.out}
  <label class="small"
    >channel <input
      type="number"
      min="1"
      max="16"
      class="num"
      value={i.channel}
      onchange={(e) => i.setChannel(Number(e.currentTarget.value) || 1)}
    /></label
  >
  {#if receives && i.ins.length > 1}
    <label class="small"
      >from <select value={i.in} onchange={(e) => i.from(e.currentTarget.value)}
        >{#each i.ins as p (p.id)}<option value={p.id}>{p.name}</option
          >{/each}</select
      ></label
    >
  {:else if receives && i.ins.length === 0}<span class="small soft"
      >nothing comes from it: no MIDI input is connected</span
    >{/if}
{/if}

<style>
  input {
    font: inherit;
    width: 4rem;
    color: var(--ink);
    background: var(--paper);
    border: 0;
    border-bottom: 1px solid var(--ink-3);
  }
</style>
