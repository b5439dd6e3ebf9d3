<script lang="ts">
  import { Button } from "carbon-components-svelte";
  import { exportURL, part } from "../lib/api";
  import { app } from "../lib/app.svelte";
  import * as keep from "../lib/calls/keep";
  import { keys } from "../lib/keys.svelte";
  import { load } from "../lib/load.svelte";
  import { route } from "../lib/route.svelte";
  import type { ArchiveTaken, Backups } from "../lib/types";

  /** What is kept of the work beside it: backups of the whole, and jobs as one file. */
  let view = $state.raw<Backups | null>(null);
  let taken = $state.raw<ArchiveTaken | null>(null);
  let working = $state("");
  /** The backup that is about to be restored or deleted: asked once more. */
  let sure = $state<{ name: string; what: "restore" | "delete" } | null>(null);
  let from = $state<File | null>(null);
  let sounds = $state(false);
  let picker = $state<HTMLInputElement | null>(null);
  document.title = "Keep - Glossator";
  load(keep.backups, (v) => (view = v));

  async function work(what: string, does: () => Promise<void>) {
    working = what;
    await app.attempt(does);
    working = "";
  }
  const make = () =>
    work("Making a backup", async () => {
      view = await keep.backUp();
      app.say("A backup is made", view.backups[0]?.name ?? "");
    });
  const restore = (get: () => ReturnType<typeof keep.restore>) =>
    work("Restoring", async () => {
      const r = await get();
      [sure, from] = [null, null];
      app.changed++;
      app.say(
        "Restored",
        `What stood here before is the backup of ${when(r.before.at)}: restore that to go back.`,
      );
    });
  const drop = (name: string) =>
    work("Deleting", async () => {
      view = await keep.dropBackup(name);
      sure = null;
    });
  const takeIn = (f: File | undefined) =>
    f &&
    work("Looking the archive over", async () => {
      taken = await keep.takeArchive(f);
      app.pending = taken.pending;
      app.changed++;
    });
  const when = (iso: string) =>
    new Date(iso).toLocaleString("en-GB", {
      dateStyle: "medium",
      timeStyle: "short",
    });
  const size = (bytes: number) =>
    bytes < 1e6
      ? `${Math.max(1, Math.round(bytes / 1e3))} kB`
      : `${(bytes / 1e6).toFixed(1)} MB`;
  const kinds: Record<string, string> = {
    daily: "of the day",
    made: "asked for",
    before: "before a restore",
  };
  const count = (n: number, one: string, many: string) =>
    `${n} ${n === 1 ? one : many}`;
  keys([
    {
      keys: "m",
      does: "make a backup now",
      on: "m",
      run: () => void make(),
    },
    {
      keys: "o",
      does: "open an archive",
      on: "o",
      run: () => picker?.click(),
    },
    {
      keys: "Esc",
      does: "back to where you came from",
      on: "Escape",
      run: () => {
        if (sure || from) [sure, from] = [null, null];
        else route.back("/");
      },
    },
  ]);
</script>

