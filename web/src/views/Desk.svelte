<script lang="ts">
  import { Button, Select, SelectItem } from "carbon-components-svelte";
  import { part } from "../lib/api";
  import { app } from "../lib/app.svelte";
  import * as program from "../lib/calls/program";
  import * as sheets from "../lib/calls/sheets";
  import { guide } from "../lib/guide.svelte";
  import { keys } from "../lib/keys.svelte";
  import { load } from "../lib/load.svelte";
  import { Places } from "../lib/places";
  import { route } from "../lib/route.svelte";
  import { words } from "../lib/words";
  import type { Desk } from "../lib/types";
  import * as shelves from "../lib/calls/shelf";
  import { Shelf } from "../lib/shelf.svelte";
  import ShelfBar from "../parts/ShelfBar.svelte";
  import PhoneAddress from "../parts/PhoneAddress.svelte";
  import Summary from "../parts/Summary.svelte";

  let desk = $state<Desk | null>(null);
  let patch = $state("");
  let target = $state("");
  const rows = new Places();

  document.title = "Desk - Glossator";
  load(program.desk, (d) => {
    desk = d;
    if (!d.patches.some((p) => p.id === patch))
      patch =
        d.patches.find((p) => p.kind === "bass")?.id ?? d.patches[0]?.id ?? "";
  });

  const shelf = new Shelf("sheet");
  let archived = $state(false);
  const sheetRows = $derived(
    (desk?.sheets ?? []).filter((y) => !!y.archived === archived),
  );
  const stored = $derived(desk?.sheets.some((y) => y.archived));
  const patchRows = $derived((desk?.patches ?? []).filter((p) => !p.archived));
  const sampled = $derived(
    desk?.patches.some((p) => p.sample) || desk?.panels.some((p) => p.sample),
  );
  const sheetOf = (id: string) => desk?.sheets.find((y) => String(y.id) === id);
  const called = (id: string) => {
    const y = sheetOf(id);
    return y?.title || `${y?.patchName ?? id} on ${y?.targetName ?? ""}`;
  };
  const dropSample = () =>
    app.attempt(async () => {
      const g = await shelves.dropSample();
      app.pending = g.pending;
      app.changed++;
      const kept = g.kept.length
        ? ` Kept, as something of yours stands on it or it was changed: ${g.kept.join(", ")}.`
        : "";
      app.say(
        "The sample is gone",
        `${g.panels} panels, ${g.patches} patches and ${g.sheets} sheets; undo brings them back.${kept}`,
      );
    });

  const own = $derived(desk?.patches.find((p) => p.id === patch)?.panel ?? "");
  const targets = $derived(
    (desk?.panels ?? []).filter(
      (p) => p.kind === "instrument" && !p.fault && !p.archived,
    ),
  );
  const broken = $derived((desk?.panels ?? []).filter((p) => p.fault));
  $effect(() => {
    if (!targets.some((t) => t.id === target) || target === own)
      target = targets.find((t) => t.id !== own)?.id ?? targets[0]?.id ?? "";
  });

  const translate = (patch: string, target: string) =>
    app.attempt(async () =>
      route.go(`/sheets/${(await sheets.open({ patch, target })).id}`),
    );
  const lower = (text: string) =>
    /^[A-Z][a-z]/.test(text) ? text[0]?.toLowerCase() + text.slice(1) : text;
  const sample = () =>
    app.attempt(async () => {
      const n = await program.sample();
      if (n.panels + n.patches > 0)
        app.say(
          "Sample loaded",
          `${n.panels} panels and ${n.patches} patches; undo takes them away again.`,
        );
      await translate("keel", "halyard");
    });
  keys([
    {
      keys: "↑ ↓",
      does: "move through patches and sheets",
      on: ["ArrowUp", "ArrowDown"],
      run: (e) => rows.walk(e.key === "ArrowDown" ? 1 : -1),
    },
    { keys: "Enter", does: "open the chosen line" },
    {
      keys: "x",
      does: "choose the sheet, to rename, duplicate, archive or delete it",
      on: "x",
      run: () => {
        const id = (
          document.activeElement as HTMLElement | null
        )?.closest<HTMLElement>("li[data-id]")?.dataset["id"];
        if (id) shelf.toggle(id);
      },
    },
    { keys: "s", does: "open the sample translation", on: "s", run: sample },
    {
      keys: "n",
      does: "describe an instrument",
      on: "n",
      run: () => route.go("/panels?line=new"),
    },
  ]);
  const when = (iso: string) =>
    new Date(iso).toLocaleString("en-GB", {
      dateStyle: "medium",
      timeStyle: "short",
    });
