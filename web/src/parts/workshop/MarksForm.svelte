<script lang="ts">
  import { Button } from "carbon-components-svelte";
  import { refused } from "../../lib/api";
  import { app } from "../../lib/app.svelte";
  import type { Face, Law } from "../../lib/types";
  import type { WorkshopState } from "../../lib/workshop.svelte";

  /** Makes a law of printed marks. */
  let {
    s,
    n,
    law,
    face,
    took,
    close,
  }: {
    s: WorkshopState;
    n: number;
    law: Law;
    face: Face;
    took: (law: Law) => void;
    close: () => void;
  } = $props();

  const example = "0 = 20 Hz\n5 = 400 Hz\n10 = 8 kHz";
  let marks = $state("");
  let says = $state("");
  let wrong = $state("");
  async function fit() {
    try {
      const f = await s.fit({ face, unit: law.unit, marks });
      const now = { ...f.law };
      if (law.convention && !now.convention) now.convention = law.convention;
      if (law.swing && !now.swing) now.swing = law.swing;
      [says, wrong] = [f.says, ""];
      took(now);
    } catch (e) {
      [says, wrong] = ["", refused(e) ?? ""];
      if (!wrong) app.fail(e);
    }
  }
</script>

<form
  class="marks"
  onsubmit={(e) => {
    e.preventDefault();
    void fit();
  }}
>
  <label for={`marks-${n}`}
    >Printed marks, one a line: mark = value in {law.unit}</label
  >
  <textarea
    id={`marks-${n}`}
    class="num"
    rows="4"
    spellcheck="false"
    placeholder={example}
    bind:value={marks}
    onkeydown={(e) => {
      if (e.key === "Enter" && (e.ctrlKey || e.metaKey)) void fit();
      else if (e.key === "Escape") {
        e.stopPropagation();
        close();
      }
    }}></textarea>
  <div class="bar">
    <Button size="small" kind="tertiary" type="submit" disabled={!marks.trim()}
      >Make the law</Button
    >
    <span class="small" aria-live="polite">
      {#if wrong}<span class="red">{wrong}</span>{:else if says}<span
          class="reason">{says}</span
        >{:else}<span class="soft"
          ><kbd>Ctrl</kbd> <kbd>Enter</kbd> makes it; undo takes it back</span
        >{/if}
    </span>
  </div>
</form>

<style>
  .marks {
    margin-top: 0.5rem;
  }
  .marks label {
    font-size: 0.75rem;
    color: var(--ink-2);
  }
  textarea {
    display: block;
    box-sizing: border-box;
    width: 100%;
    font-size: 0.8125rem;
    line-height: 1.125rem;
    padding: 0.25rem 0.375rem;
    color: var(--ink);
    background: var(--sheet);
    border: 1px solid var(--rule);
  }
  .marks .bar {
    margin-top: 0.375rem;
  }
</style>
