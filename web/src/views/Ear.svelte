<script lang="ts">
  import { Button } from "carbon-components-svelte";
  import { app } from "../lib/app.svelte";
  import * as ear from "../lib/calls/ear";
  import { keys } from "../lib/keys.svelte";
  import { load } from "../lib/load.svelte";
  import { route } from "../lib/route.svelte";
  import type { EarDesk } from "../lib/types";

  /** Ear practice: how small a difference one hears, from one's own patches. */
  let view = $state.raw<EarDesk | null>(null);
  const whoKey = "glossator-ear-who";
  let who = $state(localStorage.getItem(whoKey) ?? "");
  let patch = $state("");
  let parts = $state(3);
  let field = $state<HTMLInputElement | null>(null);
  document.title = "Ear practice - Glossator";
  load(ear.desk, (v) => {
    view = v;
    patch = patch || (v.patches[0]?.id ?? "");
  });
  const begin = () =>
    app.attempt(async () => {
      localStorage.setItem(whoKey, who);
      const made = await ear.begin(who, patch, parts);
      route.go(`/ear/${made.id}`);
    });
  const judge = (name: string) =>
    app.attempt(async () => {
      view = await ear.listener(name);
      app.say(
        name
          ? `The lines of sheets are judged by the ears of ${name}`
          : "The lines of sheets are judged by the published differences",
        "How patches are translated stays the same.",
      );
    });
  const drop = (id: number) =>
    app.attempt(async () => (view = await ear.drop(id)));
  const when = (iso: string) =>
    new Date(iso).toLocaleDateString("en-GB", { dateStyle: "medium" });
  keys([
    {
      keys: "n",
      does: "sit down to a patch",
      on: "n",
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
  <h1>Ear practice</h1>
  {#if !view}
    <p class="soft" role="status">Loading</p>
  {:else if view.patches.length === 0}
    <p>
      There is no patch to practise on yet. <a href="/patches"
        >Write one down or import one</a
      >.
    </p>
  {:else}
    <p class="about">
      You hear a patch as it is, then two sounds: one is the same, the other
      differs in one thing. Say which, and what. Right answers make the
      difference smaller, wrong ones larger, until it stays about where you hear
      seven in ten. All sounds are equally loud and quiet: turn your monitors
      down before you begin, and up from there.
    </p>
    <form
      class="fields"
      onsubmit={(e) => {
        e.preventDefault();
        void begin();
      }}
    >
      <label
        >Who listens <input
          bind:this={field}
          bind:value={who}
          maxlength="120"
          required
          autocomplete="off"
        /></label
      >
      <label
        >Patch <select bind:value={patch}
          >{#each view.patches as p (p.id)}<option value={p.id}>{p.name}</option
            >{/each}</select
        ></label
      >
      <label
        >Things that may differ <select bind:value={parts}
          >{#each [1, 2, 3, 4, 5, 6] as n (n)}<option value={n}>{n}</option
            >{/each}</select
        ></label
      >
      <Button size="small" type="submit">Begin</Button>
    </form>
    {#if view.people.length > 0}
      <h2>What was found</h2>
      <p class="small">
        Lines of sheets are judged by
        <label
          ><input
            type="radio"
            name="judge"
            checked={view.listener === ""}
            onchange={() => void judge("")}
          /> the published differences</label
        >
        {#each view.people as p (p.who)}<label
            ><input
              type="radio"
              name="judge"
              checked={view.listener === p.who}
              onchange={() => void judge(p.who)}
            />
            {p.who}</label
          >{/each}
      </p>
      <table class="lines stack">
        <thead
          ><tr
            ><th>Who</th><th>Difference</th><th>Published</th><th class="r"
              >Own, as a multiple</th
            ><th class="r">95 %</th><th class="r">Sittings</th></tr
          ></thead
        >
        <tbody>
          {#each view.people as p (p.who)}
            {#each p.finds as f (f.differs)}
              <tr>
                <td>{p.who}</td>
                <td class="wide">{f.differs}</td>
                <td class="num" data-of="published">{f.size}</td>
                <td class="num r" data-of="own"
                  >{f.sittings > 0 ? `${f.factor}×` : "not heard"}</td
                >
                <td class="num r" data-of="95 %"
                  >{f.sittings > 0 ? `${f.low} to ${f.high}` : ""}</td
                >
                <td class="num r" data-of="sittings"
                  >{f.sittings}{f.unheard > 0
                    ? `, ${f.unheard} not heard`
                    : ""}</td
                >
              </tr>
            {/each}
          {/each}
        </tbody>
      </table>
      <p class="small soft">
        One's own is where seven in ten are heard (two right in a row as often
        as not); the published are of trained listeners in quiet rooms. Below a
        quarter and above eight times of them is not gone.
      </p>
    {/if}
    {#if view.sittings.length > 0}
      <h2>Sittings</h2>
      <table class="lines stack">
        <tbody>
          {#each view.sittings as s (s.id)}
            <tr>
              <td class="wide"
                ><a href={`/ear/${s.id}`}>{s.patch}, {s.who}</a></td
              >
              <td class="num" data-of="answers">{s.answers}</td>
              <td class="soft">{when(s.at)}</td>
              <td
                ><button class="linkish" onclick={() => void drop(s.id)}
                  >Take it away</button
                ></td
              >
            </tr>
          {/each}
        </tbody>
      </table>
    {/if}
  {/if}
</div>

<style>
  .about {
    max-width: 46rem;
    margin: 0.5rem 0 1rem;
  }
  h2 {
    margin: 1.5rem 0 0.25rem;
  }
  .small label {
    margin: 0 0.5rem;
    font-size: 0.875rem;
  }
  .r {
    text-align: right;
  }
  input[type="radio"] {
    accent-color: var(--ink);
  }
</style>
