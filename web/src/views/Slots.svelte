<script lang="ts">
  import { Button } from "carbon-components-svelte";
  import { Refusal, part } from "../lib/api";
  import { app } from "../lib/app.svelte";
  import * as keep from "../lib/calls/keep";
  import { goHome, keys } from "../lib/keys.svelte";
  import { load } from "../lib/load.svelte";
  import { Places } from "../lib/places";
  import { route } from "../lib/route.svelte";
  import type { Slots } from "../lib/types";

  /** What stands in the memory of an instrument: free, in use, protected. */
  let { id }: { id: string } = $props();
  let view = $state.raw<Slots | null>(null);
  let missing = $state("");
  let bank = $state(0);
  let at = $state(0);
  let name = $state("");
  let sheet = $state("0");
  /** What stands in the way, and is written over if asked. */
  let over = $state("");
  let stands = "";
  let laying = $state(false);
  let field = $state<HTMLInputElement | null>(null);
  let banks = $state(1);
  let programs = $state(128);
  let first = $state(0);
  const rows = new Places();

  function take(v: Slots) {
    view = v;
    app.pending = v.pending;
    [banks, programs, first] = [v.banks, v.programs, v.first];
    bank = Math.min(bank, v.banks - 1);
    at = Math.min(at, v.programs - 1);
    document.title = `Slots of ${v.name} - Glossator`;
    choose(at);
  }
  load(
    () => keep.slots(id),
    take,
    (detail) => (missing = detail),
  );
  const here = $derived(
    new Map(
      (view?.slots ?? [])
        .filter((s) => s.bank === bank)
        .map((s) => [s.program, s]),
    ),
  );
  const chosen = $derived(here.get(at));
  const label = (n: number) => String(n + (view?.first ?? 0));
  function choose(n: number) {
    if (!view) return;
    at = Math.max(0, Math.min(view.programs - 1, n));
    over = "";
    const s = here.get(at);
    name = s?.name ?? "";
    sheet = String(s?.sheet ?? 0);
    rows.show(String(at), false);
  }
  const does = (what: () => Promise<Slots>) =>
    app.attempt(async () => take(await what()));
  async function put(anyway: string) {
    try {
      take(
        await keep.putSlot(id, bank, at, {
          name: Number(sheet) > 0 && !name.trim() ? "" : name,
          sheet: Number(sheet),
          over: anyway,
        }),
      );
      over = "";
    } catch (e) {
      if (!(e instanceof Refusal) || e.problem.title !== "In use") {
        app.fail(e);
        return;
      }
      const typed = [name, sheet] as const;
      await does(() => keep.slots(id)); // it may have been put there elsewhere
      [name, sheet] = typed;
      stands = chosen?.name ?? "";
      over = e.problem.detail;
    }
  }
  const when = (iso: string) =>
    new Date(iso).toLocaleDateString("en-GB", { dateStyle: "medium" });
  keys([
    {
      keys: "↑ ↓",
      does: "move through the slots",
      on: ["ArrowUp", "ArrowDown"],
      run: (e) => choose(at + (e.key === "ArrowDown" ? 1 : -1)),
    },
    {
      keys: "[ ]",
      does: "another bank",
      on: ["[", "]"],
      run: (e) => {
        bank = Math.max(
          0,
          Math.min((view?.banks ?? 1) - 1, bank + (e.key === "]" ? 1 : -1)),
        );
        choose(at);
      },
    },
    {
      keys: "e",
      does: "say what stands in the slot",
      on: "e",
      run: () => (field?.focus(), field?.select()),
    },
    {
      keys: "f",
      does: "go to the next free slot",
      on: "f",
      run: () => {
        for (let n = at + 1; n < (view?.programs ?? 0); n++)
          if (!here.has(n)) {
            choose(n);
            return;
          }
      },
    },
    {
      keys: "p",
      does: "protect the slot, or no longer",
      on: "p",
      run: () =>
        void does(() => keep.protectSlot(id, bank, at, !chosen?.protected)),
    },
    {
      on: "Escape",
      typing: true,
      while: () => !!over,
      run: () => (over = ""),
    },
    {
      keys: "Esc",
      does: "back to where you came from",
      on: "Escape",
      run: () => route.back(`/panels/${part(id)}`),
    },
  ]);
</script>