<div class="page">
  <h1>Keep</h1>
  <p class="soft" role="status" aria-live="polite">
    {working ? `${working} ...` : ""}
  </p>
  <section aria-label="Jobs">
    <h2>A job as one file</h2>
    <p>
      Patches with their sheets, versions, log, photographs, measurements and
      the panels that they need, as one ZIP of open formats. Opened elsewhere,
      it goes beside what is there and writes over nothing. One patch alone goes
      out on its own page.
    </p>
    <div class="bar">
      <Button
        size="small"
        href={exportURL(`/archive?sounds=${String(sounds)}`)}
        download>Save all that is here</Button
      >
      <label class="small"
        ><input type="checkbox" bind:checked={sounds} /> with both sides of each sheet
        as sound (takes a while)</label
      >
      <span class="end">
        <label class="small"
          >Open an archive <input
            bind:this={picker}
            type="file"
            accept=".zip,application/zip"
            onchange={(e) => {
              void takeIn(e.currentTarget.files?.[0]);
              e.currentTarget.value = "";
            }}
          /></label
        >
      </span>
    </div>
    {#if taken}
      <div class="taken" role="status">
        <p>
          {count(taken.patches, "patch", "patches")}, {count(
            taken.sheets,
            "sheet",
            "sheets",
          )}, {count(taken.shows, "show", "shows")} and {count(
            taken.panels,
            "panel revision",
            "panel revisions",
          )} are new;
          {count(taken.same, "thing was", "things were")} here already. Undo takes
          it away again.
        </p>
        {#each [...taken.renamed.map((x) => `Under another id, since theirs is taken here: ${x}.`), ...taken.aside.map((x) => `Left aside: ${x}.`)] as line (line)}
          <p class="small">{line}</p>
        {/each}
      </div>
    {/if}
  </section>
  {#if view}
    <section aria-label="Backups">
      <div class="bar">
        <h2>Backups</h2>
        <Button size="small" kind="tertiary" onclick={() => void make()}
          >Make one now</Button
        >
        <label class="small"
          >One a day by itself, of which
          <input
            class="num"
            type="number"
            min="0"
            max="1000"
            value={view.kept}
            onchange={(e) => {
              const n = Number(e.currentTarget.value);
              void app.attempt(async () => (view = await keep.keep(n)));
            }}
          /> are kept</label
        >
        <span class="end">
          <label class="small"
            >Restore from a file <input
              type="file"
              accept=".db"
              onchange={(e) => {
                from = e.currentTarget.files?.[0] ?? null;
                e.currentTarget.value = "";
              }}
            /></label
          >
        </span>
      </div>
      <p class="small soft">
        A backup is the whole database as it stood. They lie in
        <span class="num folder">{view.folder}</span>; copy some to another
        disk.
      </p>
      {#if from}
        {@const f = from}
        <div class="ask" role="alertdialog" aria-label="Restore from a file">
          <p>
            {f.name} ({size(f.size)}) takes the place of all that is here. What
            stands here now is kept as a backup first.
          </p>
          <Button
            size="small"
            kind="danger"
            onclick={() => void restore(() => keep.restoreFile(f))}
            >Restore it</Button
          >
          <Button size="small" kind="ghost" onclick={() => (from = null)}
            >Leave it</Button
          >
        </div>
      {/if}
      {#if view.backups.length === 0}
        <p>
          None yet: the first of the day comes by itself while the program runs.
        </p>
      {:else}
        <table>
          <thead>
            <tr><th>When</th><th>Why</th><th class="num">Size</th><th></th></tr>
          </thead>
          <tbody>
            {#each view.backups as b (b.name)}
              <tr>
                <td>{when(b.at)}</td>
                <td>{kinds[b.kind] ?? b.kind}</td>
                <td class="num">{size(b.bytes)}</td>
                <td class="acts">
                  {#if sure?.name === b.name}
                    <span class="small"
                      >{sure.what === "restore"
                        ? "It takes the place of all that is here, which is kept as a backup first."
                        : "It is gone for good then."}</span
                    >
                    <button
                      class="linkish red"
                      onclick={() =>
                        sure?.what === "restore"
                          ? void restore(() => keep.restore(b.name))
                          : void drop(b.name)}
                      >{sure.what === "restore"
                        ? "Restore it"
                        : "Delete it"}</button
                    >
                    <button class="linkish" onclick={() => (sure = null)}
                      >Leave it</button
                    >
                  {:else}
                    <a download href={exportURL(`/backups/${part(b.name)}`)}
                      >Save</a
                    >
                    <button
                      class="linkish"
                      aria-label={`Restore the backup of ${when(b.at)}`}
                      onclick={() => (sure = { name: b.name, what: "restore" })}
                      >Restore</button
                    >
                    <button
                      class="linkish"
                      aria-label={`Delete the backup of ${when(b.at)}`}
                      onclick={() => (sure = { name: b.name, what: "delete" })}
                      >Delete</button
                    >
                  {/if}
                </td>
              </tr>
            {/each}
          </tbody>
        </table>
      {/if}
    </section>
  {/if}
</div>

<style>
  section {
    margin: 0.5rem 0 1.5rem;
  }
  section > p {
    max-width: 48rem;
    margin: 0.375rem 0 0.75rem;
  }
  .bar {
    gap: 0.5rem 1.25rem;
  }
  .bar h2 {
    margin: 0;
  }
  .num[type="number"] {
    width: 4rem;
    font: inherit;
    color: var(--ink);
    background: var(--paper);
    border: 0;
    border-bottom: 1px solid var(--ink-3);
    padding: 0.125rem 0.25rem;
  }
  .folder {
    overflow-wrap: anywhere;
  }
  .taken,
  .ask {
    background: var(--sheet);
    border-left: 3px solid var(--rubric);
    padding: 0.5rem 0.75rem;
    margin: 0.5rem 0;
  }
  .taken p,
  .ask p {
    margin: 0.125rem 0;
  }
  table {
    border-collapse: collapse;
    width: 100%;
    max-width: 60rem;
  }
  th,
  td {
    text-align: left;
    font-weight: 400;
    padding: 0.375rem 0.75rem 0.375rem 0;
    border-bottom: 1px solid var(--rule);
    vertical-align: baseline;
  }
  th {
    color: var(--ink-2);
    font-size: 0.8125rem;
  }
  td.num,
  th.num {
    text-align: right;
    white-space: nowrap;
  }
  .acts {
    text-align: right;
  }
  .acts > :global(*) {
    margin-left: 0.75rem;
  }
</style>
