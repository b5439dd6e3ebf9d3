<script lang="ts">
  import type { SheetState } from "../../lib/sheet.svelte";
  import type { Sheet } from "../../lib/types";
  import { stepTitle } from "../../lib/words";
  import Readings from "../Readings.svelte";
  import Verdict from "../Verdict.svelte";

  /** The lines of a sheet. */
  let { s, sheet, edit }: { s: SheetState; sheet: Sheet; edit: () => void } =
    $props();
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
        <th>k = 2</th>
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
            <span
              class="section"
              class:again={lines[i - 1]?.section === g.section &&
                lines[i - 1]?.step === g.step}>{g.section}</span
            >
            <span>{g.label}</span>
          </td>
          <td><Readings readings={g.source} /></td>
          <td class="num" class:long={(g.wanted?.text.length ?? 0) > 16}
            >{g.wanted?.text ?? "–"}</td
          >
          <td class="num soft">{g.wanted?.tol ?? ""}</td>
          <td><Readings readings={g.target} /></td>
          <td class="num" class:long={(g.reached?.text.length ?? 0) > 16}
            >{g.reached?.text ?? "–"}</td
          >
          <td class="verdict"
            ><Verdict verdict={g.verdict} />{#if g.open}<span
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
</div>

<style>
  .scroll {
    overflow: auto;
    padding-left: 0.75rem;
  }
  .panel {
    display: block;
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
  .section {
    display: inline-block;
    width: 7.75rem;
    margin-right: 0.375rem;
    color: var(--ink-3);
    font-size: 0.75rem;
    vertical-align: baseline;
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
    .section {
      width: auto;
    }
    .again {
      display: none;
    }
  }
</style>
