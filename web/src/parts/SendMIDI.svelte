<script lang="ts">
  import { Button } from "carbon-components-svelte";
  import { onDestroy, untrack } from "svelte";
  import { app } from "../lib/app.svelte";
  import { Ear, Instrument } from "../lib/midi.svelte";
  import { Player } from "../lib/player.svelte";
  import type { Found, Sending, Taken, ToSend } from "../lib/types";
  import Ports from "./Ports.svelte";

  /** The target of a sheet by MIDI: its settings are first shown, then sent in the order of work; what is moved on it, or what its dump holds, is read beside what is planned. */
  let {
    ask,
    hear,
    sound,
    file,
    panel,
    name,
    ticks = new Set(),
    sent = () => undefined,
    line = "",
    live = false,
    hair = null,
    stands,
    moved,
    agree,
    close,
  }: {
    /** What can be sent. */
    ask: (of: ToSend) => Promise<Sending>;
    /** What comes from it means, beside what is planned. */
    hear: (before: number[], now: number[]) => Promise<Found>;
    /** A stand-in that has got such bytes, as it sounds. */
    sound: (unit: number, bytes: number[]) => Promise<ArrayBuffer>;
    /** Where the same is a file, as far as the question mark. */
    file: string;
    panel: string;
    name: string;
    /** The lines that are set already. */
    ticks?: Set<string>;
    sent?: (key: string) => void;
    /** The control of the chosen line, which can be sent alone. */
    line?: string;
    /** Whether changes can be sent as they are made. */
    live?: boolean;
    /** The reading under the hairline. */
    hair?: { control: string; reading: string } | null;
    /** Whatever it is that changes with the sheet. */
    stands?: unknown;
    /** A control was moved on the instrument; what it says of it. */
    moved: (t: Taken) => string | Promise<string>;
    /** Ticks what the instrument has as planned. */
    agree?: (keys: string[]) => void;
    close: () => void;
  } = $props();
  // svelte-ignore state_referenced_locally
  const i = new Instrument(panel);
  let all = $state.raw<Sending | null>(null);
  let program = $state("");
  let bank = $state("");
  let running = $state(false);
  let done = $state(0);
  let wrong = $state("");
  let says = $state("");
  let found = $state.raw<Found | null>(null);
  const keys = $derived((all?.lines ?? []).flatMap((l) => l.keys));
  const rest = $derived(keys.filter((k) => !ticks.has(k)).length);
  const loud = $derived((all?.lines ?? []).filter((l) => l.caution));
  const one = $derived(all?.lines.find((l) => l.keys.includes(line)));
  const before = $derived(
    program ? { program: Number(program), bank: bank ? Number(bank) : -1 } : {},
  );
  const query = $derived(
    new URLSearchParams(
      Object.entries({ channel: i.channel, ...before }).map(([k, v]) => [
        k,
        String(v),
      ]),
    ).toString(),
  );
  $effect(() => {
    const of = { channel: i.channel, ...before };
    void stands;
    void app.attempt(async () => {
      if (of.channel >= 1 && of.channel <= 16) all = await ask(of);
    });
  });
  // a dump is system exclusive, which the browser asks for by itself
  let asked = false;
  $effect(() => {
    if (!all || asked) return;
    asked = true;
    void i.open(dumps);
  });
  async function send(bytes: number[], what: string): Promise<boolean> {
    const ok = (await app.attempt(() => i.send(bytes))) ?? false;
    if (!ok)
      wrong = `The port has gone before ${what}: what was sent is ticked, the rest is not. Plug it in and send again.`;
    return ok;
  }
  async function go() {
    if (running || !all) {
      running = false;
      return;
    }
    running = true;
    done = 0;
    wrong = says = "";
    if (all.before.length === 0 || (await send(all.before, "the program")))
      for (const l of all.lines) {
        if (!running) break;
        if (l.keys.every((k) => ticks.has(k))) continue;
        if (!(await send(l.bytes, `${l.section} ${l.label}`))) break;
        done += l.keys.length;
        l.keys.forEach(sent);
      }
    running = false;
  }
  /** Sends the chosen line alone. */
  export async function sendOne() {
    if (!one || !i.out) {
      says = one
        ? "Choose where it goes first."
        : "This line cannot be sent: it stays for the hands.";
      return;
    }
    wrong = "";
    if (!(await send(one.bytes, `${one.section} ${one.label}`))) return;
    says = `${one.label} ${one.reading} sent`;
    one.keys.forEach(sent);
  }

  // as the hairline moves
  let following = $state(false);
  let stood = new Map<string, string>();
  let busy = false;
  let again = false;
  async function follow() {
    if (busy) {
      again = true;
      return;
    }
    busy = true;
    do {
      again = false;
      const now = await app.attempt(() =>
        ask({ channel: i.channel, all: true, ...(hair ?? {}) }),
      );
      for (const l of now?.lines ?? []) {
        const key = l.keys.join();
        const text = l.bytes.join();
        if (!following || stood.get(key) === text) continue;
        stood.set(key, text);
        if (l.caution) {
          says = `${l.section} ${l.label} ${l.reading} is not sent by itself: ${l.caution}`;
          continue;
        }
        if (l.bytes[0] === 0xf0) continue; // a dump goes as a whole, by its button
        if (!(await send(l.bytes, `${l.section} ${l.label}`))) {
          following = false;
          break;
        }
        says = `${l.label} ${l.reading} sent`;
      }
    } while (again);
    busy = false;
  }
  async function toggleLive() {
    if (following) {
      following = false;
      return;
    }
    const now = await app.attempt(() => ask({ channel: i.channel, all: true }));
    if (!now) return;
    stood = new Map(now.lines.map((l) => [l.keys.join(), l.bytes.join()]));
    following = true;
  }
  $effect(() => {
    void stands;
    void hair?.reading;
    if (following) untrack(() => void follow());
  });

  // what comes from it
  let listening = $state(false);
  const ear = new Ear(async (earlier, now) => {
    const f = await app.attempt(() => hear(earlier, now));
    if (!f) return;
    wrong = "";
    if (f.taken.length > 3 || (now[0] === 0xf0 && f.taken.length > 0)) {
      found = f;
      says = "";
    } else if (f.taken.length === 0) says = f.other[0] ?? "";
    else for (const t of f.taken) says = await moved(t);
  });
  function listen() {
    listening = !listening;
    i.listen(listening ? ear.hears : null);
  }
  async function askDump() {
    if (!listening) listen();
    says = all?.ask.length
      ? "Asked; waiting for its dump."
      : "Nothing is known that asks it for its dump: have it sent on the instrument itself.";
    if (all?.ask.length) await send(all.ask, "its dump");
  }
  /** Whether it has a dump. */
  const dumps = $derived(
    !!all && (all.ask.length > 0 || all.lines.some((l) => l.bytes[0] === 0xf0)),
  );
  const off = $derived((found?.taken ?? []).filter((t) => !t.same));
  const right = $derived((found?.taken ?? []).filter((t) => t.same));

  // a stand-in can be heard
  const player = new Player();
  async function hearIt() {
    if (player.playing) {
      player.stop();
      return;
    }
    await app.attempt(async () => {
      await player.loadFile(await sound(i.unit, i.sent), true);
      player.start();
    });
  }
  onDestroy(() => {
    running = following = false;
    ear.close();
    i.close();
    player.close();
  });
