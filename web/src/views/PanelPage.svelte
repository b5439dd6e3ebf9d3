<script lang="ts">
  import { exportURL, part } from "../lib/api";
  import * as panels from "../lib/calls/panels";
  import { keys } from "../lib/keys.svelte";
  import { load } from "../lib/load.svelte";
  import { Places } from "../lib/places";
  import { route } from "../lib/route.svelte";
  import type { PanelView } from "../lib/types";
  import { stepTitle } from "../lib/words";
  import ScaleStrip from "../parts/ScaleStrip.svelte";

  let { id }: { id: string } = $props();
  let view = $state<PanelView | null>(null);
  let missing = $state("");
  const rows = new Places();

  load(
    () => panels.get(id),
    (v) => {
      view = v;
      document.title = `${v.name} - Glossator`;
    },
    (detail) => (missing = detail),
  );
  let find = $state("");
  let finder = $state<HTMLInputElement | null>(null);
  const words = $derived(find.toLowerCase().split(/\s+/).filter(Boolean));
  /** The sections with the controls that are found: every word begins one of the label, section, aliases or of what is set. */
  const sections = $derived(
    (view?.sections ?? [])
      .map((s) => ({
        ...s,
        controls: s.controls.filter((c) => {
          if (words.length === 0) return true;
          const text = [
            s.label,
            c.label,
            ...c.aliases,
            ...c.means.map((m) => m.label),
          ]
            .join(" ")
            .toLowerCase()
            .split(/[\s,]+/);
          return words.every((w) => text.some((x) => x.startsWith(w)));
        }),
      }))
      .filter((s) => s.controls.length > 0),
  );
  const ids = $derived(sections.flatMap((s) => s.controls.map((c) => c.id)));
  function move(by: number) {
    const i = ids.indexOf(route.line);
    const to = ids[Math.min(ids.length - 1, Math.max(0, i + by))] ?? "";
    route.choose(to);
    rows.show(to, false);
  }
  $effect(() => {
    if (view && route.line) rows.show(route.line, false, "center");
  });
  keys([
    {
      keys: "↑ ↓",
      does: "move through the controls",
      on: ["ArrowUp", "ArrowDown"],
      run: (e) => move(e.key === "ArrowDown" ? 1 : -1),
    },
    {
      keys: "/",
      does: "find a control",
      on: "/",
      run: () => (finder?.focus(), finder?.select()),
    },
    {
      keys: "w",
      does: "open the workshop at the chosen control",
      on: "w",
      run: () =>
        route.go(
          `/panels/${part(id)}/workshop${route.line ? `?line=controls:${part(route.line)}` : ""}`,
        ),
    },
    {
      keys: "b",
      does: "the bench: measure its laws",
      on: "b",
      run: () => route.go(`/panels/${part(id)}/bench`),
    },
    {
      keys: "m",
      does: "what stands in its memory",
      on: "m",
      run: () => route.go(`/panels/${part(id)}/slots`),
    },
    {
      keys: "Esc",
      does: "back to where you came from",
      on: "Escape",
      run: () => route.back("/panels"),
    },
  ]);
</script>

