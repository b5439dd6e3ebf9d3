<script lang="ts">
  import { Button, ProgressBar } from "carbon-components-svelte";
  import { tick } from "svelte";
  import { exportURL, part } from "../lib/api";
  import { app } from "../lib/app.svelte";
  import * as sheets from "../lib/calls/sheets";
  import * as shows from "../lib/calls/shows";
  import { goHome, keys } from "../lib/keys.svelte";
  import { Places } from "../lib/places";
  import { route } from "../lib/route.svelte";
  import { Listening, ShowState } from "../lib/show.svelte";
  import { clock, seconds } from "../lib/times";
  import type { ShowCue } from "../lib/types";
  import More from "../parts/More.svelte";
  import Chart from "../parts/show/Chart.svelte";
  import House from "../parts/show/House.svelte";

  /** A show in one of its houses: which instrument plays which cue, and what does not fit. */
  let { id, house }: { id: number; house: string } = $props();
  // svelte-ignore state_referenced_locally
  const show = new ShowState(id, house);
  // svelte-ignore state_referenced_locally
  const ear = new Listening(id, () => void show.replan());
  const rows = new Places();

  const doc = $derived(show.view?.doc);
  const plan = $derived(show.plan);
  const evenings = $derived(
    [...new Set((doc?.cues ?? []).map((c) => c.evening || 1))].sort(
      (a, b) => a - b,
    ),
  );
  /** The cues evening by evening in the order of their times, with where they stand in the show. */
  const order = $derived(
    (doc?.cues ?? [])
      .map((c, at) => ({ c, at, p: plan?.cues[at] }))
      .sort(
        (a, b) =>
          (a.c.evening || 1) - (b.c.evening || 1) ||
          (seconds(a.c.start) ?? 0) - (seconds(b.c.start) ?? 0),
      ),
  );
  const i = $derived(order.findIndex((x) => x.c.id === show.chosen));
  const nameOf = $derived(
    new Map((show.view?.patches ?? []).map((p) => [p.id, p.name])),
  );
  const bad = $derived(new Set(plan?.conflicts.flatMap((c) => c.cues) ?? []));
  const says = (x: number) => x.toFixed(1);

  function choose(cue: string) {
    show.chosen = cue;
    rows.show(cue, false);
  }
  // one cue as it is written
  let editing = $state("");
  let draft = $state<ShowCue>({ name: "", patch: "", start: "", end: "" });
  let evening = $state(1);
  let field = $state<HTMLInputElement | null>(null);
  async function edit(c: ShowCue | undefined) {
    if (!c?.id) return;
    show.wrong = "";
    show.chosen = c.id;
    draft = { ...c };
    evening = c.evening || 1;
    editing = c.id;
    await tick();
    field?.focus();
    field?.select();
  }
  const leave = () => {
    editing = "";
    show.wrong = "";
    void tick().then(goHome);
  };
  async function keep() {
    const cue = editing;
    if (
      await show.change((d) => {
        const at = d.cues.findIndex((c) => c.id === cue);
        if (at >= 0) d.cues[at] = { ...draft, evening, id: cue };
      })
    )
      leave();
  }
  async function add() {
    const after = order[i] ?? order.at(-1);
    const had = new Set(doc?.cues.map((c) => c.id));
    const begins = after?.p?.end ?? 0;
    const ok = await show.change((d) =>
      d.cues.push({
        name: "New cue",
        patch: after?.c.patch ?? show.view?.patches[0]?.id ?? "",
        evening: after?.c.evening ?? 1,
        start: clock(begins),
        end: clock(begins + 120),
        player: after?.c.player,
      }),
    );
    if (ok) void edit(show.view?.doc.cues.find((c) => !had.has(c.id)));
  }
  const remove = (cue: string) =>
    show.change((d) => (d.cues = d.cues.filter((c) => c.id !== cue)));
  const turn = (by: number) => {
    const all = doc?.houses ?? [];
    const to = all[(show.at + by + all.length) % all.length];
    if (to?.id) move(to.id);
  };
  function move(to: string) {
    show.house = to;
    history.replaceState(null, "", `/shows/${id}/${part(to)}`);
    void show.replan();
  }
  const at = $derived(`/shows/${id}/${part(show.house)}`);
  const openSheet = (patch: string, on: number) =>
    app.attempt(async () => {
      const target = plan?.instruments[on]?.panel ?? "";
      route.go(`/sheets/${(await sheets.open({ patch, target })).id}`);
    });
  let renaming = $state(false);
  let called = $state("");
  async function rename() {
    called = doc?.name ?? "";
    renaming = true;
    await tick();
    document.getElementById("show-name")?.focus();
  }
  const gone = () =>
    app.attempt(async () => {
      app.pending = (await shows.drop(id)).pending;
      app.say("The show is deleted", "Undo brings it back.");
      route.go("/shows");
    });
  keys([
    {
      keys: "↑ ↓",
      does: "move through the cues",
      on: ["ArrowUp", "ArrowDown"],
      run: (e) => {
        const to =
          order[
            e.key === "ArrowDown"
              ? Math.min(order.length - 1, i + 1)
              : Math.max(0, i - 1)
          ];
        if (to?.c.id) choose(to.c.id);
      },
    },
    {
      keys: "Enter or e",
      does: "change the cue",
      on: ["Enter", "e"],
      while: () => !editing,
      run: () => void edit(order[i]?.c),
    },
    { keys: "n", does: "a new cue after it", on: "n", run: () => void add() },
    {
      keys: "Delete",
      does: "take the cue out",
      on: "Delete",
      while: () => !!show.chosen && !editing,
      run: () => void remove(show.chosen),
    },
    {
      keys: "o",
      does: "open the sheet of the cue on its instrument",
      on: "o",
      run: () => {
        const x = order[i];
        if (x?.p && x.p.on >= 0) void openSheet(x.c.patch, x.p.on);
      },
    },
    {
      keys: "[ ]",
      does: "another house",
      on: ["[", "]"],
      run: (e) => turn(e.key === "]" ? 1 : -1),
    },
    {
      keys: "l",
      does: "listen to all that nobody has listened to yet, or stop that",
      on: "l",
      run: () => void (ear.now?.running ? ear.stop() : ear.begin("", "")),
    },
    {
      keys: "w",
      does: "what to hire in this house",
      on: "w",
      while: () => !!show.house,
      run: () => route.go(`${at}/hire`),
    },
    {
      keys: "r",
      does: "rehearse an evening",
      on: "r",
      while: () => !!show.house,
      run: () =>
        route.go(`${at}/rehearse/${order[i]?.c.evening || evenings[0] || 1}`),
    },
    {
      on: "Escape",
      typing: true,
      while: () => !!editing,
      run: leave,
    },
    {
      keys: "Esc",
      does: "back to where you came from",
      on: "Escape",
      run: () => route.back("/shows"),
    },
  ]);
