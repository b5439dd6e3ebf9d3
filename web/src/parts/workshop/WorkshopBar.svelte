<script lang="ts">
  import { Button } from "carbon-components-svelte";
  import { exportURL, part } from "../../lib/api";
  import More from "../More.svelte";
  import type { Workshop } from "../../lib/types";
  import type { WorkshopState } from "../../lib/workshop.svelte";

  /** What is being worked on, and what can be done with it as a whole. */
  let { s, w }: { s: WorkshopState; w: Workshop } = $props();
  let table: HTMLInputElement;
  async function read(files: FileList | null) {
    const file = files?.[0];
    if (file) await s.readTable(file);
    table.value = "";
  }
</script>

<div class="bar">
  <h1>{w.panel.name || w.panel.id}</h1>
  <span class="soft small num"
    >{w.base === 0
      ? "new panel, not saved yet"
      : w.draft
        ? `draft on revision ${w.base}`
        : `revision ${w.base}, nothing edited`}</span
  >
  <div class="end bar">
    <Button
      size="small"
      disabled={!w.draft || w.faults.length > 0}
      onclick={s.saveRevision}>Save as revision {w.base + 1}</Button
    >
    {#if w.base > 0 && w.changes.length > 0}
      <button class="linkish" onclick={() => (s.changes = !s.changes)}
        >{w.changes.length === 1
          ? "1 change"
          : `${w.changes.length} changes`}</button
      >
    {:else if w.base === 0}<span class="soft small"
        >{w.panel.controls.length === 1
          ? "1 control"
          : `${w.panel.controls.length} controls`}</span
      >{/if}
    <button class="linkish" onclick={() => (s.history = !s.history)}
      >Revisions</button
    >
    <button class="linkish" onclick={() => table.click()}>Read a table</button>
    <input
      bind:this={table}
      type="file"
      accept=".csv,.tsv,.txt,.xlsx,text/csv"
      class="visually-hidden"
      tabindex="-1"
      aria-label="Controls table"
      onchange={(e) => read(e.currentTarget.files)}
    />
    <More
      acts={[
        {
          text: "Controls as CSV",
          href: exportURL(`/panels/${part(s.id)}/controls.csv`),
        },
        ...(w.draft
          ? [
              {
                text: "Leave the draft",
                run: () => void s.leave(),
                danger: true,
              },
            ]
          : []),
      ]}
    />
  </div>
</div>
