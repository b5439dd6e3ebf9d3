<script lang="ts">
  import { Button } from "carbon-components-svelte";
  import { app } from "../lib/app.svelte";
  import * as shows from "../lib/calls/shows";
  import { keys } from "../lib/keys.svelte";
  import { load } from "../lib/load.svelte";
  import { Places } from "../lib/places";
  import { route } from "../lib/route.svelte";
  import type { ShowList } from "../lib/types";

  /** The shows: the night on the instruments that a house has. */
  let view = $state.raw<ShowList | null>(null);
  let name = $state("");
  let field = $state<HTMLInputElement | null>(null);
  let files = $state<HTMLInputElement | null>(null);
  const rows = new Places();
  document.title = "Shows - Glossator";
  load(shows.list, (v) => (view = v));
  const begin = () =>
    app.attempt(async () => {
      const made = await shows.begin(name);
      route.go(`/shows/${made.id}`);
    });
  const take = (f: File | undefined) =>
    f &&
    app.attempt(async () => {
      const made = await shows.take(f);
      route.go(`/shows/${made.id}`);
    });
  const count = (n: number, one: string, many: string) =>
    `${n} ${n === 1 ? one : many}`;
  keys([
    {
      keys: "↑ ↓",
      does: "move through the shows",
      on: ["ArrowUp", "ArrowDown"],
      run: (e) => rows.walk(e.key === "ArrowDown" ? 1 : -1),
    },
    {
      keys: "Enter",
      does: "open the show that has the focus",
    },
    {
      keys: "n",
      does: "begin a show",
      on: "n",
      run: () => field?.focus(),
    },
    {
      keys: "i",
      does: "import a show file",
      on: "i",
      run: () => files?.click(),
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
    <h1>Shows</h1>
    <form
      class="bar"
      onsubmit={(e) => {
        e.preventDefault();
        void begin();
      }}
    >
      <label class="small"
        >New show <input
          bind:this={field}
          bind:value={name}
          maxlength="120"
          required
          placeholder="its name"
          autocomplete="off"
        /></label
      >
      <Button size="small" type="submit" kind="tertiary">Begin</Button>
    </form>
    <div class="end">
      <label class="linkish" for="show-file">Import a show file</label>
      <input
        id="show-file"
        class="visually-hidden"
        type="file"
        accept=".json,application/json"
        bind:this={files}
        onchange={(e) => {
          void take(e.currentTarget.files?.[0]);
          e.currentTarget.value = "";
        }}
      />
    </div>
  </div>
  {#if !view}
    <p class="soft" role="status">Loading</p>
  {:else if view.shows.length === 0}
    <p>
      No show yet. A show is a book of cues with their times, patches and
      players, and the houses that it goes to with what can be hired there; the
      plan says which instrument plays which cue, what does not fit, and what to
      hire. The sample on the desk brings one.
    </p>
  {:else}
    <table class="lines stack">
      <thead
        ><tr
          ><th>Show</th><th>Cues</th><th>Evenings</th><th>Houses</th><th
            >Last changed</th
          ></tr
        ></thead
      >
      <tbody>
        {#each view.shows as s (s.id)}
          <tr>
            <td class="wide"
              ><a href={`/shows/${s.id}`} {@attach rows.at(String(s.id))}
                >{s.name}</a
              ></td
            >
            <td class="num" data-of="cues">{s.cues}</td>
            <td class="num" data-of="evenings">{s.evenings}</td>
            <td class="num" data-of="houses">{s.houses}</td>
            <td class="soft"
              >{new Date(s.at).toLocaleDateString("en-GB", {
                dateStyle: "medium",
              })}</td
            >
          </tr>
        {/each}
      </tbody>
    </table>
    <p class="small soft">{count(view.shows.length, "show", "shows")}</p>
  {/if}
</div>

<style>
  form input {
    font: inherit;
    color: var(--ink);
    background: var(--sheet);
    border: 0;
    border-bottom: 1px solid var(--ink-3);
    padding: 0.25rem 0.375rem;
    min-width: 14rem;
  }
  td a {
    font-size: 1rem;
  }
</style>
