<script lang="ts">
  import { Button } from "carbon-components-svelte";
  import { onMount } from "svelte";
  import type { PatchState } from "../../lib/patch.svelte";

  /** Kept versions of a patch: what has changed since each, and the way back. */
  let { p }: { p: PatchState } = $props();
  const list = $derived(p.versions);
  let note = $state("");
  let open = $state(0);
  let field: HTMLInputElement;

  // svelte-ignore state_referenced_locally
  p.readVersions();
  onMount(() => field.focus());
  async function keep() {
    await p.keepVersion(note);
    note = "";
  }
  const when = (at: string) =>
    new Date(at).toLocaleString("en-GB", {
      dateStyle: "medium",
      timeStyle: "short",
    });
</script>

<section class="beside" aria-label="Versions">
  <form
    class="bar"
    onsubmit={(e) => {
      e.preventDefault();
      void keep();
    }}
  >
    <label for="version-note">Keep the patch as it stands, with a note</label>
    <input
      id="version-note"
      bind:this={field}
      autocomplete="off"
      bind:value={note}
    />
    <Button size="small" kind="tertiary" type="submit">Keep it</Button>
  </form>
  {#if list && list.versions.length > 0}
    <table class="lines">
      <thead
        ><tr
          ><th>Version</th><th>Kept</th><th>Note</th><th>Since then</th><th
            ><span class="visually-hidden">Act</span></th
          ></tr
        ></thead
      >
      <tbody>
        {#each list.versions as v (v.number)}
          <tr>
            <td class="num">{v.number}</td>
            <td class="small">{when(v.at)}</td>
            <td class="reason">{v.note}</td>
            <td>
              {#if v.since.length === 0}<span class="soft"
                  >nothing has changed</span
                >{:else}
                <button
                  class="linkish"
                  aria-expanded={open === v.number}
                  onclick={() => (open = open === v.number ? 0 : v.number)}
                  >{v.since.length === 1
                    ? "1 difference"
                    : `${v.since.length} differences`}</button
                >
                {#if open === v.number}
                  <dl class="small">
                    {#each v.since as d, i (i)}
                      <dt>{d.where}</dt>
                      <dd class="num">{d.was || "–"} → {d.is || "–"}</dd>
                    {/each}
                  </dl>
                {/if}
              {/if}
            </td>
            <td
              >{#if v.since.length > 0}<button
                  class="linkish"
                  onclick={() => p.restoreVersion(v.number)}
                  >Go back to it</button
                >{/if}</td
            >
          </tr>
        {/each}
      </tbody>
    </table>
  {:else if list}<p class="soft small">No version is kept yet.</p>{/if}
</section>

<style>
  section {
    max-height: 22rem;
    overflow: auto;
  }
  label {
    font-size: 0.8125rem;
  }
  input {
    flex: 1;
    font: inherit;
    padding: 0.25rem 0.375rem;
    color: var(--ink);
    background: var(--paper);
    border: 0;
    border-bottom: 1px solid var(--ink-3);
  }
  dl {
    display: grid;
    grid-template-columns: auto 1fr;
    gap: 0 0.75rem;
    margin: 0.25rem 0;
  }
  dd {
    margin: 0;
  }
</style>
