<script lang="ts">
  import { Button } from "carbon-components-svelte";
  import { Upload } from "carbon-icons-svelte";
  import { app } from "../lib/app.svelte";

  /** Imports a JSON file by button, or by dropping it anywhere on the view. */
  let {
    kind,
    take: read,
    done,
    more = "",
  }: {
    kind: "patch" | "panel";
    take: (file: File) => Promise<{ id: string; name: string }>;
    done: (id: string, name: string) => void;
    /** Other files than JSON that are taken, by their endings. */
    more?: string;
  } = $props();
  let input: HTMLInputElement;
  let over = $state(0);
  const limit = 5 * 1024 * 1024;

  async function take(files: FileList | null | undefined) {
    for (const file of files ?? []) {
      if (file.size > limit) {
        app.message = {
          kind: "error",
          title: "Too large",
          text: `${file.name} has ${(file.size / 1024 / 1024).toFixed(1)} MB; a file may have at most 5 MB.`,
        };
        continue;
      }
      app.busy = true;
      try {
        const row = await read(file);
        app.message = null;
        done(row.id, row.name);
      } catch (e) {
        app.fail(e);
      } finally {
        app.busy = false;
      }
    }
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
  accept={`.json,application/json${more}`}
  multiple
  tabindex="-1"
  aria-label={`${kind === "patch" ? "Patch" : "Panel"} file`}
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
  Import {kind}
</Button>
{#if over > 0}
  <div class="drop" aria-hidden="true">
    Drop the file to import it as a {kind}
  </div>
{/if}

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
</style>
