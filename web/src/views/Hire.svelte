<script lang="ts">
  import { ProgressBar } from "carbon-components-svelte";
  import { exportURL, part } from "../lib/api";
  import * as shows from "../lib/calls/shows";
  import { app } from "../lib/app.svelte";
  import { keys } from "../lib/keys.svelte";
  import { load } from "../lib/load.svelte";
  import { route } from "../lib/route.svelte";
  import { Listening } from "../lib/show.svelte";
  import { clock } from "../lib/times";
  import type { ShowHire } from "../lib/types";
  import More from "../parts/More.svelte";

  /** What the instruments of a house would carry of a book, and which two or three carry it best. */
  let { id, house }: { id: number; house: string } = $props();
  let view = $state.raw<ShowHire | null>(null);
  let missing = $state("");
  let rack = $state("");
  let open = $state("");
  let size = $state(2);
  load(
    () => shows.hire(id, house, rack),
    (v) => {
      view = v;
      missing = "";
      document.title = `What to hire, ${v.show} - Glossator`;
    },
    (detail) => (missing = detail),
  );
  // svelte-ignore state_referenced_locally
  const ear = new Listening(id, () => app.changed++);
  const listen = () =>
    ear.now?.running
      ? ear.stop()
      : ear.begin(house, view && view.listened < view.pairs ? "" : rack);
  const says = (x: number) => x.toFixed(1);
  const query = $derived(
    `house=${encodeURIComponent(house)}${rack ? `&rack=${encodeURIComponent(rack)}` : ""}`,
  );
  const sets = $derived(
    (view?.sets ?? []).filter((s) => s.size === size).slice(0, 12),
  );
  const best = $derived(
    [2, 3].map((n) => view?.sets.find((s) => s.size === n)),
  );
  keys([
    {
      keys: "2 3",
      does: "sets of two, or of three",
      on: ["2", "3"],
      run: (e) => (size = Number(e.key)),
    },
    {
      keys: "l",
      does: "listen to what nobody has listened to yet, or stop that",
      on: "l",
      run: () => void listen(),
    },
    { keys: "p", does: "print", on: "p", run: () => print() },
    {
      keys: "Esc",
      does: "back to where you came from",
      on: "Escape",
      run: () => route.back(`/shows/${id}/${part(house)}`),
    },
  ]);
</script>

