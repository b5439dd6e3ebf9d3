<script lang="ts">
  import type { PatchState } from "../../lib/patch.svelte";
  import type { PatchView } from "../../lib/types";

  /** Variants of the sound: what is set otherwise in each, said in a line. */
  let { p, view }: { p: PatchState; view: PatchView } = $props();
  let line = $state("");
  let wrong = $state("");

  async function add() {
    wrong = await p.flavourLine(line);
    if (!wrong) line = "";
  }
</script>

<section aria-label="Flavours">
  <h2 class="sub">Flavours</h2>
  {#each view.flavours as f (f.name)}
    <div class="flavour">
      <button
        class="linkish name"
        aria-pressed={p.flavour === f.name}
        onclick={() => (p.flavour = p.flavour === f.name ? "" : f.name)}
        title="hear this flavour while the line plays">{f.name}</button
      >
      <span class="sets">
        {#each f.sets as x, i (`${x.layer}.${x.control}`)}<span
            >{x.label}
            <span class="num"
              >{x.was} <span class="soft">to</span> {x.reading}</span
            >
            <button
              class="linkish small"
              aria-label={`Take out: ${f.name}, ${x.label}`}
              onclick={() => p.dropFlavour(f.name, i)}>×</button
            ></span
          >{/each}
      </span>
      <span class="acts small">
        <button class="linkish" onclick={() => p.ownPatch(f.name)}
          >as a patch of its own</button
        >
        <button
          class="linkish"
          aria-label={`Take out: ${f.name}`}
          onclick={() => p.dropFlavour(f.name)}>take out</button
        >
      </span>
    </div>
  {/each}
  <form
    class="bar"
    onsubmit={(e) => {
      e.preventDefault();
      void add();
    }}
  >
    <label for="flavour-line">A variant of the sound</label>
    <input
      id="flavour-line"
      bind:value={line}
      placeholder="darker: cutoff 45, resonance 20"
      autocomplete="off"
      spellcheck="false"
      aria-invalid={!!wrong}
      aria-describedby="flavour-says"
      onkeydown={(e) => {
        if (e.key !== "Escape") return;
        e.stopPropagation();
        e.currentTarget.blur();
      }}
    />
    <button class="linkish" type="submit" disabled={!line.trim()}>Add</button>
    <span id="flavour-says" class="small" role="status"
      >{#if wrong}<span class="red">{wrong}</span>{:else}<span class="soft"
          >its name, a colon, and what is set otherwise; sheets tell what
          differs on the target</span
        >{/if}</span
    >
  </form>
</section>

<style>
  .sub {
    margin: 1.25rem 0 0.25rem;
  }
  .flavour {
    display: grid;
    grid-template-columns: 12rem 1fr auto;
    gap: 0 1rem;
    align-items: baseline;
    padding: 0.1875rem 0;
    border-bottom: 1px solid var(--rule);
    font-size: 0.8125rem;
  }
  .name {
    justify-self: start;
    overflow-wrap: anywhere;
    text-align: left;
  }
  .name[aria-pressed="true"] {
    color: var(--rubric);
    font-weight: 600;
  }
  .sets {
    display: flex;
    flex-wrap: wrap;
    gap: 0 1.25rem;
  }
  .acts {
    display: flex;
    gap: 0.75rem;
  }
  form {
    gap: 0.25rem 0.75rem;
    align-items: baseline;
    margin-top: 0.375rem;
  }
  label {
    font-size: 0.75rem;
    color: var(--ink-2);
  }
  input {
    font: inherit;
    font-size: 0.875rem;
    width: 24rem;
    max-width: 100%;
    padding: 0.125rem 0.375rem;
    color: var(--ink);
    background: var(--paper);
    border: 0;
    border-bottom: 1px solid var(--ink-3);
  }
  @media (max-width: 760px) {
    .flavour {
      grid-template-columns: 1fr;
    }
  }
</style>