</script>

<div class="page">
  <div class="bar">
    <h1>Desk</h1>
    <div class="end">
      <button class="linkish" onclick={() => guide.begin()}
        >The first half hour</button
      >
      &nbsp;
      <a href="/ear">Ear practice</a> &nbsp;
      <a href="/keep">Backups and archives</a>
    </div>
  </div>
  {#if !desk}
    <p class="soft" role="status">Loading</p>
  {:else}
    {#if desk.patches.length === 0}
      <section class="way">
        <h2>Nothing is on the desk yet</h2>
        <p>
          A patch is the readings of one sound on one instrument; a sheet is
          that patch set on another, with a reason for every line. See one
          first: the sample is the bass <em>Keel</em>, from a three-oscillator
          analogue without memory to a polyphonic instrument that counts from 0
          to 127.
        </p>
        <div class="bar">
          <Button onclick={sample}>Open the sample translation</Button>
        </div>
        <h3>Or begin with your own</h3>
        <dl class="ways">
          <dt><a href="/panels?line=new">Describe an instrument</a></dt>
          <dd>
            its knobs as they are printed, by building blocks; or from a
            starting point:
            {#each words.starts as x, i (x.id)}{i ? ", " : ""}<a
                href={`/panels?line=new:${x.id}`}
                title={x.summary}>{lower(x.label)}</a
              >{/each}
          </dd>
          <dt><a href="/panels">Open a panel file or a spreadsheet</a></dt>
          <dd>
            a row for each control makes a panel; the panels' page has a
            template
          </dd>
          <dt><a href="/patches">Open a patch file</a></dt>
          <dd>its instrument's panel has to be here first</dd>
        </dl>
      </section>
    {:else}
      <section>
        <h2>Translate</h2>
        <div class="bar go">
          <Select labelText="Patch" bind:selected={patch} size="sm">
            {#each patchRows as p (p.id)}<SelectItem
                value={p.id}
                text={`${p.name} (${p.panelName})`}
              />{/each}
          </Select>
          <Select labelText="Target" bind:selected={target} size="sm">
            {#each targets as t (t.id)}<SelectItem
                value={t.id}
                text={t.id === own ? `${t.name} (its own)` : t.name}
              />{/each}
          </Select>
          <Button
            size="small"
            disabled={!patch || !target}
            onclick={() => translate(patch, target)}>Open the sheet</Button
          >
          <span class="end"
            ><button class="linkish" onclick={sample}>Sample translation</button
            > <kbd>s</kbd>{#if sampled}, <button
                class="linkish"
                onclick={dropSample}>take the sample away</button
              >{/if}</span
          >
        </div>
      </section>
    {/if}

    {#if broken.length > 0}
      <section aria-label="Panels at fault">
        <h2>Panels at fault</h2>
        {#each broken as b (b.id)}<p>
            <a
              {@attach rows.at(`b-${b.id}`)}
              href={`/panels/${part(b.id)}/workshop`}>{b.name || b.id}</a
            >
            <span class="red">{b.fault}</span>
            <span class="soft">Its patches and sheets come back with it.</span>
          </p>{/each}
      </section>
    {/if}

    {#if desk.drafts.length > 0}
      <section>
        <h2>In the workshop</h2>
        <p>
          {#each desk.drafts as d, i (d.id)}{i ? ", " : ""}<a
              {@attach rows.at(`d-${d.id}`)}
              href={`/panels/${part(d.id)}/workshop`}>{d.name || d.id}</a
            >{/each}
        </p>
      </section>
    {/if}

    {#if sheetRows.length > 0 || stored}
      <section>
        <div class="bar">
          <h2>{archived ? "Archived sheets" : "On the go"}</h2>
          {#if stored}<button
              class="linkish small"
              onclick={() => ((archived = !archived), shelf.clear())}
              >{archived ? "those on the go" : "archived ones"}</button
            >{/if}
        </div>
        <ShelfBar
          {shelf}
          name={called}
          archived={(id) => !!sheetOf(id)?.archived}
          copy={(id) =>
            app.attempt(async () => {
              await shelves.copySheet(Number(id));
              app.say("Duplicated", called(id));
              shelf.clear();
              app.changed++;
            })}
        />
        <ul class="rows">
          {#each sheetRows as s (s.id)}
            <li data-id={s.id} class:picked={shelf.chosen.has(String(s.id))}>
              <input
                type="checkbox"
                tabindex="-1"
                aria-label={`Choose ${called(String(s.id))}`}
                checked={shelf.chosen.has(String(s.id))}
                onchange={() => shelf.toggle(String(s.id))}
              />
              <a
                {@attach rows.at(`s-${s.id}`)}
                href={s.ticked > 0 && s.ticked < s.lines
                  ? `/sheets/${s.id}/dial-in`
                  : `/sheets/${s.id}`}
              >
                <span class="what"
                  ><strong>{s.title || s.patchName}</strong>
                  {s.title ? `${s.patchName}, ` : ""}{s.sourceName} to {s.targetName}{s.first
                    ? ", second layer"
                    : ""}</span
                >
                <span class="next">
                  {#if s.ticked === 0}next: read the sheet
                  {:else if s.ticked < s.lines}next: dial in, {s.ticked} of {s.lines}
                    done
                  {:else}dialled in, {s.lines} of {s.lines}{/if}
                </span>
                <Summary summary={s.summary} />
                <span class="soft small date">{when(s.updated)}</span>
                {#if s.fault}<span class="red">{s.fault}</span>
                {:else if !s.clean}<span class="red">a check fails</span>{/if}
              </a>
            </li>
          {/each}
        </ul>
      </section>
    {/if}

    {#if desk.phone}<PhoneAddress phone={desk.phone} />{/if}

    {#if patchRows.length > 0}
      <section>
        <h2>Patches</h2>
        <ul class="rows">
          {#each patchRows as p (p.id)}
            <li>
              <a {@attach rows.at(`p-${p.id}`)} href={`/patches/${p.id}`}>
                <span class="what"
                  ><strong>{p.name}</strong>
                  {p.kind} on {p.panelName}{p.sample ? ", sample" : ""}</span
                >
                <span class="next">{p.tempo ? `${p.tempo} a minute` : ""}</span>
                <span class="soft small notes">{p.notes}</span>
              </a>
            </li>
          {/each}
        </ul>
      </section>
    {/if}
  {/if}
</div>

<style>
  section {
    margin: 1rem 0 1.75rem;
  }
  .way {
    background: var(--sheet);
    border: 1px solid var(--rule);
    border-left: 3px solid var(--rubric);
    padding: 1rem 1.25rem 1.25rem;
    max-width: 48rem;
  }
  .way p {
    margin: 0.5rem 0 1rem;
    font-size: 0.875rem;
    line-height: 1.375rem;
  }
  .go {
    align-items: end;
  }
  .go :global(.bx--form-item) {
    flex: 0 1 17rem;
  }
  .rows {
    list-style: none;
    padding: 0;
    margin: 0.5rem 0 0;
    border-top: 1px solid var(--ink-3);
  }
  .rows li {
    display: flex;
    align-items: center;
    border-bottom: 1px solid var(--rule);
  }
  .rows li input {
    flex: none;
    margin: 0 0 0 0.5rem;
  }
  .picked {
    background: var(--chosen);
  }
  .rows a {
    flex: 1;
    min-width: 0;
    display: grid;
    grid-template-columns:
      minmax(14rem, 20rem) minmax(10rem, 15rem)
      1fr auto auto;
    gap: 0 1rem;
    align-items: baseline;
    padding: 0.3125rem 0.5rem;
    text-decoration: none;
  }
  .rows a:hover {
    background: var(--shade);
  }
  .what,
  .notes {
    line-height: 1.125rem;
    overflow: hidden;
    text-overflow: ellipsis;
    white-space: nowrap;
  }
  strong {
    font-weight: 600;
    margin-right: 0.375rem;
  }
  .notes {
    grid-column: 3 / -1;
  }
  @media (max-width: 760px) {
    .rows a {
      grid-template-columns: 1fr;
    }
    .notes {
      grid-column: 1;
    }
  }
  .way h3 {
    margin: 1.25rem 0 0;
  }
  .ways {
    margin: 0;
    line-height: 1.375rem;
  }
  .ways dt {
    margin-top: 0.5rem;
  }
  .ways dd {
    margin: 0;
    color: var(--ink-2);
  }
</style>
