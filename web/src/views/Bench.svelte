<script lang="ts">
  import { Button } from "carbon-components-svelte";
  import { exportURL, part } from "../lib/api";
  import { BenchState } from "../lib/bench.svelte";
  import { goHome, keys } from "../lib/keys.svelte";
  import { route } from "../lib/route.svelte";
  import BenchPlot from "../parts/BenchPlot.svelte";
  import ListenMIDI from "../parts/ListenMIDI.svelte";
  import More from "../parts/More.svelte";

  /** A control at the bench. */
  let { id, control }: { id: string; control: string } = $props();
  // svelte-ignore state_referenced_locally
  const s = new BenchState(id, control);
  let files = $state<HTMLInputElement | null>(null);
  let field = $state<HTMLInputElement | null>(null);
  let over = $state(false);
  const set = $derived((s.view?.settings ?? []).filter((x) => !x.init));
  const initial = $derived((s.view?.settings ?? []).length - set.length);
  const used = $derived((s.view?.takes ?? []).filter((t) => !t.why).length);
  const figure = (v: number) => Number(v.toPrecision(4)).toString();

  const megabytes = (bytes: number) => Math.round(bytes / (1 << 20));
  function pick(f: File | undefined) {
    if (f) void s.file(f);
  }
  keys([
    {
      keys: "Space",
      does: "take a take from the stand-in",
      on: " ",
      run: () => void s.standIn(),
    },
    {
      keys: "g",
      does: "go on with the stand-in until it is known, or stop",
      on: "g",
      run: () => void s.allOfIt(),
    },
    {
      keys: "r",
      does: "record a take, or end the recording",
      on: "r",
      run: () => (s.recorder.running ? s.recorder.done() : void s.record()),
    },
    {
      keys: "o",
      does: "measure a recording from a file",
      on: "o",
      run: () => files?.click(),
    },
    {
      keys: "l",
      does: "follow the control by MIDI as it is moved on the instrument",
      on: "l",
      run: () => (s.listening = !s.listening),
    },
    {
      keys: "e",
      does: "another reading",
      on: "e",
      run: () => (field?.focus(), field?.select()),
    },
    {
      keys: "a",
      does: "adopt the law: first see what it changes",
      on: "a",
      run: () => void s.preview(),
    },
    {
      keys: "n",
      does: "go on to the next control that is worth measuring",
      on: "n",
      run: () =>
        s.view?.then &&
        route.go(`/panels/${part(id)}/bench/${part(s.view.then.control)}`),
    },
    {
      keys: "Esc",
      does: "back to where you came from",
      on: "Escape",
      run: () =>
        s.adoption
          ? (s.adoption = null)
          : route.back(`/panels/${part(id)}/bench`),
    },
  ]);
</script>

<div
  class="page"
  role="presentation"
  class:over
  ondragover={(e) => {
    e.preventDefault();
    over = true;
  }}
  ondragleave={() => (over = false)}
  ondrop={(e) => {
    e.preventDefault();
    over = false;
    pick(e.dataTransfer?.files[0]);
  }}
