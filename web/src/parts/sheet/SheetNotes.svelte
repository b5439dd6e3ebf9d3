<script lang="ts">
  import type { SheetState } from "../../lib/sheet.svelte";
  import type { SheetView } from "../../lib/types";

  /** What is to be known of the sheet as a whole, with what can be done about it. */
  let { s, view }: { s: SheetState; view: SheetView } = $props();
  const sheet = $derived(view.sheet);
  const failing = $derived(sheet.audit.filter((c) => !c.ok));
  const school = $derived(s.school);
  const any = $derived(
    sheet.notes.length > 0 ||
      sheet.ears ||
      view.newer ||
      failing.length > 0 ||
      sheet.school !== "numbers" ||
      view.outboard.length > 0 ||
      sheet.rig ||
      view.first ||
      view.second ||
      view.missing.length > 0,
  );
</script>

{#if any}
  <div class="notes small">
    {#each failing as c (c.id)}<span class="red">{c.id} fails: {c.detail}</span
      >{/each}
    {#each sheet.notes as n, i (i)}<span>{n}</span>{/each}
    {#if view.first}
      <span><a href={`/sheets/${view.first}`}>The first layer’s sheet</a></span>
    {:else if view.second}
      <span
        ><a href={`/sheets/${view.second}`}>The second layer’s sheet</a></span
      >
    {:else if view.missing.length > 0}
      <span
        ><button class="linkish" onclick={() => void s.secondLayer()}
          >Make a second layer of {sheet.target.name} for {view.missing.join(
            ", ",
          )}</button
        ></span
      >
    {/if}
    {#if sheet.rig}
      <span
        >Outside, {sheet.rig.rack.name} plays {sheet.rig.parts.join(", ")}.
        <button class="linkish" onclick={() => void s.decide({ rack: "" })}
          >Do without it</button
        ></span
      >
    {/if}
    {#each view.outboard as o (o.rack.id)}
      <span
        >Outside, {o.rack.name} could play {o.parts.join(", ")}.
        <button
          class="linkish"
          onclick={() => void s.decide({ rack: o.rack.id })}
          >Put it behind {sheet.target.name}</button
        ></span
      >
    {/each}
    {#if sheet.ears}<span
        >The lines are judged by the ears of {sheet.ears}, as
        <a href="/ear">ear practice</a> has found them.
      </span>{/if}
    {#if school && sheet.school !== "numbers"}
      <details class="against">
        <summary
          >{school.label}: {school.says}. {view.against.length === 0
            ? "Nothing is set otherwise than by numbers."
            : view.against.length === 1
              ? "1 control is set otherwise than by numbers."
              : `${view.against.length} controls are set otherwise than by numbers.`}</summary
        >
        <p>Takes care of: {school.compensates.join("; ")}.</p>
        <table class="lines">
          <thead
            ><tr
              ><th>Control</th><th>By numbers</th><th>{school.label}</th><th
                >Why</th
              ></tr
            ></thead
          >
          <tbody>
            {#each view.against as c (c.control)}
              <tr
                ><td>{c.label}</td><td class="num">{c.was}</td><td class="num"
                  >{c.is}</td
                ><td class="reason">{c.why}</td></tr
              >
            {/each}
          </tbody>
        </table>
      </details>
    {/if}
    {#if view.newer}<span class="red"
        >Since this sheet was made {view.newer}{view.since.length > 0
          ? `: made again, ${view.since
              .slice(0, 4)
              .map((c) => `${c.label} goes from ${c.was} to ${c.is}`)
              .join(
                ", ",
              )}${view.since.length > 4 ? ` and ${view.since.length - 4} more` : ""}`
          : ""}.
        <button class="linkish" onclick={s.again}>Translate again</button></span
      >{/if}
  </div>
{/if}

<style>
  .against table {
    margin: 0.25rem 0;
  }
  .against summary {
    cursor: pointer;
  }
  .notes {
    display: flex;
    flex-wrap: wrap;
    gap: 0 1.5rem;
    padding: 0.25rem 1.25rem;
    border-bottom: 1px solid var(--rule);
    background: var(--shade);
  }
</style>