</script>

<div class="page">
  {#if show.missing}
    <h1>No such show</h1>
    <p>{show.missing} <a href="/shows">All shows</a></p>
  {:else if !doc || !show.view}
    <p class="soft" role="status">Loading</p>
  {:else}
    <div class="bar">
      {#if renaming}
        <form
          onsubmit={(e) => {
            e.preventDefault();
            renaming = false;
            void show.change((d) => (d.name = called));
          }}
        >
          <input
            id="show-name"
            class="called"
            aria-label="What the show is called"
            bind:value={called}
            maxlength="120"
            onkeydown={(e) => {
              if (e.key !== "Escape") return;
              e.stopPropagation();
              renaming = false;
              void tick().then(goHome);
            }}
          />
          <Button size="small" type="submit">Keep</Button>
        </form>
      {:else}<h1>{doc.name}</h1>{/if}
      <div class="houses pick" role="group" aria-label="Houses">
        {#each doc.houses as h (h.id)}
          <button
            aria-pressed={h.id === show.house}
            onclick={() => h.id && move(h.id)}>{h.name}</button
          >
        {/each}
      </div>
      <div class="end noprint">
        <a href={`${at}/hire`}>What to hire</a> &nbsp;
        <a href={`${at}/rehearse/${order[i]?.c.evening || evenings[0] || 1}`}
          >Rehearse</a
        >
        &nbsp;
        <More
          acts={[
            ...["pdf", "xlsx", "csv", "md"].map((form) => ({
              text: `Running order, ${form === "md" ? "text" : form.toUpperCase()}`,
              href: exportURL(
                `/shows/${id}/papers/order.${form}?house=${encodeURIComponent(show.house)}`,
              ),
            })),
            {
              text: "Save as a file",
              href: exportURL(`/shows/${id}/export`),
            },
            {
              text: "Archive with patches",
              href: exportURL(`/archive?show=${id}`),
            },
            { text: "Rename", run: () => void rename() },
            { text: "Delete", run: () => void gone(), danger: true },
          ]}
        />
      </div>
    </div>
    {#if plan}
      <p class="told">
        {#if plan.heard}
          What is lost adds up to <strong class="num">{says(plan.loss)}</strong>
          just-noticeable differences, as heard.
        {:else}
          What is lost adds up to <strong class="num">{says(plan.loss)}</strong>
          by what the parts weigh that are lost;
          <span class="num">{plan.listened}</span> of
          <span class="num">{plan.pairs}</span> translations have been listened
          to.
          {#if !ear.now?.running}<button
              class="linkish"
              onclick={() => void ear.begin("", "")}
              >Listen to the rest, for all houses</button
            >{/if}
        {/if}
        {#if ear.now?.running}
          <button class="linkish" onclick={() => void ear.stop()}>Stop</button>
        {/if}
      </p>
      {#if ear.now?.running}
        <ProgressBar
          size="sm"
          value={ear.now.done}
          max={Math.max(1, ear.now.most)}
          labelText={`Listening: ${ear.now.done} of ${ear.now.most}${ear.now.left ? `, about ${clock(ear.now.left)} on` : ""}`}
          helperText={ear.now.of}
        />
      {/if}
      {#each plan.conflicts as x (x.evening)}
        <div class="beside found">
          <p>
            <strong class="red">Evening {x.evening} does not fit.</strong>
            {x.why}
          </p>
          <ul>
            {#each x.ways as w (w.says)}
              <li>
                {w.says}
                {#if w.wait > 0}<button
                    class="linkish"
                    onclick={() => void show.wait(w.cue, w.wait)}>Do so</button
                  >{/if}
              </li>
            {/each}
          </ul>
          {#if x.ways.length === 0}<p class="small">
              More than one cue is too many: another instrument would help; see
              <a href={`${at}/hire`}>what to hire</a>.
            </p>{/if}
        </div>
      {/each}
      {#if !plan.exact}<p class="small">
          The show has more ways to be played than could be looked at: another
          may be better.
        </p>{/if}
      {#each plan.aside as a (a)}<p class="small red">Left aside: {a}</p>{/each}
    {:else}
      <p class="soft" role="status">
        {show.planning ? "Planning" : "There is no house to plan for."}
      </p>
    {/if}
    {#if plan || !show.planning}
      {#if show.wrong && !editing}<p class="red">{show.wrong}</p>{/if}
      {#if order.length === 0}
        <p>
          No cue yet. Each has a time, a patch and who plays it.
          <Button size="small" kind="tertiary" onclick={() => void add()}
            >The first cue</Button
          >
        </p>
      {/if}
      {#each evenings as e (e)}
        <section>
          <h2>Evening {e}</h2>
          {#if plan}<Chart
              {plan}
              evening={e}
              chosen={show.chosen}
              {choose}
            />{/if}
          <table class="lines stack">
            <thead
              ><tr
                ><th>Time</th><th>Cue</th><th>Patch</th><th>Player</th><th
                  >On</th
                ><th>Before it</th><th class="r">Takes</th><th class="r"
                  >There is</th
                ><th class="r">Lost</th></tr
              ></thead
            >
            <tbody>
              {#each order.filter((x) => (x.c.evening || 1) === e) as x (x.c.id)}
                {@const p = x.p}
                {#if editing === x.c.id}
                  <tr aria-selected="true"
                    ><td colspan="9" class="wide">
                      <form
                        class="fields"
                        onsubmit={(ev) => {
                          ev.preventDefault();
                          void keep();
                        }}
                      >
                        <label
                          >Cue <input
                            bind:this={field}
                            bind:value={draft.name}
                            maxlength="200"
                            autocomplete="off"
                          /></label
                        >
                        <label
                          >Patch <select bind:value={draft.patch}
                            >{#if draft.patch && !nameOf.has(draft.patch)}<option
                                value={draft.patch}
                                >{draft.patch}, which is gone</option
                              >{/if}{#each show.view.patches as q (q.id)}<option
                                value={q.id}>{q.name}</option
                              >{/each}</select
                          ></label
                        >
                        <label class="short"
                          >From <input
                            class="num"
                            bind:value={draft.start}
                            placeholder="12:30"
                            autocomplete="off"
                          /></label
                        >
                        <label class="short"
                          >To <input
                            class="num"
                            bind:value={draft.end}
                            placeholder="14:00"
                            autocomplete="off"
                          /></label
                        >
                        <label class="short"
                          >Evening <input
                            class="num"
                            type="number"
                            min="1"
                            max="60"
                            bind:value={evening}
                          /></label
                        >
                        <label
                          >Player <input
                            bind:value={draft.player}
                            list="players"
                            maxlength="200"
                            placeholder="whoever is free"
                            autocomplete="off"
                          /></label
                        >
                        <Button size="small" type="submit">Keep</Button>
                        <Button size="small" kind="ghost" onclick={leave}
                          >Leave it</Button
                        >
                      </form>
                      {#if show.wrong}<p class="red small">{show.wrong}</p>{/if}
                    </td></tr
                  >
                {:else}
                  <tr
                    class="open"
                    aria-selected={x.c.id === show.chosen}
                    {@attach rows.at(x.c.id ?? "")}
                    onclick={() => x.c.id && choose(x.c.id)}
                    ondblclick={() => void edit(x.c)}
                  >
                    <td class="num">{x.c.start}&ndash;{x.c.end}</td>
                    <td class="wide"
                      ><strong>{x.c.name}</strong>
                      {#if x.c.id === show.chosen}<span class="small noprint"
                          ><button
                            class="linkish"
                            onclick={() => void edit(x.c)}>Change</button
                          >
                          <button
                            class="linkish"
                            onclick={() => void remove(x.c.id ?? "")}
                            >Take out</button
                          ></span
                        >{/if}</td
                    >
                    <td
                      >{#if nameOf.has(x.c.patch)}<a
                          href={`/patches/${part(x.c.patch)}`}
                          >{nameOf.get(x.c.patch)}</a
                        >{:else}<span class="red"
                          >{x.c.patch || "no patch"}{x.c.patch
                            ? ", which is gone"
                            : ""}</span
                        >{/if}</td
                    >
                    <td>{x.c.player ?? ""}</td>
                    {#if !p}
                      <td></td><td></td><td></td><td></td><td></td>
                    {:else if p.fault}
                      <td class="red wide" colspan="5">Left aside: {p.fault}</td
                      >
                    {:else if p.on < 0}
                      <td class="red wide" colspan="5"
                        >Not played: it does not fit</td
                      >
                    {:else}
                      <td
                        ><button
                          class="linkish"
                          title="Open the sheet of this cue on it"
                          onclick={(ev) => {
                            ev.stopPropagation();
                            void openSheet(x.c.patch, p.on);
                          }}>{plan?.instruments[p.on]?.name ?? ""}</button
                        >{#if bad.has(x.at)}<span class="red small in"
                            >in the conflict</span
                          >{/if}</td
                      >
                      <td class="soft"
                        >{p.from < 0
                          ? "set beforehand"
                          : p.moves > 0
                            ? `${p.moves} to change from ${plan?.cues[p.from]?.name ?? ""}`
                            : p.takes > 0
                              ? `program, from ${plan?.cues[p.from]?.name ?? ""}`
                              : `stands from ${plan?.cues[p.from]?.name ?? ""}`}</td
                      >
                      <td class="num r" data-of="takes"
                        >{p.from >= 0 && p.takes > 0
                          ? clock(Math.ceil(p.takes))
                          : ""}</td
                      >
                      <td
                        class="num r"
                        data-of="there is"
                        class:red={p.from >= 0 && p.takes > p.gap * 0.9}
                        >{p.from >= 0 ? clock(p.gap) : ""}</td
                      >
                      <td class="num r" data-of="lost"
                        >{p.loss === undefined ? "" : says(p.loss)}</td
                      >
                    {/if}
                  </tr>
                {/if}
              {/each}
            </tbody>
          </table>
        </section>
      {/each}
      <datalist id="players"
        >{#each [...new Set( [...(doc.players ?? []).map((p) => p.name), ...doc.cues.map((c) => c.player ?? "")] )].filter(Boolean) as name (name)}<option
            value={name}
          ></option>{/each}</datalist
      >
      {#if order.length > 0}<p class="noprint">
          <button class="linkish" onclick={() => void add()}>Another cue</button
          >
        </p>{/if}
      <House {show} />
    {/if}
  {/if}
</div>

<style>
  .houses {
    display: flex;
    flex-wrap: wrap;
  }
  .called {
    font: inherit;
    font-size: 1.25rem;
    min-width: 22rem;
    max-width: 100%;
    color: var(--ink);
    background: var(--sheet);
    border: 0;
    border-bottom: 1px solid var(--ink-3);
  }
  .told {
    margin: 0.5rem 0;
  }
  section h2 {
    margin: 1rem 0 0.25rem;
  }
  .beside p {
    margin: 0 0 0.25rem;
    font-size: 0.875rem;
    line-height: 1.375rem;
  }
  .beside ul {
    margin: 0;
    padding-left: 1.25rem;
    list-style: disc;
    line-height: 1.375rem;
  }
  .in {
    margin-left: 0.5rem;
  }
  .r {
    text-align: right;
  }
  .fields .short input {
    min-width: 0;
    width: 5.5rem;
  }
  @media (max-width: 760px) {
    .houses button {
      min-height: 2.75rem;
    }
  }
</style>