<div class="page">
  {#if missing}
    <h1>No such panel</h1>
    <p>{missing} <a href="/panels">All panels</a></p>
  {:else if !view}
    <p class="soft" role="status">Loading</p>
  {:else if !view.remembers}
    <h1>Slots of <a href={`/panels/${part(id)}`}>{view.name}</a></h1>
    <p>
      It has no memory. From one patch to the next its changeover list says what
      to set; open it from a sheet.
    </p>
  {:else}
    <div class="bar">
      <h1>Slots of <a href={`/panels/${part(id)}`}>{view.name}</a></h1>
      <span class="soft small num"
        >{view.slots.length} in use or protected, {view.free} free</span
      >
      {#if view.banks > 1}<label class="small"
          >Bank <select bind:value={bank} onchange={() => choose(at)}
            >{#each { length: view.banks }, b (b)}<option value={b}
                >{label(b)}</option
              >{/each}</select
          ></label
        >{/if}
      <div class="end">
        <button
          class="linkish"
          aria-expanded={laying}
          onclick={() => (laying = !laying)}>How it is laid out</button
        >
      </div>
    </div>
    {#if laying}
      <form
        class="lay bar"
        onsubmit={(e) => {
          e.preventDefault();
          void does(() => keep.layOut(id, { banks, programs, first }));
        }}
      >
        <label class="small"
          >Banks <input
            type="number"
            min="1"
            max="16384"
            bind:value={banks}
          /></label
        >
        <label class="small"
          >Slots in each <input
            type="number"
            min="1"
            max="128"
            bind:value={programs}
          /></label
        >
        <label class="small"
          >Counted from <select bind:value={first}
            ><option value={0}>0</option><option value={1}>1</option></select
          ></label
        >
        <Button size="small" type="submit" kind="tertiary">Take it over</Button>
      </form>
    {/if}
    <div class="two">
      <ol class="slots" aria-label="Slots">
        {#each { length: view.programs }, n (n)}
          {@const s = here.get(n)}
          <li>
            <button
              {@attach rows.at(String(n))}
              class:at={n === at}
              aria-current={n === at ? "true" : undefined}
              onclick={() => choose(n)}
            >
              <span class="num no">{label(n)}</span>
              <span class="name" class:soft={!s?.name}>{s?.name || "free"}</span
              >
              <span class="small soft"
                >{s?.protected ? "protected" : s ? when(s.at) : ""}</span
              >
            </button>
          </li>
        {/each}
      </ol>
      <section class="one" aria-label="The chosen slot">
        <h2>
          {view.banks > 1 ? `Bank ${label(bank)}, slot` : "Slot"}
          {label(at)}
        </h2>
        {#if chosen}
          <p>
            {chosen.name || "Nothing known"}{chosen.protected
              ? ", protected: nothing goes there, nor is it chosen when settings are sent"
              : ""}.
            {#if chosen.sheet}<a href={`/sheets/${chosen.sheet}`}>Its sheet</a
              >{/if}
          </p>
        {/if}
        {#if !chosen?.protected}
          <form
            onsubmit={(e) => {
              e.preventDefault();
              void put("");
            }}
          >
            <label class="small"
              >What goes there
              <select bind:value={sheet} onchange={() => (name = "")}>
                <option value="0">something else</option>
                {#each view.sheets as x (x.id)}<option value={String(x.id)}
                    >{x.name} (sheet {x.id})</option
                  >{/each}
              </select></label
            >
            <label class="small"
              >Name <input
                bind:this={field}
                bind:value={name}
                maxlength="120"
                placeholder={Number(sheet) > 0 ? "as the sheet" : ""}
                autocomplete="off"
                onkeydown={(e) => {
                  if (e.key !== "Escape" || over) return;
                  e.stopPropagation();
                  choose(at);
                  goHome();
                }}
              /></label
            >
            <Button size="small" type="submit">Put it there</Button>
          </form>
          {#if over}
            <div class="ask" role="alertdialog" aria-label="The slot is in use">
              <p>{over}</p>
              <Button
                size="small"
                kind="danger"
                onclick={() => void put(stands)}>Write over it</Button
              >
              <Button size="small" kind="ghost" onclick={() => (over = "")}
                >Leave it</Button
              >
            </div>
          {/if}
        {/if}
        <p class="acts">
          <button
            class="linkish"
            onclick={() =>
              void does(() =>
                keep.protectSlot(id, bank, at, !chosen?.protected),
              )}
            >{chosen?.protected ? "No longer protect it" : "Protect it"}</button
          >
          {#if chosen && !chosen.protected}<button
              class="linkish"
              onclick={() => void does(() => keep.clearSlot(id, bank, at))}
              >It is free</button
            >{/if}
        </p>
        <p class="small soft">
          This list is what you say stands there: nothing is read from the
          instrument's memory. Store at the instrument, then note it here.
        </p>
      </section>
    </div>
  {/if}
</div>

<style>
  .two {
    display: grid;
    grid-template-columns: minmax(0, 1fr) 22rem;
    gap: 0 1.5rem;
    align-items: start;
  }
  .slots {
    list-style: none;
    padding: 0;
    margin: 0;
    columns: 18rem auto;
    column-gap: 1rem;
  }
  .slots li {
    break-inside: avoid;
  }
  .slots button {
    display: grid;
    grid-template-columns: 2.5rem minmax(0, 1fr) auto;
    gap: 0.5rem;
    width: 100%;
    text-align: left;
    font: inherit;
    color: var(--ink);
    background: none;
    border: 0;
    border-bottom: 1px solid var(--rule);
    padding: 0.25rem 0.25rem;
    min-height: 1.75rem;
    align-items: center;
    cursor: pointer;
  }
  .slots button.at {
    background: var(--sheet);
    box-shadow: inset 3px 0 0 var(--rubric);
  }
  .no {
    text-align: right;
  }
  .name {
    line-height: 1.125rem;
    overflow: hidden;
    text-overflow: ellipsis;
    white-space: nowrap;
  }
  .one {
    position: sticky;
    top: 1rem;
  }
  .one p {
    margin: 0.375rem 0;
  }
  form label {
    display: block;
    margin: 0.5rem 0;
  }
  .lay label {
    margin: 0;
  }
  form input,
  form select {
    font: inherit;
    color: var(--ink);
    background: var(--paper);
    border: 0;
    border-bottom: 1px solid var(--ink-3);
    padding: 0.25rem 0.375rem;
  }
  .one form input,
  .one form select {
    display: block;
    width: 100%;
  }
  .lay input {
    width: 5rem;
  }
  .ask {
    background: var(--sheet);
    border-left: 3px solid var(--rubric);
    padding: 0.5rem 0.75rem;
    margin: 0.5rem 0;
  }
  .acts > :global(*) {
    margin-right: 0.75rem;
  }
  @media (max-width: 48rem) {
    .two {
      grid-template-columns: minmax(0, 1fr);
    }
    .one {
      position: static;
      order: -1;
      margin-bottom: 1rem;
    }
    .slots button {
      min-height: 2.75rem;
    }
  }
</style>
