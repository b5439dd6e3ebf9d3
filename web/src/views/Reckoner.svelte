<script lang="ts">
  import { refused } from "../lib/api";
  import { app } from "../lib/app.svelte";
  import * as calls from "../lib/calls/sums";
  import { keys } from "../lib/keys.svelte";
  import { Places } from "../lib/places";
  import { route } from "../lib/route.svelte";
  import type { Sum } from "../lib/types";

  let sums = $state<Sum[]>([]);
  // the chosen line's value, where the reckoner was opened on one
  const given = new URLSearchParams(location.search);
  const value = given.get("value") ?? "";
  const of = given.get("of") ?? "";
  let taken = $state<Record<string, "left" | "right">>({});
  const start = given.get("tempo") ?? "96";
  let tempo = $state(start);
  let note = $state("A2");
  let time = $state("350 ms");
  let track = $state("50 %");
  type Line = {
    left: string;
    right: string;
    wrong: string;
    from: "left" | "right";
  };
  let lines = $state<Record<string, Line>>({});

  document.title = "Reckoner - Glossator";
  $effect(() => {
    app.carry = null;
    calls
      .list(value ? { value, tempo: start, note: "A2", time: "350 ms" } : {})
      .then((s) => {
        app.pending = s.pending;
        lines = Object.fromEntries(
          s.sums.map((x) => [
            x.id,
            {
              left: x.left.example,
              right: "",
              wrong: "",
              from: "left" as const,
            },
          ]),
        );
        taken = Object.fromEntries(
          s.taken.map((t) => [t.id, t.side as "left" | "right"]),
        );
        for (const t of s.taken) {
          const l = lines[t.id];
          const from = t.side as "left" | "right";
          if (l) {
            [l.left, l.right, l.from] = [t.left, t.right, from];
            l[from] = value;
          }
        }
        // the sums that the value fits come first
        sums = [
          ...s.sums.filter((x) => taken[x.id]),
          ...s.sums.filter((x) => !taken[x.id]),
        ];
        for (const x of s.sums) if (!taken[x.id]) void work(x, "left");
      })
      .catch((e: unknown) => app.fail(e));
  });

  async function work(s: Sum, from: "left" | "right") {
    const l = lines[s.id];
    if (!l) return;
    l.from = from;
    const text = l[from].trim();
    if (!text) {
      l[from === "left" ? "right" : "left"] = "";
      l.wrong = "";
      return;
    }
    const given = {
      [from]: text,
      ...(s.needs === "tempo" ? { tempo } : {}),
      ...(s.needs.startsWith("note") ? { note } : {}),
      ...(s.needs.endsWith("tracking") ? { track } : {}),
      ...(s.needs === "time" ? { time } : {}),
    };
    try {
      const a = await calls.work(s.id, given);
      if (l[from].trim() !== text || l.from !== from) return; // typed on since
      l[from === "left" ? "right" : "left"] =
        from === "left" ? a.right : a.left;
      l.wrong = "";
    } catch (e) {
      if (l[from].trim() !== text || l.from !== from) return;
      l[from === "left" ? "right" : "left"] = ""; // what stands there is no answer to this
      l.wrong = refused(e) ?? "";
      if (!l.wrong) app.fail(e);
    }
  }
  function again(needs: string) {
    for (const s of sums)
      if (s.needs.includes(needs)) void work(s, lines[s.id]?.from ?? "left");
  }
  // the fields of all sums, in the order of the page
  const fields = new Places();
  keys([
    {
      keys: "↑ ↓",
      does: "from sum to sum, also while typing",
      on: ["ArrowUp", "ArrowDown"],
      typing: true,
      run: (e) => {
        fields.walk(e.key === "ArrowDown" ? 2 : -2);
        const to = document.activeElement;
        if (to instanceof HTMLInputElement) to.select();
      },
    },
    { keys: "Tab", does: "to the other side of a sum" },
    {
      keys: "Esc",
      does: "back to where you were",
      on: "Escape",
      typing: true,
      run: () => route.back("/"),
    },
  ]);
</script>

<div class="page">
  <div class="bar top">
    <h1>Reckoner</h1>
    <div class="end bar context">
      <label
        >Tempo <input
          class="num"
          bind:value={tempo}
          oninput={() => again("tempo")}
        /></label
      >
      <label
        >Note played <input
          class="num"
          bind:value={note}
          oninput={() => again("note")}
        /></label
      >
      <label
        >Echo <input
          class="num"
          bind:value={time}
          oninput={() => again("time")}
        /></label
      >
      <label
        >Tracking <input
          class="num"
          bind:value={track}
          oninput={() => again("tracking")}
        /></label
      >
    </div>
  </div>
  {#if sums.length === 0}<p class="soft" role="status">Loading</p>
  {:else if value}
    <p role="status">
      <span class="num">{value}</span>
      {of ? `of ${of}` : ""}
      <span class="reason"
        >{Object.keys(taken).length
          ? "stands in the sums that it fits; they come first."
          : "fits no sum: a sum takes a value with its unit."}</span
      >
    </p>
  {/if}
  <table class="lines stack">
    <thead
      ><tr
        ><th>Sum</th><th>One side</th><th
          ><span class="visually-hidden">is</span></th
        ><th>The other</th><th>Formula</th><th>Source</th></tr
      ></thead
    >
    <tbody>
      {#each sums as s (s.id)}
        {@const l = lines[s.id]}
        {#if l}
          <tr class:taken={!!taken[s.id]}>
            <td class="wide"
              >{s.label}{#if s.needs}<span class="soft small"
                  >, by the {s.needs === "time" ? "echo" : s.needs}</span
                >{/if}</td
            >
            {#each ["left", "right"] as const as side (side)}
              {#if side === "right"}<td class="soft" aria-hidden="true">=</td
                >{/if}
              <td>
                <input
                  class="num"
                  {@attach fields.at(`${s.id} ${side}`)}
                  data-sum={s.id}
                  aria-label={`${s.label}: ${s[side].label}`}
                  aria-invalid={!!l.wrong && l.from === side}
                  autocomplete="off"
                  spellcheck="false"
                  bind:value={l[side]}
                  oninput={() => work(s, side)}
                />
                <div class="small soft">{s[side].label}</div>
              </td>
            {/each}
            <td class="num small wide">{s.formula}</td>
            <td class="reason small wide"
              >{s.source}{#if l.wrong}<div class="red" role="alert">
                  {l.wrong}
                </div>{/if}</td
            >
          </tr>
        {/if}
      {/each}
    </tbody>
  </table>
</div>

<style>
  .top {
    margin-bottom: 0.5rem;
  }
  .context input.num {
    width: 6rem;
    margin-left: 0.375rem;
  }
  input.num {
    font-size: 0.875rem;
    width: 100%;
    min-width: 8rem;
    max-width: 15rem;
    padding: 0.125rem 0.375rem;
    color: var(--ink);
    background: var(--sheet);
    border: 0;
    border-bottom: 1px solid var(--ink-3);
  }
  input[aria-invalid="true"] {
    border-bottom: 2px solid var(--rubric);
  }
  @media (max-width: 760px) {
    input.num {
      width: 8.5rem;
      min-width: 0;
    }
    .context {
      flex-wrap: wrap;
    }
  }
  .taken td {
    background: var(--chosen);
  }
  td {
    vertical-align: top;
  }
</style>
