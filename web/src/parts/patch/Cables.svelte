<script lang="ts">
  import { Button } from "carbon-components-svelte";
  import type { PatchState } from "../../lib/patch.svelte";
  import type { PatchView } from "../../lib/types";

  /** The cables of a layer; plugging and unplugging. */
  let { p, view }: { p: PatchState; view: PatchView } = $props();
  const cables = $derived(p.cables);
  let from = $state("");
  let to = $state("");
  let first = $state<HTMLSelectElement | undefined>();
  $effect(() => {
    if (p.drawer === "cables") first?.focus();
  });
  async function plug() {
    if (!from || !to) return;
    if (await p.plug(from, to)) [from, to] = ["", ""];
    first?.focus();
  }
</script>

<h2 class="sub">Cables</h2>
{#if cables.length > 0}
  <ul class="cables">
    {#each cables as c (c.to)}<li>
        <span class="num">{p.pointName(c.from)}</span>
        <span class="soft">into</span>
        <span class="num">{p.pointName(c.to)}</span>
        <button
          class="linkish small"
          aria-label={`take out the cable into ${p.pointName(c.to)}`}
          onclick={() => p.unplug(c)}>take out</button
        >
      </li>{/each}
  </ul>
{/if}
{#if p.drawer === "cables"}
  <form
    class="fields beside"
    onsubmit={(e) => {
      e.preventDefault();
      void plug();
    }}
  >
    <label
      >From
      <select id="cable-from" bind:this={first} bind:value={from}>
        <option value=""></option>
        {#each view.points.filter((x) => x.dir === "out") as x (x.id)}<option
            value={x.id}>{x.label}</option
          >{/each}
      </select></label
    >
    <label
      >into
      <select bind:value={to}>
        <option value=""></option>
        {#each view.points.filter((x) => x.dir === "in") as x (x.id)}<option
            value={x.id}
            >{x.label}{cables.some((c) => c.to === x.id)
              ? " (in place of its cable)"
              : ""}</option
          >{/each}
      </select></label
    >
    <Button size="small" kind="tertiary" type="submit" disabled={!from || !to}
      >Plug</Button
    >
    <span class="small soft"
      >Turn the volume down before plugging: a cable can jump in level.</span
    >
  </form>
{:else}
  <p>
    {#if cables.length === 0}<span class="soft"
        >None: every normal is as the panel has it.</span
      >{/if}
    <button class="linkish" onclick={() => p.show("cables")}
      >Plug a cable</button
    >
  </p>
{/if}

<style>
  .cables {
    list-style: none;
    margin: 0.25rem 0;
    padding: 0;
  }
  .cables li {
    padding: 0.125rem 0;
  }
  .sub {
    margin: 1.25rem 0 0.25rem;
  }
</style>
