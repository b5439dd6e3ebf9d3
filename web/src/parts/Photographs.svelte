<script lang="ts">
  import { exportURL } from "../lib/api";
  import type { Pictures } from "../lib/photographs.svelte";

  /** Photographs of a panel: beside the readings while they are typed. */
  let { s }: { s: Pictures } = $props();
  const list = $derived(s.view?.photographs ?? []);
  const shown = $derived(list.find((p) => p.id === s.large) ?? list.at(-1));
</script>

<section
  class="photographs"
  aria-label="Photographs"
  ondragover={(e) => e.preventDefault()}
  ondrop={(e) => {
    e.preventDefault();
    e.stopPropagation(); // it is not a file to be imported
    void s.add(e.dataTransfer?.files);
  }}
  role="group"
>
  <div class="bar">
    <h2>Photographs</h2>
    <label class="small"
      >Add <input
        type="file"
        accept="image/jpeg,image/png"
        multiple
        onchange={(e) => {
          void s.add(e.currentTarget.files);
          e.currentTarget.value = "";
        }}
      /></label
    >
    <span class="small soft" role="status"
      >{s.working
        ? "Taking it over ..."
        : "JPEG or PNG, or drop them here. Place and owner are not kept."}</span
    >
  </div>
  {#if shown}
    <figure>
      <img
        src={exportURL(`/photographs/${shown.id}`)}
        alt={shown.caption || "The panel as it stood"}
        width={shown.width}
        height={shown.height}
      />
      <figcaption class="bar">
        {#key shown.id}<input
            aria-label="Under the photograph"
            placeholder="which part of the panel, of when"
            maxlength="300"
            value={shown.caption}
            onchange={(e) => void s.caption(shown.id, e.currentTarget.value)}
          />{/key}
        <button class="linkish" onclick={() => void s.drop(shown.id)}
          >Take it away</button
        >
      </figcaption>
    </figure>
    {#if list.length > 1}
      <ul>
        {#each list as p, i (p.id)}
          <li>
            <button
              aria-current={p.id === shown.id ? "true" : undefined}
              aria-label={p.caption || `Photograph ${i + 1}`}
              onclick={() => (s.large = p.id)}
              ><img
                src={exportURL(`/photographs/${p.id}`)}
                alt=""
                loading="lazy"
              /></button
            >
          </li>
        {/each}
      </ul>
    {/if}
  {/if}
</section>

<style>
  .photographs {
    margin: 0.5rem 0;
  }
  h2 {
    font-size: 0.8125rem;
    margin: 0;
  }
  figure {
    margin: 0.5rem 0 0;
  }
  figure img {
    display: block;
    max-width: 100%;
    max-height: 60vh;
    width: auto;
    height: auto;
    object-fit: contain;
    background: var(--sheet);
  }
  figcaption input {
    flex: 1 1 12rem;
    min-width: 0;
    font: inherit;
    color: var(--ink);
    background: var(--paper);
    border: 0;
    border-bottom: 1px solid var(--ink-3);
    padding: 0.25rem 0.375rem;
  }
  ul {
    display: flex;
    flex-wrap: wrap;
    gap: 0.375rem;
    list-style: none;
    padding: 0;
    margin: 0.5rem 0 0;
  }
  li button {
    padding: 0;
    border: 2px solid transparent;
    background: none;
    cursor: pointer;
  }
  li button[aria-current] {
    border-color: var(--rubric);
  }
  li img {
    display: block;
    width: 5.5rem;
    height: 4rem;
    object-fit: cover;
  }
</style>
