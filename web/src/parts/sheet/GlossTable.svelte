<script lang="ts">
  import type { Snippet } from "svelte";
  import type { SheetState } from "../../lib/sheet.svelte";
  import type { MovedTo, Sheet } from "../../lib/types";
  import { stepTitle } from "../../lib/words";
  import Readings from "../Readings.svelte";
  import Verdict from "../Verdict.svelte";

  /** The lines of a sheet. */
  let {
    s,
    sheet,
    edit,
    about,
  }: {
    s: SheetState;
    sheet: Sheet;
    edit: () => void;
    /** All about the chosen line, to be shown under it; absent where it stands beside. */
    about?: Snippet;
  } = $props();
  const lines = $derived(s.lines);
</script>

<div class="scroll" role="region" aria-label="Lines of the sheet" tabindex="-1">
  <table class="lines" role="grid" aria-label="Glosses">
    <thead>
      <tr>
        <th>Control</th>
        <th
          ><span class="panel" title={sheet.source.name}
            >{sheet.source.name}</span
          ></th
        >
        <th>Meaning</th>
        <th
          title="How well the value is known: 95 times of 100 it lies within this (expanded uncertainty, k = 2)"
          >Give or take</th
        >
        <th
          ><span class="panel" title={sheet.target.name}
            >{sheet.target.name}</span
          ></th
        >
        <th>Reached</th>
        <th>Verdict</th>
        <th
          class="num"
          title="How much the difference of this line is heard alone, in just-noticeable differences"
          >Heard</th
        >
      </tr>
    </thead>
    <tbody>
      {#each lines as g, i (g.id)}
        {#if !s.byHeard && lines[i - 1]?.step !== g.step}
          <tr class="step"
            ><th colspan="8" scope="rowgroup">{stepTitle(g.step)}</th></tr
          >
        {/if}
        <tr
          id={`g-${g.id}`}
          {@attach s.rows.at(g.id)}
          class="open"
          class:dim={g.verdict === "idle"}
          tabindex={g.id === s.chosen?.id ? 0 : -1}
          aria-selected={g.id === s.chosen?.id}
          onclick={() => s.choose(g)}
          ondblclick={() => edit()}
        >
          <td class="label">
            <span class="names"
              ><span
                class="section"
                class:again={lines[i - 1]?.section === g.section &&
                  lines[i - 1]?.step === g.step}>{g.section}</span
              >
              <span>{g.label}</span></span
            >
          </td>
          <td class="from" data-of={sheet.source.name}
            ><Readings readings={g.source} /></td
          >
          <td class="num wanted" class:long={(g.wanted?.text.length ?? 0) > 16}
            >{g.wanted?.text ?? "–"}</td
          >
          <td class="num soft tol">{g.wanted?.tol ?? ""}</td>
          <td class="to" data-of={sheet.target.name}
            ><Readings readings={g.target} planned={s.planned} /></td
          >
          <td
            class="num reached"
            class:long={(g.reached?.text.length ?? 0) > 16}
            >{g.reached?.text ?? "–"}</td
          >
          <td class="verdict"
            ><Verdict verdict={g.verdict} />{#if g.taste}<span
                class="soft small">&ensp;to taste</span
              >{/if}{#if g.open}<span
                class="openmark"
                title="hangs on what is not known">?</span
              >{/if}</td
          >
          <td
            class="num heard"
            title={(s.alone.get(g.id)?.with ?? 0) > 0
              ? `together with ${s.alone.get(g.id)?.with} more lines of the same rule`
              : undefined}>{s.alone.get(g.id)?.apart.toFixed(1) ?? ""}</td
          >
        </tr>
        {#if about && g.id === s.chosen?.id}
          <tr class="about"><td colspan="8">{@render about()}</td></tr>
        {/if}
      {:else}
        <tr
          ><td colspan="8"
            >No line has this verdict. <button
              class="linkish"
              onclick={s.showAll}>Show all</button
            ></td
          ></tr
        >
      {/each}
    </tbody>
  </table>
  {#if sheet.moves?.length}
    <h2>While playing</h2>
    <table class="lines playing" aria-label="What is moved while it is played">
      <tbody>
        {#each sheet.moves as m (m.index)}
          <tr>
            <td>{m.when}</td>
            <td>{m.label}</td>
            <td class="num">{m.from} <span class="soft">to</span> {m.to}</td>
            <td
              >{#if m.target.length}{@render ends(m.target)}{:else}<span
                  class="soft"
                  >{m.verdict === "left out" ? "–" : "the same on both"}</span
                >{/if}</td
            >
            <td class="verdict"><Verdict verdict={m.verdict} /></td>
            <td class="reason small">{m.reason}</td>
          </tr>
        {/each}
      </tbody>
    </table>
  {/if}
  {#if sheet.flavours?.length}
    <h2>Flavours</h2>
    <table class="lines playing" aria-label="What differs in each flavour">
      <tbody>
        {#each sheet.flavours as f (f.name)}
          <tr>
            <td>{f.name}</td>
            <td>{@render ends(f.source)}</td>
            <td
              >{#each f.cables ?? [] as c (c)}{c};
              {/each}{#if f.target.length}{@render ends(f.target)}{:else}<span
                  class="soft"
                  >{f.verdict === "left out" ? "–" : "as it is"}</span
                >{/if}</td
            >
            <td class="verdict"><Verdict verdict={f.verdict} /></td>
            <td class="reason small">{f.reason}</td>
          </tr>
        {/each}
      </tbody>
    </table>
  {/if}
</div>

{#snippet ends(all: MovedTo[])}
  {#each all as t, i (t.control)}{i ? "; " : ""}{t.section}
    {t.label}
    <span class="num">{t.from} <span class="soft">to</span> {t.to}</span>{/each}
{/snippet}

<style>
  .scroll {
    overflow: auto;
    padding-left: 0.75rem;
  }
  h2 {
    margin: 1rem 0 0.25rem 0.5rem;
    font-size: 0.8125rem;
    color: var(--rubric);
  }
  .playing {
    margin-bottom: 1rem;
  }
  .panel {
    display: block;
    line-height: 1.25em;
    max-width: 8.5rem;
    overflow: hidden;
    text-overflow: ellipsis;
  }
  .scroll thead th {
    position: sticky;
    top: 0;
    background: var(--paper);
    z-index: 5;
  }
  .step th {
    padding-top: 0.75rem;
    font-size: 0.8125rem;
    color: var(--rubric);
    border-bottom-color: var(--rule);
  }
  .label {
    width: 31%;
  }
  td.num {
    white-space: nowrap;
  }
  .heard {
    min-width: 2.75rem;
    text-align: right;
  }
  td.num.long {
    white-space: normal;
  }
  .names {
    display: flex;
    align-items: baseline;
    gap: 0.375rem;
  }
  .section {
    flex: none;
    width: 7.75rem;
    color: var(--ink-3);
    font-size: 0.75rem;
  }
  .again {
    visibility: hidden;
  }
  .dim td {
    color: var(--ink-3);
  }
  .verdict {
    white-space: nowrap;
  }
  .openmark {
    color: var(--rubric);
    margin-left: 0.25rem;
  }
  @media (max-width: 1100px) {
    .names {
      flex-wrap: wrap;
    }
    .section {
      width: auto;
    }
    .again {
      display: none;
    }
  }
  /* On a phone each line is a card: what it is and its verdict, then both readings with what they mean. */
  @media (max-width: 640px) {
    .scroll {
      padding: 0 0.5rem;
      overflow: visible;
    }
    table,
    tbody {
      display: block;
    }
    thead {
      display: none;
    }
    .step {
      display: block;
    }
    .step th {
      display: block;
      border: 0;
    }
    tr.open {
      display: grid;
      grid-template-columns: 1fr 1fr auto;
      gap: 0.125rem 0.75rem;
      align-items: baseline;
      margin: 0.375rem 0;
      padding: 0.5rem 0.75rem;
      border: 1px solid var(--rule);
      background: var(--sheet);
    }
    tr.open[aria-selected="true"] {
      background: var(--chosen);
    }
    tr.open td {
      display: block;
      width: auto;
      padding: 0;
      border: 0;
      background: none;
      overflow-wrap: anywhere;
      white-space: normal;
    }
    .about,
    .about td {
      display: block;
      padding: 0;
      border: 0;
    }
    .about :global(aside) {
      border: 0;
      padding: 0.25rem 0.75rem 0.5rem;
    }
    td.label {
      grid-column: 1 / 3;
    }
    td.from,
    td.wanted {
      grid-column: 1;
    }
    td.to,
    td.reached {
      grid-column: 2 / 4;
    }
    td.from,
    td.to {
      grid-row: 2;
      font-size: 1.125rem;
    }
    td.wanted,
    td.reached {
      grid-row: 3;
    }
    td.verdict {
      grid-column: 3;
      grid-row: 1;
    }
    td.tol,
    td.heard {
      display: none !important;
    }
    td[data-of]::before {
      content: attr(data-of) " ";
      display: block;
      font-family: "IBM Plex Sans", sans-serif;
      font-size: 0.75rem;
      color: var(--ink-3);
    }
  }
</style>