<div class="page">
  {#if missing}
    <h1>No such house</h1>
    <p>{missing} <a href="/shows">All shows</a></p>
  {:else if !view}
    <p class="soft" role="status">Loading</p>
  {:else}
    <div class="bar">
      <h1>What to hire: {view.house}</h1>
      <a class="soft" href={`/shows/${id}/${part(house)}`}>{view.show}</a>
      <label class="small noprint"
        >with a rack behind it <select
          bind:value={rack}
          onchange={() => app.changed++}
          ><option value="">none</option>{#each view.racks as r (r.id)}<option
              value={r.id}>{r.name}</option
            >{/each}</select
        ></label
      >
      <div class="end noprint">
        <More
          label="Send it as"
          acts={["pdf", "xlsx", "csv", "md"].map((form) => ({
            text: form === "md" ? "Text" : form.toUpperCase(),
            href: exportURL(`/shows/${id}/papers/hire.${form}?${query}`),
          }))}
        />
      </div>
    </div>
    {#if view.note}<p class="reason">{view.note}</p>{/if}
    <p>
      {view.cues} cues. What is lost is {view.heard
        ? "in just-noticeable differences, as heard"
        : "by what the parts weigh that are lost, until all has been listened to"};
      less is better. Heard:
      <span class="num">{view.listened}</span> of
      <span class="num">{view.pairs}</span>{#if rack}, with the rack
        <span class="num">{view.rackListened}</span> of
        <span class="num">{view.rackPairs}</span>{/if}.
      {#if ear.now?.running || view.listened < view.pairs || (rack && view.rackListened < view.rackPairs)}
        <button class="linkish noprint" onclick={() => void listen()}
          >{ear.now?.running ? "Stop listening" : "Listen to the rest"}</button
        >
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
    {#each view.aside as a (a)}<p class="small red">Left aside: {a}</p>{/each}
    {#if view.each.length === 0}
      <p>
        This house has no instrument yet. <a
          href={`/shows/${id}/${part(house)}`}>Say what can be hired there</a
        >.
      </p>
    {:else}
      {#if best[0]}<p class="advice">
          {#each best as b, n (n)}{#if b}<span
                >{n === 0 ? "Of two" : "Of three"},
                <strong
                  >{b.instruments.slice(0, -1).join(", ")} and {b.instruments.at(
                    -1,
                  )}</strong
                >
                {b.dropped.length === 0
                  ? "play the whole book"
                  : `leave out ${b.dropped.join(", ")}`}, lose {says(b.loss)} and
                cost
                {b.price}{b.unused.length > 0
                  ? ` (${b.unused.join(", ")} not needed)`
                  : ""}.</span
              >{/if}{/each}
        </p>{/if}
      <h2>What each carries of the whole book</h2>
      <table class="lines stack">
        <thead
          ><tr
            ><th>Instrument</th><th class="r">Price</th><th class="r">Lost</th
            ><th>Worst</th><th>A second one adds</th>{#if view.rack}<th
                class="r">Rack saves</th
              >{/if}<th>Note</th></tr
          ></thead
        >
        <tbody>
          {#each view.each as h (h.instrument.name)}
            <tr>
              <td
                ><a href={`/panels/${part(h.instrument.panel)}`}
                  >{h.instrument.name}</a
                >{#if h.instrument.player}<span class="soft small">
                    with {h.instrument.player}</span
                  >{/if}</td
              >
              <td class="num r" data-of="price">{h.instrument.price}</td>
              <td class="num r" data-of="lost">{says(h.loss)}</td>
              <td class="wide"
                >{#each h.cues.slice(0, open === h.instrument.name ? 999 : 2) as c, n (n)}{n
                    ? ", "
                    : ""}{c.name}&nbsp;<span class="num">{says(c.loss)}</span
                  >{/each}
                {#if h.cues.length > 2}<button
                    class="linkish small noprint"
                    aria-expanded={open === h.instrument.name}
                    onclick={() =>
                      (open =
                        open === h.instrument.name ? "" : h.instrument.name)}
                    >{open === h.instrument.name
                      ? "fewer"
                      : `all ${h.cues.length}`}</button
                  >{/if}
                {#if h.cannot.length > 0}<span class="red small"
                    >cannot: {h.cannot.join(", ")}</span
                  >{/if}</td
              >
              <td class="wide"
                >{#if h.second}{h.second}: {h.plays > 0
                    ? `${h.plays} more to play, `
                    : ""}{says(h.spares)} less lost{/if}</td
              >
              {#if view.rack}<td class="num r" data-of="the rack saves"
                  >{h.saved === undefined ? "not heard yet" : says(h.saved)}</td
                >{/if}
              <td class="soft">{h.instrument.note ?? ""}</td>
            </tr>
          {/each}
        </tbody>
      </table>
      <div class="bar sets">
        <h2>Together, as the evenings can be played</h2>
        <span role="group" aria-label="How many" class="pick noprint">
          {#each [2, 3] as n (n)}<button
              aria-pressed={size === n}
              onclick={() => (size = n)}>{n === 2 ? "two" : "three"}</button
            >{/each}</span
        >
      </div>
      {#if sets.length === 0}<p>
          There are not so many instruments in this house.
        </p>{:else}
        <table class="lines stack">
          <thead
            ><tr
              ><th>Instruments</th><th class="r">Price</th><th class="r"
                >Lost</th
              ><th>Worst</th><th>Not played</th></tr
            ></thead
          >
          <tbody>
            {#each sets as s (s.instruments.join())}
              <tr>
                <td class="wide">
                  {s.instruments.join(" + ")}
                  {#if s.unused.length > 0}
                    <span class="soft small"
                      >({s.unused.join(", ")} not needed)</span
                    >
                  {/if}
                </td>
                <td class="num r" data-of="price">{s.price}</td>
                <td class="num r" data-of="lost">{says(s.loss)}</td>
                <td
                  >{#if s.worst}{s.worst}&nbsp;<span class="num"
                      >{says(s.worstLoss)}</span
                    >{/if}</td
                >
                <td class="red">{s.dropped.join(", ")}</td>
              </tr>
            {/each}
          </tbody>
        </table>
        <p class="small soft">
          Every set was planned exactly: what plays the most comes first, then
          what loses the least.
        </p>
      {/if}
    {/if}
  {/if}
</div>

<style>
  .r {
    text-align: right;
  }
  .advice {
    font-family: var(--serif);
    font-size: 1rem;
    margin: 0.75rem 0;
  }
  .advice span {
    display: block;
    line-height: 1.5rem;
  }
  .advice strong {
    font-style: normal;
  }
  .sets {
    margin-top: 1.5rem;
  }
</style>
