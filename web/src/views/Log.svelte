<script lang="ts">
  import { Button } from "carbon-components-svelte";
  import { exportURL } from "../lib/api";
  import { app } from "../lib/app.svelte";
  import * as log from "../lib/calls/log";
  import { goHome, keys } from "../lib/keys.svelte";
  import { load } from "../lib/load.svelte";
  import { route } from "../lib/route.svelte";
  import type { Log } from "../lib/types";
  import Entries from "../parts/Entries.svelte";

  /** What was corrected, noted and signed off on all sheets, and what corrections say of laws. */
  let view = $state.raw<Log | null>(null);
  let find = $state("");
  let field = $state<HTMLInputElement | null>(null);
  document.title = "Log - Glossator";
  load(
    () => log.read({ find }),
    (v) => (view = v),
  );
  const adopt = (x: Log["learnt"][number]) =>
    app.attempt(async () => {
      view = await log.adopt(x.target, x.control, x.source);
      app.pending = view.pending;
      app.say(
        `The law of ${x.label} is moved`,
        `${x.targetName} has a new revision; sheets stay as they are until they are brought to it. Undo takes it back.`,
      );
    });
  keys([
    {
      keys: "/",
      does: "find in the log",
      on: "/",
      run: () => (field?.focus(), field?.select()),
    },
    {
      keys: "Esc",
      does: "back to where you came from",
      on: "Escape",
      run: () => route.back("/"),
    },
  ]);
</script>

<div class="page">
  <div class="bar">
    <h1>Log</h1>
    <label class="small"
      >Find <input
        bind:this={field}
        bind:value={find}
        type="search"
        placeholder="darker, cutoff, a name"
        autocomplete="off"
        oninput={() => app.changed++}
        onkeydown={(e) => {
          if (e.key !== "Escape") return;
          e.stopPropagation();
          field?.blur();
          goHome();
        }}
      /></label
    >
    <div class="end">
      <a download href={exportURL(`/log.csv?find=${encodeURIComponent(find)}`)}
        >As a table</a
      >
    </div>
  </div>
  {#if !view}
    <p class="soft" role="status">Loading</p>
  {:else}
    {#if view.learnt.length > 0}
      <section aria-label="What corrections say of laws">
        <h2>What corrections say of laws</h2>
        {#each view.learnt as x (`${x.source} ${x.target} ${x.control}`)}
          <div class="learnt">
            <p>
              <strong>{x.label}</strong>
              <span class="soft">{x.source} to {x.targetName}</span>
              <span class="small">{x.why}</span>
            </p>
            {#if x.offered}<Button
                size="small"
                kind="tertiary"
                onclick={() => void adopt(x)}>Move its law</Button
              >{/if}
          </div>
        {/each}
      </section>
    {/if}
    {#if view.entries.length > 0}
      <Entries entries={view.entries} where />
      {#if view.entries.length >= view.most}<p class="small soft">
          These are the newest {view.most}; find narrows them.
        </p>{/if}
    {:else}
      <p>
        {find
          ? "Nothing in the log has these words."
          : "Nothing was corrected yet. While dialling in, c sets a line otherwise than planned and says why; the sheet goes by it, and what agrees over several patches is offered here as a law."}
      </p>
    {/if}
  {/if}
</div>

<style>
  .learnt {
    display: flex;
    gap: 1rem;
    align-items: center;
    justify-content: space-between;
    border-left: 3px solid var(--rubric);
    background: var(--sheet);
    padding: 0.25rem 0.75rem;
    margin: 0.375rem 0;
  }
  .learnt p {
    margin: 0;
  }
  input {
    font: inherit;
    color: var(--ink);
    background: var(--paper);
    border: 0;
    border-bottom: 1px solid var(--ink-3);
    padding: 0.25rem 0.375rem;
    width: 16rem;
    max-width: 100%;
  }
  h2 {
    font-size: 0.8125rem;
    color: var(--rubric);
    margin: 0.75rem 0 0.25rem;
  }
</style>
