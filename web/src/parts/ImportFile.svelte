<script lang="ts">
  import { onDestroy } from "svelte";
  import { Button, Modal } from "carbon-components-svelte";
  import { Upload } from "carbon-icons-svelte";
  import { app } from "../lib/app.svelte";
  import { Imports } from "../lib/imports.svelte";

  /** Imports files by button, or by dropping them anywhere on the view: each by what is in it. */
  let { label = "Import" }: { label?: string } = $props();
  let input: HTMLInputElement;
  let over = $state(0);
  const imports = new Imports();
  onDestroy(() => imports.show(false));
  async function take(files: FileList | null | undefined) {
    await imports.take(files ?? []);
    input.value = "";
  }

  const hasFiles = (e: DragEvent) => !!e.dataTransfer?.types.includes("Files");
  export function choose() {
    input.click();
  }
</script>

<svelte:window
  ondragenter={(e) => hasFiles(e) && over++}
  ondragleave={(e) => hasFiles(e) && over--}
  ondragover={(e) => hasFiles(e) && e.preventDefault()}
  ondrop={(e) => {
    if (!hasFiles(e)) return;
    e.preventDefault();
    over = 0;
    void take(e.dataTransfer?.files);
  }}
/>

<input
  bind:this={input}
  type="file"
  accept=".json,application/json,.csv,.tsv,.txt,.xlsx"
  multiple
  tabindex="-1"
  aria-label="Files to import"
  class="visually-hidden"
  onchange={(e) => take(e.currentTarget.files)}
/>
<Button
  size="small"
  kind="tertiary"
  icon={Upload}
  disabled={app.busy}
  onclick={choose}
>
  {label}
</Button>
{#if over > 0}
  <div class="drop" aria-hidden="true">
    Drop panels, patches or tables of controls to import them
  </div>
{/if}

<Modal
  bind:open={
    () => !!imports.asked,
    (on) => !on && imports.asked && imports.answer("leave")
  }
  passiveModal
  modalHeading={imports.asked
    ? `${imports.asked.here.name} is here already, and differs`
    : ""}
  size="sm"
>
  {#if imports.asked}
    {@const q = imports.asked}
    <p>
      <strong>{q.file}</strong> has a {q.here.kind} of the same id. In its place:
      {q.here.here}. Beside it: both stay, under two names.
    </p>
    {#if q.others > 0}
      <label class="all"
        ><input type="checkbox" bind:checked={imports.forAll} /> the same for
        the
        {q.others} after it</label
      >
    {/if}
    <div class="bar answers">
      <Button
        size="small"
        kind="tertiary"
        onclick={() => imports.answer("leave")}>Leave it</Button
      >
      <Button
        size="small"
        kind="tertiary"
        onclick={() => imports.answer("beside")}>Beside it</Button
      >
      <Button size="small" onclick={() => imports.answer("version")}
        >In its place</Button
      >
    </div>
  {/if}
</Modal>

<Modal
  bind:open={() => imports.shown, (on) => imports.show(on)}
  passiveModal
  modalHeading={imports.report.length === 1
    ? "One file"
    : `${imports.report.length} files`}
  size="sm"
  hasScrollingContent
>
  {#if imports.shown}
    <ul class="report">
      {#each imports.report as l, i (i)}
        <li>
          {#if l.href}<a href={l.href} onclick={() => imports.show(false)}
              >{l.file}</a
            >{:else}<strong>{l.file}</strong>{/if}
          <span class:red={!l.href && !l.says.startsWith("left")}>{l.says}</span
          >
          {#each l.faults ?? [] as f, k (k)}
            <div class="small soft">
              {f.path ? `${f.path}: ` : ""}{f.words ?? f.message}
            </div>
          {/each}
        </li>
      {/each}
    </ul>
  {/if}
</Modal>

<style>
  .drop {
    position: fixed;
    inset: 3rem 0.5rem 0.5rem;
    z-index: 80;
    display: grid;
    place-items: center;
    font-size: 1.25rem;
    background: var(--paper);
    opacity: 0.94;
    border: 2px dashed var(--ink-3);
    pointer-events: none;
  }
  .answers {
    margin-top: 1rem;
    gap: 0.5rem;
  }
  .all {
    display: block;
    margin-top: 1rem;
  }
  .report {
    list-style: none;
    padding: 0;
    margin: 0;
  }
  .report li {
    padding: 0.375rem 0;
    border-bottom: 1px solid var(--rule);
    overflow-wrap: anywhere;
  }
</style>
