<script lang="ts">
  import type { PatchState } from "../../lib/patch.svelte";
  import type { LayerView, PatchView } from "../../lib/types";

  /** Name, transposition and level of a layer; adding and deleting layers. */
  let {
    p,
    view,
    onLayer,
  }: { p: PatchState; view: PatchView; onLayer: LayerView } = $props();
</script>

<section class="drawer" aria-label="Layers">
  <div class="fields">
    {#each [["label", "Name of the layer", ""], ["transpose", "Transposition", "-12 st"], ["level", "Level", "-3 dB"]] as const as [field, label, hint] (field)}
      <label
        >{label}
        <input
          id={`layer-${field}`}
          {@attach (el) => {
            if (field === "label") el.focus();
          }}
          class:num={field !== "label"}
          value={onLayer[field]}
          placeholder={hint}
          onchange={(e) => p.setLayer(field, e.currentTarget.value)}
        /></label
      >
    {/each}
    <button class="linkish" onclick={() => p.addLayer(p.layer)}
      >Add one like this</button
    >
    <button class="linkish" onclick={() => p.addLayer("")}
      >Add one at init</button
    >
    {#if view.layers.length > 1}<button
        class="linkish"
        onclick={() => p.removeLayer(onLayer)}
        >Delete {p.layerName(onLayer)}</button
      >{/if}
  </div>
</section>

<style>
  .drawer {
    margin: 0.5rem 0 1rem;
    padding: 0.5rem 1rem 0.75rem;
    background: var(--sheet);
    border: 1px solid var(--rule);
    border-left: 3px solid var(--ink-3);
  }
  .fields {
    display: flex;
    flex-wrap: wrap;
    align-items: end;
    gap: 0.5rem 1rem;
  }
  .fields label {
    font-size: 0.75rem;
    color: var(--ink-2);
  }
  .fields input {
    display: block;
    font-size: 0.8125rem;
    font-family: var(--sans);
    padding: 0.25rem 0.375rem;
    min-width: 9rem;
    color: var(--ink);
    background: var(--paper);
    border: 0;
    border-bottom: 1px solid var(--ink-3);
  }
  .fields input.num {
    font-family: var(--mono);
  }
  .fields ::placeholder {
    color: var(--ink-3);
    opacity: 1;
    font-style: italic;
  }
</style>
