<script lang="ts">
  import { Button, Select, SelectItem, Toggle } from "carbon-components-svelte";
  import { app, plain, pressing, typing } from "../lib/app.svelte";
  import { ask, exportURL, part, Refusal } from "../lib/api";
  import { route } from "../lib/route.svelte";
  import { steps, type Opened, type PatchView } from "../lib/types";
  import ClockPointer from "../parts/ClockPointer.svelte";

  let { id }: { id: string } = $props();
  let view = $state<PatchView | null>(null);
  let missing = $state("");
  let all = $state(false);
  let target = $state("");
  let layer = $state("");

  async function load() {
    try {
      view = await ask<PatchView>("GET", `/patches/${part(id)}`);
      missing = "";
      app.pending = view.pending;
      if (!view.layers.includes(layer)) layer = view.layers[0] ?? "";
      if (!view.targets.some((t) => t.id === target))
        target = view.targets[0]?.id ?? "";
      document.title = `${view.name} - Glossator`;
    } catch (e) {
      if (e instanceof Refusal && e.problem.status === 404)
        missing = e.problem.detail;
      else app.fail(e);
    }
  }
  $effect(() => {
    void app.changed;
    void load();
  });
  $effect(() => {
    app.keys = [
      { keys: "a", does: "all readings, or only those that differ from init" },
      { keys: "o", does: "open the sheet on the chosen target" },
      { keys: "Esc", does: "back to the patches" },
    ];
  });

  const lines = $derived(
    view?.layerViews.find((l) => l.id === layer)?.lines ?? [],
  );
  const cables = $derived(
    view?.layerViews.find((l) => l.id === layer)?.cables ?? [],
  );
  const shown = $derived(all ? lines : lines.filter((l) => !l.atInit));

  async function translate() {
    try {
      const s = await ask<Opened>("POST", "/sheets", {
        patch: id,
        target,
        layer,
      });
      route.go(`/sheets/${s.id}`);
    } catch (e) {
      app.fail(e);
    }
  }
  async function remove() {
    try {
      await ask("DELETE", `/patches/${part(id)}`);
      app.say("Deleted", `${view?.name ?? id}; undo brings it back.`);
      app.changed++;
      route.go("/patches");
    } catch (e) {
      app.fail(e);
    }
  }
  function keydown(e: KeyboardEvent) {
    if (typing(e) || !plain(e) || app.help || pressing(e)) return;
    if (e.key === "a") all = !all;
    else if (e.key === "o" && target) void translate();
    else if (e.key === "Escape") route.go("/patches");
    else return;
    e.preventDefault();
  }
</script>

<svelte:window onkeydown={keydown} />

<div class="page">
  {#if missing}
    <h1>No such patch</h1>
    <p>{missing} <a href="/patches">All patches</a></p>
  {:else if !view}
    <p class="soft" role="status">Loading</p>
  {:else}
    <div class="bar">
      <h1>{view.name}</h1>
      <span
        >{view.kind} on
        <a href={`/panels/${part(view.panel)}`}>{view.panelName}</a
        >{#if view.tempo}, <span class="num">{view.tempo}</span> a minute{/if}</span
      >
      <span class="soft small">{view.tags.join(", ")}</span>
      <div class="end bar">
        <Select labelText="Target" hideLabel size="sm" bind:selected={target}>
          {#each view.targets as t (t.id)}
            <SelectItem
              value={t.id}
              text={t.id === view.panel ? `${t.name} (its own)` : t.name}
            />
          {/each}
        </Select>
        <Button size="small" disabled={!target} on:click={translate}
          >Open the sheet</Button
        >
        <a download href={exportURL(`/patches/${part(id)}/export`)}
          >Export JSON</a
        >
        <button class="linkish" onclick={remove}>Delete</button>
      </div>
    </div>
    {#if view.notes}<p class="reason notes">{view.notes}</p>{/if}
    <div class="bar">
      {#if view.layers.length > 1}
        <Select labelText="Layer" size="sm" bind:selected={layer}>
          {#each view.layerViews as l (l.id)}<SelectItem
              value={l.id}
              text={l.label || l.id}
            />{/each}
        </Select>
      {/if}
      <Toggle
        size="sm"
        labelText="Readings"
        hideLabel
        labelA="only what differs from init"
        labelB="all readings"
        bind:toggled={all}
      />
      <span class="soft small end"
        >Typing readings comes with a later version; this view reads only.
        Export, edit and import the file for now.</span
      >
    </div>
    <table class="lines">
      <thead
        ><tr
          ><th>Step</th><th>Section</th><th>Control</th><th>Reading</th><th
            >Meaning</th
          ><th>k = 2</th><th>Remark</th></tr
        ></thead
      >
      <tbody>
        {#each shown as l, i (l.control)}
          <tr>
            <td class="small soft"
              >{shown[i - 1]?.step !== l.step ? steps[l.step] : ""}</td
            >
            <td>{shown[i - 1]?.section !== l.section ? l.section : ""}</td>
            <td>{l.label}</td>
            <td class="num" class:soft={l.atInit}
              ><ClockPointer reading={l.reading} /> {l.reading}</td
            >
            <td class="num">{l.meaning || "–"}</td>
            <td class="num soft">{l.tol}</td>
            <td class="reason small">{l.idle}</td>
          </tr>
        {/each}
      </tbody>
    </table>
    {#if cables.length > 0}
      <h2 class="sub">Cables</h2>
      <ul>
        {#each cables as c (c.to)}<li class="num">
            {c.from} into {c.to}
          </li>{/each}
      </ul>
    {/if}
    {#if view.phrase}
      <h2 class="sub">Phrase: {view.phrase.name || "unnamed"}</h2>
      <p class="num phrase">
        {#each view.phrase.notes as n, i (i)}<span
            >{n.at} {n.note} for {n.for} at {n.velocity}</span
          >{/each}
      </p>
    {/if}
  {/if}
</div>

<style>
  .notes {
    max-width: 50rem;
    margin: 0.5rem 0 1rem;
    font-size: 0.9375rem;
    line-height: 1.375rem;
  }
  .sub {
    margin: 1.25rem 0 0.25rem;
  }
  .phrase {
    display: flex;
    flex-wrap: wrap;
    gap: 0.25rem 1.5rem;
    font-size: 0.8125rem;
  }
  .bar :global(.bx--form-item) {
    flex: 0 0 auto;
  }
</style>
