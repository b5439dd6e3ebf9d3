<script lang="ts">
  import {
    Button,
    Checkbox,
    InlineLoading,
    Select,
    SelectItem,
    Tab,
    TabContent,
    Tabs,
  } from "carbon-components-svelte";
  import { onDestroy, untrack } from "svelte";
  import { app, plain, pressing, typing } from "../lib/app.svelte";
  import { ask, exportURL } from "../lib/api";
  import { load } from "../lib/load.svelte";
  import { equal, Player, type Side } from "../lib/player.svelte";
  import { route } from "../lib/route.svelte";
  import type {
    Contrasts,
    Measured,
    Listening,
    Rendering,
    SheetView,
    Take,
  } from "../lib/types";
  import BlindTest from "../parts/BlindTest.svelte";
  import ByEar from "../parts/ByEar.svelte";
  import Traces, { type Trace } from "../parts/Traces.svelte";

  let { id }: { id: number } = $props();
  let sheet = $state<SheetView | null>(null);
  let missing = $state("");
  load<SheetView>(
    () => `/sheets/${id}`,
    (v) => {
      sheet = v;
      missing = "";
      document.title = `Listen to ${v.sheet.patchName} - Glossator`;
    },
    (detail) => (missing = detail),
  );

  const player = new Player();
  onDestroy(() => player.close());
  let loaded = $state<Listening | null>(null);
  let failed = $state("");
  let phrase = $state("");
  let octaves = $state(0);
  let off = $state<string[]>([]);
  let before = $state(false);
  let loop = $state(true);
  let chosen = $state(0);
  let rendering = $state(false);
  let recordings = $state<Partial<Record<Side, Take>>>({});
  let tab = $state(0);
  let blind = $state(false);
  let test = $state<BlindTest | null>(null);

  /** What stands on each side: the render, or a recording in its place. */
  const source = $derived(recordings.source ?? loaded?.source ?? null);
  const target = $derived(recordings.target ?? loaded?.target ?? null);
  const gains = $derived(equal(source, target));
  const body = $derived({
    phrase,
    octaves,
    off,
    plain: before,
  });

  let asked = 0;
  $effect(() => {
    void app.changed;
    const b = body;
    const n = ++asked;
    rendering = true;
    share = 0;
    // what nobody waits for any more is given up
    const gone = new AbortController();
    const look = setInterval(() => void howFar(), 250);
    ask<Listening>("POST", `/sheets/${id}/listen`, b, gone.signal)
      .then((v) => {
        if (n !== asked) return;
        loaded = v;
        failed = "";
      })
      .catch((e: unknown) => {
        if (n === asked) failed = e instanceof Error ? e.message : String(e);
      })
      .finally(() => {
        clearInterval(look);
        if (n === asked) rendering = false;
      });
    return () => {
      clearInterval(look);
      gone.abort();
    };
  });

  let share = $state(0);
  async function howFar() {
    try {
      share = (await ask<Rendering>("GET", "/rendering")).share;
    } catch {
      // the request that renders tells what is wrong
    }
  }

  // the player follows what stands on the sides; the first sounds are fetched when somebody plays
  let wanted = "";
  async function fetchSounds() {
    if (!source || !target) return;
    const key = `${source.key} ${target.key} ${String(loop)}`;
    if (key === wanted) return;
    wanted = key;
    try {
      await player.load(
        { source: source.key, target: target.key },
        gains,
        loop,
      );
    } catch (e) {
      wanted = "";
      app.fail(e);
    }
  }
  $effect(() => {
    void source?.key;
    void target?.key;
    void loop;
    untrack(() => {
      if (player.playing) void fetchSounds();
    });
  });
  async function play() {
    if (player.playing) player.stop();
    else {
      await fetchSounds();
      player.start();
    }
  }

  // the table of differences is measured when it is looked at
  let table = $state<Contrasts | null>(null);
  let measuring = $state(false);
  let tableOf = "";
  $effect(() => {
    if (tab !== 0 || !source || !target || blind) return;
    const key = `a=${source.key}&b=${target.key}`;
    if (key === untrack(() => tableOf)) return;
    tableOf = key;
    measuring = true;
    ask<Contrasts>("GET", `/contrasts?${key}`)
      .then((v) => {
        if (tableOf === key) table = v;
      })
      .catch((e: unknown) => app.fail(e))
      .finally(() => {
        if (tableOf === key) measuring = false;
      });
  });

  const parts = $derived(loaded?.parts ?? []);
  function toggle(part: string) {
    if (!part) return;
    off = off.includes(part) ? off.filter((x) => x !== part) : [...off, part];
  }

  // notes from the computer keyboard: 1 to 8 are the major scale
  const scale = [0, 2, 4, 5, 7, 9, 11, 12];
  const digits = ["1", "2", "3", "4", "5", "6", "7", "8"];
  let octave = $state(0);
  async function strike(degree: number, sharp: boolean) {
    const key = Math.min(
      127,
      Math.max(0, 48 + 12 * octave + (scale[degree] ?? 0) + (sharp ? 1 : 0)),
    );
    try {
      const answer = await fetch(exportURL(`/sheets/${id}/note`), {
        method: "POST",
        headers: { "Content-Type": "application/json" },
        body: JSON.stringify({ key, side: player.side, off }),
      });
      if (answer.ok)
        await player.strike(await answer.arrayBuffer(), gains[player.side]);
    } catch (e) {
      app.fail(e);
    }
  }

  async function record(side: Side, file: File | undefined) {
    if (!file) return;
    try {
      const r = await ask<Take>(
        "POST",
        `/sounds?file=${encodeURIComponent(file.name)}`,
        await file.arrayBuffer(),
      );
      recordings = { ...recordings, [side]: r };
      app.say(`${file.name} stands for the ${side}`);
    } catch (e) {
      app.fail(e);
    }
  }

  $effect(() => {
    app.keys = [
      { keys: "Space", does: "play or stop" },
      {
        keys: "s",
        does: "switch between source and target, at the same place",
      },
      { keys: "l", does: "loop, or once through with the tail" },
      { keys: "↑ ↓", does: "choose a part" },
      { keys: "o", does: "switch the chosen part off or on, on both sides" },
      { keys: "a", does: "all parts on" },
      {
        keys: "1 to 8",
        does: "play the major scale on the side that is heard; with Shift a semitone higher",
      },
      { keys: ", and .", does: "move those notes an octave down or up" },
      { keys: "- and +", does: "quieter, louder" },
      { keys: "b", does: "begin a blind test" },
      { keys: "Esc", does: "back to the sheet" },
    ];
  });
  function volume(v: number) {
    player.setVolume(Math.min(1, Math.max(0, v)));
  }
  function keydown(e: KeyboardEvent) {
    if (typing(e) || !plain(e) || app.help || pressing(e) || blind) return;
    const digit = digits.indexOf(e.code.replace("Digit", ""));
    if (e.key === " ") void play();
    else if (e.key === "s")
      player.turn(player.side === "source" ? "target" : "source");
    else if (e.key === "l") loop = !loop;
    else if (e.key === "ArrowDown")
      chosen = Math.min(parts.length - 1, chosen + 1);
    else if (e.key === "ArrowUp") chosen = Math.max(0, chosen - 1);
    else if (e.key === "o") toggle(parts[chosen]?.id ?? "");
    else if (e.key === "a") off = [];
    else if (e.code.startsWith("Digit") && digit >= 0) {
      if (!e.repeat) void strike(digit, e.shiftKey);
    } else if (e.key === ",") octave = Math.max(-3, octave - 1);
    else if (e.key === ".") octave = Math.min(4, octave + 1);
    else if (e.key === "-") volume(player.volume - 0.1);
    else if (e.key === "+") volume(player.volume + 0.1);
    else if (e.key === "b") void test?.begin();
    else if (e.key === "Escape") route.go(`/sheets/${id}`);
    else return;
    e.preventDefault();
  }

  // pictures: both sides over each other, at equal loudness
  const dB = (g: number) => 20 * Math.log10(g);
  const both = $derived(
    source && target
      ? ([
          ["source", source, dB(gains.source)],
          ["target", target, dB(gains.target)],
        ] as const)
      : [],
  );
  const seconds = $derived(
    Math.max(0.1, source?.seconds ?? 0, target?.seconds ?? 0),
  );
  const levels = $derived<Trace[]>(
    both.map(([kind, t, g]) => ({
      kind,
      label: t.label,
      points: t.level.map((v, i) => [i * t.hop, v + g]),
    })),
  );
  const topLevel = $derived(
    Math.ceil(
      Math.max(-60, ...levels.flatMap((t) => t.points.map((p) => p[1]))) / 10,
    ) * 10,
  );
  const bright = $derived<Trace[]>(
    both.map(([kind, t]) => ({
      kind,
      label: t.label,
      points: t.brightness.map((v, i) => [
        i * t.hop,
        v > 0 ? Math.log2(v) : NaN,
      ]),
    })),
  );
  const bands = $derived(loaded?.bands ?? []);
  const spectra = $derived<Trace[]>([
    ...both.map(([kind, t, g]): Trace => ({
      kind,
      label: t.label,
      points: t.spectrum.map((v, i) => [bands[i] ?? 1, v + g]),
    })),
    ...both
      .filter(([, t]) => t.filter.length > 0)
      .map(([kind, t]): Trace => ({
        kind: `${kind} filter`,
        label: `filter of ${t.label}`,
        points: t.filter.map((v, i) => [bands[i] ?? 1, topSpectrum + v]),
      })),
  ]);
  const topSpectrum = $derived(
    Math.ceil(
      Math.max(
        -60,
        ...both.flatMap(([, t, g]) => t.spectrum.map((v) => v + g)),
      ) / 10,
    ) * 10,
  );
  const waves = $derived<Trace[]>(
    both.map(([kind, t, g]) => ({
      kind,
      label: t.label,
      points: t.wave.map((v, i) => [
        (i * 20) / t.wave.length,
        v * Math.pow(10, g / 20),
      ]),
    })),
  );
  const topWave = $derived(
    Math.max(
      0.02,
      ...waves.flatMap((t) => t.points.map((p) => Math.abs(p[1]))),
    ) * 1.1,
  );
  const timeTicks = $derived.by(() => {
    const step = [0.1, 0.2, 0.5, 1, 2, 5, 10, 20].find((s) => seconds / s <= 9);
    const s = step ?? 30;
    return Array.from(
      { length: Math.floor(seconds / s) + 1 },
      (_, i) => Math.round(i * s * 100) / 100,
    );
  });
  const stages = $derived.by(() => {
    const a = source?.stages ?? [];
    const b = target?.stages ?? [];
    return Array.from({ length: Math.max(a.length, b.length) }, (_, i) => ({
      a: a[i],
      b: b[i],
    }));
  });
  async function louder() {
    const l = loaded?.level;
    if (!l) return;
    try {
      const v = await ask<SheetView>(
        "PUT",
        `/sheets/${id}/overrides/${encodeURIComponent(l.control)}`,
        { reading: l.to },
      );
      sheet = v;
      app.pending = v.pending;
      app.changed++;
      app.say(`${l.label} set to ${l.to}`);
    } catch (e) {
      app.fail(e);
    }
  }

  /** A figure and its expanded uncertainty (k = 2), with as many digits as that is worth. */
  const figure = (m: Measured): [string, string] => {
    if (!m.known) return ["?", ""];
    const u = 2 * m.uncertainty;
    const digits =
      u > 0 ? Math.min(4, Math.max(0, Math.ceil(-Math.log10(u)))) : 1;
    return [m.value.toFixed(digits), u > 0 ? `±${u.toFixed(digits)}` : ""];
  };