<div class="page">
  {#if missing}
    <h1>No such panel</h1>
    <p>{missing} <a href="/panels">All panels</a></p>
  {:else if !view}
    <p class="soft" role="status">Loading</p>
  {:else}
    <div class="bar">
      <h1>{view.name}</h1>
      <span class="soft small num"
        >revision {view.revision}, {view.controls} controls, {view.modules} modules,
        {view.memory ? "with memory" : "no memory"}</span
      >
      <div class="end bar">
        <a
          href={`/panels/${part(id)}/workshop${route.line ? `?line=controls:${part(route.line)}` : ""}`}
          >Open the workshop</a
        >
        <a href={`/panels/${part(id)}/bench`}>Measure its laws</a>
        {#if view.memory}<a href={`/panels/${part(id)}/slots`}>Slots</a>{/if}
        <a download href={exportURL(`/panels/${part(id)}/controls.csv`)}
          >Controls as CSV</a
        >
        <a download href={exportURL(`/panels/${part(id)}/export`)}
          >Export JSON</a
        >
      </div>
    </div>
    <p class="reason">{view.summary}</p>
    {#if view.notes.length > 0}
      <h2 class="sub">What the panel does not show</h2>
      <ul class="notes">
        {#each view.notes as n, i (i)}<li>
            <strong>{n.about}</strong> <span class="reason">{n.text}</span>
          </li>{/each}
      </ul>
    {/if}
    <p>
      <label class="small"
        >Find a control <input
          class="find"
          bind:this={finder}
          bind:value={find}
          autocomplete="off"
          onkeydown={(e) => {
            if (e.key !== "Escape" && e.key !== "Enter") return;
            e.stopPropagation();
            if (e.key === "Escape") find = "";
            finder?.blur();
            route.choose(ids[0] ?? route.line);
          }}
        /></label
      >
      {#if words.length > 0}<span class="small soft" role="status"
          >{ids.length === 1 ? "1 control" : `${ids.length} controls`}</span
        >{/if}
    </p>
    {#each sections as s (s.id)}
      <h2 class="sub">
        {s.label} <span class="soft small">{stepTitle(s.step)}</span>
      </h2>
      <table class="lines stack">
        <thead class="visually-hidden"
          ><tr><th>Control</th><th>Init</th><th>Scale</th><th>Law</th></tr
          ></thead
        >
        <tbody>
          {#each s.controls as c (c.id)}
            <tr
              id={`c-${c.id}`}
              {@attach rows.at(c.id)}
              aria-current={route.line === c.id ? "true" : undefined}
              class:chosen={route.line === c.id}
            >
              <td class="control"
                >{c.label}{#if c.hidden}<span class="soft small">
                    hidden</span
                  >{/if}
                {#if c.aliases.length}<div class="soft small">
                    {c.aliases.join(", ")}
                  </div>{/if}
                {#if c.midi}<div class="soft small num">{c.midi}</div>{/if}
              </td>
              <td class="num init"
                ><span class="soft small">init</span> {c.init}</td
              >
              <td class="scale wide">
                {#each c.means as m, i (i)}
                  <ScaleStrip mean={m} />
                {:else}<span class="small">{c.expects}</span>{/each}
              </td>
              <td class="small law wide">
                {#each c.means as m, i (i)}
                  <div>
                    <strong>{m.label}</strong>{#if m.when}<span class="soft">
                        with {m.when}</span
                      >{/if} <span class="reason">{m.law}</span>
                  </div>
                {:else}<span class="reason">chooses what else is there</span
                  >{/each}
                {#if c.note}<div class="reason red">{c.note}</div>{/if}
              </td>
            </tr>
          {/each}
        </tbody>
      </table>
    {/each}
    <h2 class="sub">Modules</h2>
    <table class="lines stack">
      <thead
        ><tr><th>Module</th><th>Kind</th><th>Fixed</th><th>There when</th></tr
        ></thead
      >
      <tbody>
        {#each view.parts as m (m.id)}
          <tr
            ><td>{m.label}</td><td>{m.kind}</td><td class="num small"
              >{m.fixed || "–"}</td
            ><td class="small">{m.when || "always"}</td></tr
          >
        {/each}
      </tbody>
    </table>
    {#if view.routes.length > 0}
      <h2 class="sub">Routes and patch points</h2>
      <table class="lines stack">
        <thead
          ><tr
            ><th>Route</th><th>Kind</th><th>Scaled by</th><th>There when</th
            ></tr
          ></thead
        >
        <tbody>
          {#each view.routes as r, i (i)}
            <tr
              ><td>{r.label}</td><td>{r.kind}</td><td>{r.via || "–"}</td><td
                class="small">{r.when || "always"}</td
              ></tr
            >
          {/each}
        </tbody>
      </table>
    {/if}
  {/if}
</div>

<style>
  .sub {
    margin: 1.25rem 0 0.25rem;
  }
  .notes {
    margin: 0;
    padding: 0;
    list-style: none;
  }
  .page > p {
    margin: 0.75rem 0 0;
  }
  .find {
    font: inherit;
    font-size: 0.875rem;
    width: 16rem;
    max-width: 100%;
    padding: 0.125rem 0.375rem;
    color: var(--ink);
    background: var(--sheet);
    border: 0;
    border-bottom: 1px solid var(--ink-3);
  }
  .control {
    width: 13rem;
  }
  .init {
    width: 8rem;
    white-space: nowrap;
  }
  .scale {
    width: 42%;
  }
  .law {
    line-height: 1.125rem;
  }
  strong {
    font-weight: 600;
  }
  .chosen td {
    background: var(--chosen);
  }
  tr {
    scroll-margin: 4rem;
  }
  tbody td {
    vertical-align: top;
  }
</style>