>
  {#if s.missing}
    <h1>Nothing to measure</h1>
    <p>
      {s.missing}
      <a href={`/panels/${part(id)}/bench`}>All controls of the panel</a>
    </p>
  {:else if !s.view}
    <p class="soft" role="status">
      The model of the instrument is played over the travel of the control
    </p>
  {:else}
    {@const v = s.view}
    <div class="bar">
      <h1>{v.section} {v.label}</h1>
      <span
        ><a href={`/panels/${part(id)}/bench`}>bench</a> of
        <a href={`/panels/${part(id)}`}>{v.panelName}</a></span
      >
      <label class="small"
        >How <select
          value={v.recipe}
          onchange={(e) => void s.choose(e.currentTarget.value)}
        >
          {#each v.recipes as r (r.name)}<option value={r.name}
              >{r.label}</option
            >{/each}
        </select></label
      >
      <div class="end bar">
        <Button
          size="small"
          disabled={used < 4}
          onclick={() => void s.preview()}>Adopt the law</Button
        >
        <More
          acts={[
            {
              text: "Forget the takes",
              run: () => void s.forget(),
              danger: true,
            },
          ]}
        />
      </div>
    </div>
    {#if s.adoption}
      {@const a = s.adoption}
      <section class="adopt" aria-label="Adopt the law">
        <p>
          <span class="num">{a.was}</span> becomes
          <strong class="num">{a.law}</strong>, in a new revision of the panel.
          {#if a.sheets.length === 0}No sheet stands on it.{/if}
        </p>
        {#if a.sheets.length > 0}
          <ul class="small">
            {#each a.sheets as x (x.id)}<li>
                <a href={`/sheets/${x.id}`}>{x.name}</a>:
                {x.changed === 0
                  ? "nothing is set otherwise"
                  : x.changed === 1
                    ? "one reading is set otherwise"
                    : `${x.changed} readings are set otherwise`}{x.example
                  ? `, ${x.example}`
                  : ""}
              </li>{/each}
          </ul>
          <p class="small soft">
            Sheets stay as they are until they are brought to the new revision.
          </p>
        {/if}
        <form
          class="bar"
          onsubmit={(e) => {
            e.preventDefault();
            void s.adopt();
          }}
        >
          <label class="small"
            >Only for this unit, as a panel of its own
            <input
              {@attach (e) => e.focus()}
              bind:value={s.as}
              placeholder={`${v.panelName}, the hired one`}
              autocomplete="off"
              onkeydown={(e) => {
                if (e.key !== "Escape") return;
                e.stopPropagation();
                e.currentTarget.blur();
                s.adoption = null;
                goHome();
              }}
            /></label
          >
          <Button size="small" type="submit">Adopt</Button>
          <button
            class="linkish"
            type="button"
            onclick={() => (s.adoption = null)}>Leave it</button
          >
        </form>
      </section>
    {/if}
    <div class="two">
      <div class="left">
        <section class="next" aria-label="The next take">
          <h2>{v.next.done ? "Known" : "Next"}</h2>
          <p class="big">
            Set <strong>{v.label}</strong> to
            <input
              bind:this={field}
              bind:value={s.reading}
              class="num reading"
              aria-label="Reading"
              list="bench-readings"
              autocomplete="off"
              onkeydown={(e) => {
                if (e.key !== "Escape" && e.key !== "Enter") return;
                e.stopPropagation();
                field?.blur();
                goHome();
              }}
            />
            <datalist id="bench-readings"
              >{#each v.readings as r (r)}<option value={r}
                ></option>{/each}</datalist
            >{#if v.next.play}, play <span class="num">{v.next.play}</span>{/if}
          </p>
          <p class="small reason">
            {v.next.why}{#if v.next.gain > 0 && !v.next.done}; it should gain
              <span class="num">{v.next.gain.toFixed(2)}</span> just-noticeable differences{/if}.
            The law is known to
            <span class="num">{v.unsure.toFixed(2)}</span> of them {v.used
              ? "where your patches have it"
              : "on average"}.
          </p>
          <div class="bar acts">
            <Button
              size="small"
              disabled={s.busy || !s.reading}
              onclick={() => void s.standIn()}
              >Take from stand-in&ensp;<kbd>Space</kbd></Button
            >
            <label class="small"
              >unit <input
                class="num unit"
                type="number"
                min="1"
                max="9999"
                bind:value={s.unit}
              /></label
            >
            <button
              class="linkish"
              disabled={s.busy && !s.running}
              onclick={() => void s.allOfIt()}
              >{s.running ? "Stop" : "Go on until it is known"}
              <kbd>g</kbd></button
            >
          </div>
          <div class="bar acts">
            <button
              class="linkish"
              disabled={s.busy && !s.recorder.running}
              onclick={() =>
                s.recorder.running ? s.recorder.done() : void s.record()}
              >{s.recorder.running
                ? "End the recording"
                : "Record from the input"} <kbd>r</kbd></button
            >
            <button class="linkish" onclick={() => files?.click()}
              >Measure a recording <kbd>o</kbd></button
            >
            <input
              bind:this={files}
              type="file"
              accept=".wav,audio/wav"
              aria-label="Recording"
              hidden
              onchange={(e) => {
                pick(e.currentTarget.files?.[0]);
                e.currentTarget.value = "";
              }}
            />
            <button
              class="linkish"
              aria-pressed={s.listening}
              onclick={() => (s.listening = !s.listening)}
              >{s.listening ? "Stop following it" : "Follow it by MIDI"}
              <kbd>l</kbd></button
            >
            {#if s.recorder.running}
              <meter
                min="-60"
                max="0"
                high="-3"
                optimum="-20"
                value={s.recorder.level}
                aria-label="Level of the input"
              ></meter>
              <span class="num small"
                >{s.recorder.level.toFixed(0)} dBFS{s.recorder.clipped
                  ? ", it clips"
                  : ""}, {s.recorder.seconds.toFixed(1)} s: play now</span
              >
            {/if}
          </div>
          {#if s.listening}<ListenMIDI
              panel={id}
              hint={`Move ${v.label} on the instrument: where it stands becomes the reading of the take.`}
              hear={s.hear}
              moved={s.moved}
              close={() => (s.listening = false)}
            />{/if}
          <p class="small" role="status">
            {#if s.wrong}<span class="red">{s.wrong}</span
              >{:else if s.busy}<span class="soft">Measuring</span>{:else}<span
                class="soft"
                >Several takes in one file: give their readings by commas, and
                half a second of silence between two.</span
              >{/if}
          </p>
        </section>
        {#if v.then}<p class="small then">
            {v.left === 1 ? "One assumed law is" : `${v.left} assumed laws are`} not
            measured yet; next
            <a href={`/panels/${part(id)}/bench/${part(v.then.control)}`}
              >{v.then.label}</a
            >, {v.then.changes === 0
              ? "with nothing else to set"
              : v.then.changes === 1
                ? "with one setting to change"
                : `with ${v.then.changes} settings to change`}
            <kbd>n</kbd>
          </p>{/if}
        <BenchPlot view={v} />
        <p class="law">
          <strong>{v.law}</strong>
          <span class="soft">before: {v.was}</span>
        </p>
        {#if v.note}<p class="small reason">{v.note}</p>{/if}
        {#if v.sides}<p class="small reason">{v.sides}</p>{/if}
        {#if used > 0}
          <details>
            <summary class="small">Other kinds of law</summary>
            <table class="figures">
              <thead
                ><tr
                  ><th>Kind</th><th
                    title="Akaike's criterion with the term for few takes: the lower the likelier"
                    >Criterion</th
                  ><th
                    title="Root of the mean square of what is left, in the takes' own uncertainties"
                    >Left over</th
                  ></tr
                ></thead
              >
              <tbody
                >{#each v.kinds as k (k.label)}<tr
                    ><td>{k.label}</td><td class="num">{k.aicc.toFixed(1)}</td
                    ><td class="num">{k.chi.toFixed(1)}</td></tr
                  >{/each}</tbody
              >
            </table>
          </details>
        {/if}
      </div>
      <div class="right">
        <section aria-label="Before the first take">
          <h2>Set first</h2>
          <p class="small caution">
            Turn monitors and headphones down before anything is played. {v.caution}
          </p>
          <ul class="set">
            {#each set as x (x.control)}<li>
                <span class="soft">{x.section}</span>
                {x.label} <span class="num">{x.reading}</span>
              </li>{/each}
            {#if v.hold}<li>
                {v.hold} <span class="num">all the way</span>
              </li>{/if}
            <li class="soft">
              {initial} others as init leaves them
            </li>
          </ul>
          <p class="small soft">Needs {v.needs}. Taken: {v.figure}.</p>
          <ul class="small">
            {#each v.traps as t (t)}<li>{t}</li>{/each}
          </ul>
        </section>
        <section aria-label="Takes">
          <h2>Takes{v.instrument ? `, ${v.instrument}` : ""}</h2>
          <table class="lines takes">
            <tbody>
              {#each v.takes as t, i (i)}
                <tr class:out={!!t.why}>
                  <td class="num">{t.reading}</td>
                  {#if t.why && t.u === 0}<td colspan="2" class="small reason"
                      >{t.why}</td
                    >{:else}<td class="num"
                      >{figure(t.value)}
                      <span class="soft">±{Number(t.u.toPrecision(2))}</span>
                      {t.unit}</td
                    ><td class="small"
                      >{#if t.why || t.doubt}<span class="red"
                          >{t.why || t.doubt}</span
                        >{:else if Math.abs(t.off) > 2}<span class="soft"
                          >{Math.abs(t.off).toFixed(1)} off</span
                        >{/if}</td
                    >{/if}
                  <td
                    >{#if t.sound}<a
                        class="small"
                        href={exportURL(`/takes/${t.sound}`)}
                        download={`${v.label} ${t.reading}.wav`}
                        aria-label={`wav: the sound of the take at ${t.reading}`}
                        >wav</a
                      >{/if}
                    <button
                      class="linkish small"
                      aria-label={`Take out: the take at ${t.reading}`}
                      onclick={() => void s.drop(i)}>×</button
                    ></td
                  >
                </tr>
              {:else}
                <tr><td class="soft">none yet</td></tr>
              {/each}
            </tbody>
          </table>
          <p class="small soft">
            Of the sound of takes <span class="num"
              >{megabytes(v.sounds.kept)}</span
            >
            MB are kept, up to
            <input
              class="num bound"
              type="number"
              min="0"
              max="8192"
              aria-label="Megabytes of recordings to keep"
              value={megabytes(v.sounds.bound)}
              onchange={(e) => void s.bound(Number(e.currentTarget.value))}
            />; beyond that only their figures.
          </p>
        </section>
      </div>
    </div>
  {/if}
</div>

<style>
  .two {
    display: grid;
    grid-template-columns: minmax(0, 1fr) 22rem;
    gap: 0 2rem;
    align-items: start;
  }
  .over {
    outline: 2px dashed var(--focus);
    outline-offset: -4px;
  }
  h2 {
    font-size: 0.8125rem;
    color: var(--rubric);
    margin: 0.75rem 0 0.25rem;
  }
  .big {
    font-size: 1.125rem;
    margin: 0 0 0.25rem;
  }
  input {
    font: inherit;
    color: var(--ink);
    background: var(--paper);
    border: 0;
    border-bottom: 1px solid var(--ink-3);
    padding: 0.125rem 0.375rem;
  }
  .reading {
    width: 7rem;
    font-size: 1.125rem;
  }
  .unit,
  .bound {
    width: 4.5rem;
  }
  .then {
    margin: 0.25rem 0 0.5rem;
  }
  .acts {
    gap: 0.5rem 1rem;
    align-items: center;
    margin: 0.375rem 0;
    flex-wrap: wrap;
  }
  .adopt {
    border-left: 3px solid var(--rubric);
    background: var(--sheet);
    padding: 0.5rem 0.75rem;
    margin: 0.25rem 0 0.75rem;
  }
  .adopt form {
    gap: 1rem;
    align-items: baseline;
  }
  .adopt p {
    margin: 0.25rem 0;
  }
  ul {
    margin: 0.25rem 0;
    padding-left: 1rem;
  }
  ul.set {
    list-style: none;
    padding: 0;
    font-size: 0.875rem;
  }
  ul.set li {
    padding: 0.125rem 0;
    border-bottom: 1px solid var(--rule);
  }
  .caution {
    border-left: 3px solid var(--rubric);
    padding-left: 0.5rem;
    margin: 0.25rem 0;
  }
  .takes {
    font-size: 0.875rem;
  }
  .out td {
    color: var(--ink-2);
  }
  .law {
    margin: 0.5rem 0 0.25rem;
  }
  details {
    margin: 0.25rem 0 1rem;
  }
  @media (max-width: 760px) {
    .two {
      grid-template-columns: minmax(0, 1fr);
    }
  }
</style>
