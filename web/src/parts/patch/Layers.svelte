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

<section class="beside" aria-label="Layers">
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