</script>

<section class="send" aria-label="MIDI">
  <p>
    <strong>Turn the volume down first.</strong>
    {#if all}{rest === keys.length
        ? `${rest} settings can be sent`
        : `${rest} of ${keys.length} settings are still to be sent`}, in the
      order of work, to what is on the instrument now; nothing is stored in it.
      {#if all.left.length > 0}{all.left.length === 1
          ? "One stays"
          : `${all.left.length} stay`} for the hands.{/if}{/if}
  </p>
  {#if loud.length > 0}<p class="small red">
      Mind these: {loud
        .map((l) => `${l.section} ${l.label} ${l.reading} (${l.caution})`)
        .join("; ")}.
    </p>{/if}
  {#if i.why && !i.standIn}<p class="red small">{i.why}</p>{/if}
  <div class="bar">
    <Ports {i} receives />
    <label class="small"
      >program first <input
        class="num"
        inputmode="numeric"
        placeholder="none"
        bind:value={program}
        title="1 to 128; empty to stay where it is"
      /></label
    >
    {#if program}<label class="small"
        >bank <input
          class="num"
          inputmode="numeric"
          placeholder="none"
          bind:value={bank}
          title="from 0; empty where the instrument has none"
        /></label
      >{/if}
    <button class="linkish end" onclick={close}>Close</button>
  </div>
  <div class="bar">
    <Button
      size="small"
      disabled={!running && (!i.out || !rest)}
      onclick={() => void go()}
      >{running
        ? "Stop"
        : live
          ? "Send all of it"
          : "Send what is not ticked"}</Button
    >
    {#if one}<button
        class="linkish"
        disabled={!i.out}
        onclick={() => void sendOne()}
        >{#if one.bytes[0] === 0xf0}Send the dump{:else}Send {one.label}
          <span class="num">{one.reading}</span>{/if} <kbd>.</kbd></button
      >{/if}
    {#if live}<button
        class="linkish"
        aria-pressed={following}
        disabled={!i.out}
        onclick={() => void toggleLive()}
        >{following
          ? "Stop sending what changes"
          : "Send what changes from now on"}</button
      >{/if}
    <button
      class="linkish"
      aria-pressed={listening}
      disabled={!i.out}
      onclick={listen}
      >{listening ? "Stop listening to it" : "Listen to it"}</button
    >
    {#if dumps}<button
        class="linkish"
        disabled={!i.out}
        onclick={() => void askDump()}>Read its dump</button
      >{/if}
    {#if i.standIn}<button class="linkish" onclick={() => void hearIt()}
        >{player.playing ? "Stop it" : "Hear the stand-in"}</button
      >{/if}
    {#if all && all.lines.length > 0}
      <a download href={`${file}?${query}`}>As a MIDI file</a>
    {/if}
  </div>
  <p class="small" role="status">
    {#if wrong}<span class="red">{wrong}</span
      >{:else if says}{says}{:else if done > 0}{done}
      sent{:else if listening}Move a control of {name}: it is read beside what
      is planned.{:else if program}What program {program} holds is what the settings
      go over; have nothing in it that is not kept.{/if}
  </p>
  {#if found}
    <section aria-label="What the instrument has">
      <div class="bar">
        <strong
          >{off.length === 0
            ? `All ${right.length} stand as planned`
            : off.length === 1
              ? "One does not stand as planned"
              : `${off.length} do not stand as planned`}</strong
        >
        {#if off.length > 0}<span class="small soft">{right.length} do</span
          >{/if}
        {#if agree && right.length > 0}<button
            class="linkish"
            onclick={() => agree(right.map((t) => t.control))}
            >Tick what does</button
          >{/if}
        <button class="linkish end" onclick={() => (found = null)}
          >Leave it</button
        >
      </div>
      {#if off.length > 0}
        <!-- svelte-ignore a11y_no_noninteractive_tabindex -->
        <div
          class="table"
          role="region"
          tabindex="0"
          aria-label="Readings that differ"
        >
          <table class="lines" aria-label="What does not stand as planned">
            <thead
              ><tr
                ><th>Section</th><th>Control</th><th>Planned</th><th
                  >Stands at</th
                ><th>By</th></tr
              ></thead
            >
            <tbody>
              {#each off as t (t.control)}<tr>
                  <td class="soft">{t.section}</td>
                  <td>{t.label}</td>
                  <td class="num">{t.stands || "–"}</td>
                  <td class="num red">{t.reading}</td>
                  <td class="num small">{t.from}</td>
                </tr>{/each}
            </tbody>
          </table>
        </div>
      {/if}
      {#if found.other.length > 0}<details>
          <summary class="small">Not read</summary>
          <ul class="small">
            {#each found.other as o, n (n)}<li class="num">{o}</li>{/each}
          </ul>
        </details>{/if}
    </section>
  {/if}
  {#if all && all.left.length > 0}
    <details>
      <summary class="small">What stays for the hands</summary>
      <ul class="small">
        {#each all.left as l (l.label)}<li>
            {l.label} <span class="num">{l.reading}</span>
            <span class="soft">{l.why}</span>
          </li>{/each}
      </ul>
    </details>
  {/if}
</section>

<style>
  .send {
    border-left: 3px solid var(--rubric);
    background: var(--sheet);
    padding: 0.5rem 0.75rem;
    margin: 0.5rem 0;
  }
  p {
    margin: 0 0 0.25rem;
  }
  .bar {
    gap: 0.5rem 1rem;
    align-items: center;
    flex-wrap: wrap;
    margin: 0.25rem 0;
  }
  .table {
    max-height: 16rem;
    overflow: auto;
  }
  input {
    font: inherit;
    width: 3.5rem;
    color: var(--ink);
    background: var(--paper);
    border: 0;
    border-bottom: 1px solid var(--ink-3);
  }
  ul {
    margin: 0.25rem 0;
    padding-left: 1rem;
  }
</style>
