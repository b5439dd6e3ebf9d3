<script lang="ts">
  import type { PatchState } from "../../lib/patch.svelte";
  import { stepTitle } from "../../lib/words";
  import ClockPointer from "../ClockPointer.svelte";

  /** The readings of a layer, with the field of the one that is being typed. */
  let { p, edit }: { p: PatchState; edit: () => void } = $props();
  const shown = $derived(p.shown);
  const chosen = $derived(p.chosen);
</script>

<table class="lines stack" role="grid" aria-label="Readings">
  <thead>
    <tr
      ><th>Step</th><th>Section</th><th>Control</th><th>Reading</th><th
        >Meaning</th
      ><th
        title="How well the value is known: 95 times of 100 it lies within this (expanded uncertainty, k = 2)"
        >Give or take</th
      ><th>Remark</th></tr
    >
  </thead>
  <tbody>
    {#each shown as l, i (l.control)}
      <tr
        id={`r-${l.control}`}
        {@attach p.rows.at(l.control)}
        class="open"
        tabindex={l.control === chosen?.control ? 0 : -1}
        aria-selected={l.control === chosen?.control}
        onclick={() => {
          if (l.control !== chosen?.control) p.close();
          if (!p.editing) void p.choose(l);
        }}
        ondblclick={() => edit()}
      >
        <td class="small soft step"
          >{shown[i - 1]?.step !== l.step ? stepTitle(l.step) : ""}</td
        >
        <td class="section"
          >{shown[i - 1]?.section !== l.section ? l.section : ""}</td
        >
        <td class="control">{l.label}</td>
        {#if p.editing && l.control === chosen?.control}
          <td colspan="4" class="wide">
            <form
              class="type"
              onsubmit={(e) => {
                e.preventDefault();
                void p.set(l, p.typed);
              }}
            >
              <input
                id="typed"
                class="num"
                aria-label={`${l.section} ${l.label}`}
                aria-invalid={!!p.wrong}
                aria-describedby="typed-says"
                list={l.entries.length ? "entries" : undefined}
                autocomplete="off"
                spellcheck="false"
                bind:this={p.field}
                bind:value={p.typed}
                oninput={p.tryOut}
                onkeydown={(e) => {
                  if (e.key !== "Escape") return;
                  e.stopPropagation();
                  p.close();
                  void p.choose(l);
                }}
              />
              {#if l.entries.length}
                <datalist id="entries"
                  >{#each l.entries as x (x)}<option value={x}
                    ></option>{/each}</datalist
                >
              {/if}
              <span id="typed-says" class="small" aria-live="polite">
                {#if p.wrong}<span class="red">{p.wrong}</span>
                {:else if p.preview}{#if p.preview.near}<span
                      >about <span class="num">{p.preview.near}</span>:</span
                    >{:else if p.preview.reading !== p.typed.trim()}<span
                      >taken for <span class="num">{p.preview.reading}</span
                      >:</span
                    >{/if}
                  <span class="num"
                    >{p.preview.meaning || "–"} {p.preview.tol}</span
                  > <span class="reason">{p.preview.idle}</span>
                {:else}<span class="soft">{l.expects}; ~ for by eye</span>{/if}
              </span>
            </form>
          </td>
        {:else}
          <td class="num reading" class:soft={l.atInit}
            ><ClockPointer reading={l.reading} /> {l.reading}</td
          >
          <td class="num meaning">{l.meaning || "–"}</td>
          <td class="num soft tol">{l.tol}</td>
          <td class="reason small"
            >{l.taste ? "to taste" : ""}{l.taste && l.idle
              ? "; "
              : ""}{l.idle}</td
          >
        {/if}
      </tr>
    {:else}
      <tr
        ><td colspan="7"
          >Everything stands at init. <button
            class="linkish"
            onclick={() => (p.all = true)}>Show all readings</button
          ></td
        ></tr
      >
    {/each}
  </tbody>
</table>

<style>
  .type {
    display: flex;
    flex-wrap: wrap;
    gap: 0 0.75rem;
    align-items: baseline;
  }
  .type input {
    font-size: 0.875rem;
    width: 11rem;
    padding: 0.0625rem 0.375rem;
    color: var(--ink);
    background: var(--sheet);
    border: 0;
    border-bottom: 2px solid var(--ink);
  }
  .type input[aria-invalid="true"] {
    border-bottom-color: var(--rubric);
  }
  tr {
    scroll-margin: 4rem 0 2rem;
  }
  @media (max-width: 760px) {
    tbody tr {
      display: grid !important;
      grid-template-columns: 1fr auto;
    }
    tr[aria-selected="true"] {
      background: var(--chosen);
    }
    .step,
    .section {
      grid-column: 1 / -1;
      font-size: 0.75rem;
      color: var(--ink-3);
    }
    .step {
      color: var(--rubric);
      font-weight: 600;
    }
    .reading {
      font-size: 1.125rem;
      text-align: right;
    }
    .meaning,
    .tol {
      font-size: 0.8125rem;
      color: var(--ink-3);
    }
    .wide {
      grid-column: 1 / -1;
    }
  }
</style>