</script>

<svelte:window
  onkeydown={keydown}
  ondragover={(e) => e.preventDefault()}
  ondrop={(e) => e.preventDefault()}
/>

{#if missing}
  <div class="page">
    <h1>No such sheet</h1>
    <p>{missing} <a href="/">To the desk</a></p>
  </div>
{:else if !sheet || !loaded}
  <div class="page">
    {#if failed}
      <h1>Nothing to hear</h1>
      <p class="red" role="alert">{failed}</p>
      <p><a href={`/sheets/${id}`}>Back to the sheet</a></p>
    {:else}
      <p class="soft" role="status">Rendering both sides</p>
    {/if}
  </div>
{:else}
  <div class="page listen">
    <div class="bar">
      <h1>
        Listen to <a href={`/patches/${sheet.sheet.patch}`}
          >{sheet.sheet.patchName}</a
        >
        on {sheet.sheet.target.name}
      </h1>
      <div class="end">
        <a href={`/sheets/${id}`}>Sheet</a> &nbsp;
        <a href={`/sheets/${id}/dial-in`}>Dial in</a>
      </div>
    </div>

    <div class="transport" class:hidden={blind}>
      <Button size="small" on:click={() => void play()}
        >{player.playing ? "Stop" : "Play"}&ensp;<kbd>Space</kbd></Button
      >
      <div class="switch" role="group" aria-label="What is heard">
        {#each ["source", "target"] as const as s (s)}
          <button
            aria-pressed={player.side === s}
            class:on={player.side === s}
            onclick={() => player.turn(s)}
            >{s === "source" ? "Source" : "Target"}</button
          >
        {/each}
        <kbd>s</kbd>
      </div>
      <Checkbox labelText="Loop" bind:checked={loop} />
      <Select size="sm" inline labelText="Line" bind:selected={phrase}>
        <SelectItem
          value=""
          text={loaded.line && !phrase ? loaded.line : "Phrase of the patch"}
        />
        {#each loaded.lines as l (l.id)}<SelectItem
            value={l.id}
            text={l.name}
          />{/each}
      </Select>
      <Select
        size="sm"
        inline
        labelText="Octave"
        selected={String(octaves)}
        on:update={(e) => (octaves = Number(e.detail))}
      >
        {#each [-2, -1, 0, 1, 2] as o (o)}<SelectItem
            value={String(o)}
            text={o > 0 ? `+${o}` : String(o)}
          />{/each}
      </Select>
      <label class="volume"
        >Volume
        <input
          type="range"
          min="0"
          max="1"
          step="0.05"
          value={player.volume}
          oninput={(e) => volume(Number(e.currentTarget.value))}
        /></label
      >
      <div
        class="meter"
        role="meter"
        aria-label="Level that is heard"
        aria-valuemin="-60"
        aria-valuemax="0"
        aria-valuenow={Math.round(Math.max(-60, player.level))}
      >
        <i
          style:width={`${Math.max(0, Math.min(100, ((player.level + 60) / 60) * 100))}%`}
        ></i>
      </div>
      <span class="state" role="status"
        >{#if rendering || player.loading}<InlineLoading
            description={rendering && share > 0.01
              ? `Rendering, ${Math.round(100 * share)} %`
              : "Rendering"}
          />{/if}</span
      >
    </div>
    <p class="small soft caution">
      Start quiet and raise slowly: parts that are switched on, resonance and
      drive can jump in level. Source and target are played equally loud ({gains.source <
      1
        ? `source ${(-dB(gains.source)).toFixed(1)} dB down`
        : gains.target < 1
          ? `target ${(-dB(gains.target)).toFixed(1)} dB down`
          : "neither is turned down"}). These are simulations from the panels’
      laws, not recordings.
    </p>
    {#if loaded?.level && !recordings.source && !recordings.target && !blind}
      {@const l = loaded.level}
      <p class="small aloud">
        The translation is {Math.abs(l.by + l.missing).toFixed(1)} dB {l.by > 0
          ? "quieter"
          : "louder"} than the source. {l.label} at
        <span class="num">{l.to}</span>
        instead of <span class="num">{l.from}</span>
        {#if l.behind}
          brings it nearer: {l.behind} stands behind it, so less comes of it than
          the {Math.abs(l.by).toFixed(1)} dB of the scale.
        {:else if Math.abs(l.missing) < 0.5}
          makes it about as loud.
        {:else}
          brings {Math.abs(l.by).toFixed(1)} dB of it.
        {/if}
        <button
          class="linkish"
          disabled={rendering}
          onclick={() => void louder()}>Set {l.label} to {l.to}</button
        >
      </p>
    {/if}
    {#if failed}<p class="red" role="alert">{failed}</p>{/if}

    <div class="columns" class:hidden={blind}>
      <section class="parts" aria-label="Parts">
        <h2>Parts</h2>
        <ul>
          {#each parts as p, i (p.id)}
            <li class:current={i === chosen} class:off={off.includes(p.id)}>
              <label
                ><input
                  type="checkbox"
                  checked={!off.includes(p.id)}
                  onchange={(e) => {
                    chosen = i;
                    toggle(p.id);
                    e.currentTarget.blur();
                  }}
                />
                <span>{p.label}</span>
                {#if p.target.length === 0}<span class="soft small"
                    >source only</span
                  >{/if}</label
              >
            </li>
          {/each}
        </ul>
        {#if off.length > 0}<button class="linkish" onclick={() => (off = [])}
            >all on</button
          >{/if}
        <p class="small soft">
          Switched off on both sides. Notes: <kbd>1</kbd> to <kbd>8</kbd>, from
          C{3 + octave}.
        </p>
      </section>

      <section class="pictures" aria-label="Pictures of both sounds">
        <p class="legend small">
          <span class="key source"></span>
          {source?.label}
          <span class="key target"></span>
          {target?.label}
        </p>
        <Traces
          title="Level"
          unit="dB, A-weighted"
          traces={levels}
          from={0}
          to={seconds}
          low={topLevel - 60}
          high={topLevel}
          ticks={timeTicks}
          marks={[topLevel - 40, topLevel - 20]}
          xunit="s"
          cursor={player.playing ? player.at : -1}
        />
        <Traces
          title="Brightness"
          unit="middle of the spectrum, Hz"
          name={(v) => (v >= 10 ? `${2 ** (v - 10)}k` : String(2 ** v))}
          traces={bright}
          from={0}
          to={seconds}
          low={5}
          high={13}
          ticks={timeTicks}
          marks={[6, 8, 10, 12]}
          xunit="s"
          cursor={player.playing ? player.at : -1}
        />
        <Traces
          title="Spectrum and filters"
          unit="dB in auditory bands; dotted: the filters without envelopes"
          traces={spectra}
          from={30}
          to={15000}
          log
          low={topSpectrum - 70}
          high={topSpectrum + 10}
          ticks={[63, 125, 250, 500, 1000, 2000, 4000, 8000]}
          marks={[topSpectrum - 60, topSpectrum - 30, topSpectrum]}
          xunit="Hz"
        />
        <Traces
          title="Wave"
          unit="20 ms at the loudest place of the source"
          traces={waves}
          from={0}
          to={20}
          low={-topWave}
          high={topWave}
          ticks={[0, 5, 10, 15, 20]}
          marks={[0]}
          xunit="ms"
          height={104}
        />
      </section>

      <section class="findings" aria-label="Findings">
        <Tabs bind:selected={tab} type="container" autoWidth>
          <Tab label="Differences" />
          <Tab label="By ear" />
          <Tab label="Stages" />
          <Tab label="Recordings" />
          <svelte:fragment slot="content">
            <TabContent>
              <p class="apart">
                <b class="num"
                  >{(table?.apart ?? loaded.apart).total.toFixed(1)}</b
                >
                just-noticeable differences apart
              </p>
              <p class="small soft">
                {#each [["level", "level"], ["colour", "colour"], ["shape", "shape"], ["brightness", "brightness"], ["motion", "motion"], ["pitch", "pitch"]] as const as [k, name] (k)}
                  {" "}<span class="bit"
                    >{name}
                    <span class="num"
                      >{(table?.apart ?? loaded.apart)[k].toFixed(1)}</span
                    ></span
                  >
                {/each}
              </p>
              {#if measuring}<InlineLoading description="Measuring" />{/if}
              {#if table}
                <table>
                  <thead>
                    <tr
                      ><th scope="col">Measured</th><th scope="col" class="r"
                        >Source</th
                      ><th scope="col" class="r">Target</th><th
                        scope="col"
                        class="r">Steps</th
                      ></tr
                    >
                  </thead>
                  <tbody>
                    {#each table.rows.filter((r) => r.a.known || r.b.known) as r (r.label)}
                      <tr class:far={r.known && r.sure && r.jnds > 1}>
                        <th scope="row"
                          >{r.label}
                          <span class="soft">{r.a.unit || r.b.unit}</span></th
                        >
                        {#each [r.a, r.b] as m, i (i)}
                          {@const [value, unsure] = figure(m)}
                          <td class="num r" title={m.why}
                            >{value} <span class="soft pm">{unsure}</span></td
                          >
                        {/each}
                        <td class="num r" class:soft={!r.sure}
                          >{!r.known
                            ? "-"
                            : r.sure || r.jnds < 1
                              ? r.jnds.toFixed(1)
                              : "unsure"}</td
                        >
                      </tr>
                    {/each}
                  </tbody>
                </table>
                <p class="small soft">
                  Steps: just-noticeable differences; unsure: no more than the
                  two figures may be off by (±, k = 2). A question mark: the
                  sound does not tell. {#if table.rows.some((r) => r.of)}The
                    attack is the first note’s; pitch, decay, release, detuning
                    and what moves are the last one’s.{/if}
                  Not told by either: {table.rows
                    .filter((r) => !r.a.known && !r.b.known)
                    .map((r) => r.label)
                    .join(", ") || "nothing"}.
                </p>
              {/if}
            </TabContent>
            <TabContent>
              <ByEar
                {id}
                {body}
                refined={loaded.refined}
                bind:before
                changed={(v) => (sheet = v)}
              />
            </TabContent>
            <TabContent>
              <p class="small soft">
                The highest level in each stage, over the full level of one
                oscillator. Marked: over the 12 dB that a stage has in hand.
              </p>
              <table>
                <thead>
                  <tr
                    ><th scope="col">Source</th><th scope="col" class="r">dB</th
                    ><th scope="col">Target</th><th scope="col" class="r">dB</th
                    ></tr
                  >
                </thead>
                <tbody>
                  {#each stages as s, i (i)}
                    <tr>
                      <th scope="row">{s.a?.name ?? ""}</th>
                      <td class="num r" class:red={s.a?.over}
                        >{s.a
                          ? `${s.a.peak.toFixed(1)}${s.a.over ? " over" : ""}`
                          : ""}</td
                      >
                      <th scope="row">{s.b?.name ?? ""}</th>
                      <td class="num r" class:red={s.b?.over}
                        >{s.b
                          ? `${s.b.peak.toFixed(1)}${s.b.over ? " over" : ""}`
                          : ""}</td
                      >
                    </tr>
                  {/each}
                </tbody>
              </table>
              {#each [source, target] as t, i (i)}
                {#if t && (t.limited > 0.1 || t.assumed.length > 0)}
                  <h3>{i === 0 ? "Source" : "Target"}</h3>
                  <ul class="small">
                    {#if t.limited > 0.1}<li class="red">
                        The limiter turned it down by {t.limited.toFixed(1)} dB at
                        its loudest place.
                      </li>{/if}
                    {#each t.assumed as a, k (k)}<li>{a}</li>{/each}
                  </ul>
                {/if}
              {/each}
            </TabContent>
            <TabContent>
              <p class="small soft">
                A recording (WAVE, up to 60 s) of the real instrument takes the
                place of a side. It is shifted in time for the comparison, not
                changed.
              </p>
              {#each ["source", "target"] as const as s (s)}
                <div
                  class="drop"
                  role="group"
                  aria-label={`Recording of the ${s}`}
                  ondragover={(e) => e.preventDefault()}
                  ondrop={(e) => {
                    e.preventDefault();
                    void record(s, e.dataTransfer?.files[0]);
                  }}
                >
                  <label for={`rec-${s}`}
                    >Recording of the {s === "source"
                      ? sheet.sheet.source.name
                      : sheet.sheet.target.name}</label
                  >
                  <input
                    id={`rec-${s}`}
                    type="file"
                    accept=".wav,audio/wav"
                    onchange={(e) => void record(s, e.currentTarget.files?.[0])}
                  />
                  <span class="small soft">or drop it here</span>
                  {#if recordings[s]}
                    <p class="small">
                      {recordings[s].label}: {recordings[s].seconds.toFixed(1)} s,
                      {recordings[s].loudness.toFixed(1)} LUFS
                      <button
                        class="linkish"
                        onclick={() =>
                          (recordings = { ...recordings, [s]: undefined })}
                        >back to the render</button
                      >
                    </p>
                  {/if}
                </div>
              {/each}
            </TabContent>
          </svelte:fragment>
        </Tabs>
      </section>
    </div>
    <BlindTest
      bind:this={test}
      {id}
      {player}
      trials={loaded.trials}
      sounds={`${source?.label ?? ""} and ${target?.label ?? ""}`}
      ready={fetchSounds}
      bind:running={blind}
    />
  </div>
{/if}

<style>
  .listen {
    padding-top: 0.5rem;
  }
  .hidden {
    display: none !important;
  }
  .transport {
    display: flex;
    flex-wrap: wrap;
    align-items: center;
    gap: 0.5rem 1rem;
    padding: 0.375rem 0;
    border-top: 1px solid var(--rule);
    border-bottom: 1px solid var(--rule);
  }
  .transport :global(.bx--form-item) {
    flex: 0 0 auto;
  }
  .transport :global(.bx--select--inline .bx--select-input) {
    width: auto;
    min-width: 0;
    max-width: 16rem;
  }
  .switch {
    display: flex;
    align-items: center;
  }
  .switch button {
    font: inherit;
    color: inherit;
    background: var(--sheet);
    border: 1px solid var(--ink-3);
    padding: 0.3125rem 0.875rem;
    cursor: pointer;
  }
  .switch button + button {
    border-left: 0;
  }
  .switch button.on {
    background: var(--ink);
    color: var(--paper);
    font-weight: 600;
  }
  .switch kbd {
    margin-left: 0.5rem;
  }
  .volume {
    display: flex;
    align-items: center;
    gap: 0.5rem;
    font-size: 0.75rem;
    color: var(--ink-2);
  }
  .volume input {
    width: 6rem;
    accent-color: var(--ink);
  }
  .meter {
    width: 8rem;
    height: 0.5rem;
    background: var(--shade);
    border: 1px solid var(--rule);
  }
  .meter i {
    display: block;
    height: 100%;
    background: var(--ink-2);
  }
  .state {
    min-width: 6rem;
  }
  .caution {
    margin: 0.375rem 0 0.5rem;
  }
  .columns {
    display: grid;
    grid-template-columns: 11.5rem minmax(20rem, 1fr) 25rem;
    gap: 0 1.25rem;
    align-items: start;
  }
  @media (max-width: 66rem) {
    .columns {
      grid-template-columns: 10rem minmax(0, 1fr);
    }
    .findings {
      grid-column: 1 / -1;
    }
  }
  @media (max-width: 42rem) {
    .columns {
      grid-template-columns: minmax(0, 1fr);
    }
  }
  .parts ul {
    list-style: none;
    margin: 0.25rem 0;
    padding: 0;
    border-top: 1px solid var(--rule);
  }
  .parts li {
    border-bottom: 1px solid var(--rule);
    padding: 0.1875rem 0.25rem;
  }
  .parts li.current {
    background: var(--chosen);
  }
  .parts li.off span {
    text-decoration: line-through;
    color: var(--ink-3);
  }
  .parts label {
    display: flex;
    gap: 0.375rem;
    align-items: baseline;
    cursor: pointer;
    font-size: 0.8125rem;
  }
  .parts input {
    accent-color: var(--ink);
  }
  .legend {
    margin: 0 0 0.25rem;
  }
  .key {
    display: inline-block;
    width: 1.75rem;
    border-top: 2px solid var(--ink);
    vertical-align: middle;
    margin-right: 0.25rem;
  }
  .key.target {
    border-top: 2px dashed var(--rubric);
    margin-left: 0.75rem;
  }
  .findings :global(.bx--tab-content) {
    padding: 0.5rem 0;
    background: transparent;
  }
  .findings :global(.bx--tabs__nav-link) {
    padding-left: 0.625rem;
    padding-right: 0.625rem;
  }
  .apart {
    margin: 0;
  }
  .apart b {
    font-size: 1.25rem;
  }
  .bit {
    white-space: nowrap;
    margin-right: 0.5rem;
  }
  table {
    width: 100%;
    border-collapse: collapse;
    font-size: 0.8125rem;
  }
  th {
    text-align: left;
    font-weight: 400;
  }
  thead th {
    font-weight: 600;
    font-size: 0.75rem;
    color: var(--ink-2);
  }
  td,
  th {
    padding: 0.125rem 0.25rem;
    border-bottom: 1px solid var(--rule);
    vertical-align: baseline;
  }
  .r {
    text-align: right;
    white-space: nowrap;
  }
  .pm {
    display: inline-block;
    min-width: 2.25rem;
    padding-right: 0.25rem;
    font-size: 0.6875rem;
  }
  tr.far td:last-child {
    color: var(--rubric);
    font-weight: 600;
  }
  .drop {
    margin: 0.5rem 0;
    padding: 0.5rem;
    border: 1px dashed var(--ink-3);
  }
  .drop label {
    display: block;
    font-size: 0.8125rem;
    margin-bottom: 0.25rem;
  }
</style>
