<script lang="ts">
  import { Button } from "carbon-components-svelte";
  import { Sitting } from "../lib/ear.svelte";
  import { keys } from "../lib/keys.svelte";
  import { route } from "../lib/route.svelte";

  /** A sitting: which of two differs, in what, and by how much. */
  let { id }: { id: number } = $props();
  // svelte-ignore state_referenced_locally
  const s = new Sitting(id);
  const view = $derived(s.view);
  const naming = $derived(s.chosen !== null && (view?.parts.length ?? 0) > 1);
  const sounds = [
    { which: "x" as const, key: "0", text: "The patch" },
    { which: "a" as const, key: "1", text: "First" },
    { which: "b" as const, key: "2", text: "Second" },
  ];
  keys([
    {
      keys: "Space",
      does: "hear all three, one after another",
      on: " ",
      run: () => void s.play(),
    },
    {
      keys: "0 1 2",
      does: "hear the patch, the first, the second; while you name what differs the number is its name",
      on: ["0", "1", "2", "3", "4", "5", "6"],
      run: (e) => {
        const n = Number(e.key);
        if (naming) {
          const part = n === 0 ? "" : view?.parts[n - 1]?.id;
          if (part !== undefined) void s.answer(part);
        } else if (n < 3) void s.play(sounds[n]?.which);
      },
    },
    {
      keys: "← →",
      does: "the first, or the second, is the other one",
      on: ["ArrowLeft", "ArrowRight"],
      run: (e) => s.choose(e.key === "ArrowRight"),
    },
    {
      keys: "Enter",
      does: "not to say what differs",
      on: "Enter",
      while: () => naming,
      run: () => void s.answer(""),
    },
    {
      keys: "Esc",
      does: "choose again; else back to where you came from",
      on: "Escape",
      run: () => {
        if (s.chosen !== null) s.chosen = null;
        else route.back("/ear");
      },
    },
  ]);
</script>

<div class="page">
  {#if s.missing}
    <h1>No such sitting</h1>
    <p>{s.missing} <a href="/ear">Ear practice</a></p>
  {:else if !view}
    <p class="soft" role="status">Loading</p>
  {:else}
    <div class="bar">
      <h1>Ear practice: {view.patch}</h1>
      <span class="soft">{view.who}</span>
      <label class="small end"
        >Level <input
          type="range"
          min="0"
          max="1"
          step="0.05"
          value={s.volume}
          oninput={(e) => s.setVolume(Number(e.currentTarget.value))}
        /></label
      >
    </div>
    {#if view.trial > 0}
      <p class="small soft">
        Trial <span class="num">{view.trial}</span>, of about
        <span class="num">{view.about}</span>. You can leave and come back.
      </p>
      <div class="sounds" role="group" aria-label="Sounds">
        {#each sounds as x (x.which)}
          <button
            class:playing={s.playing === x.which}
            disabled={!s.ready}
            onclick={() => void s.play(x.which)}
            ><kbd>{x.key}</kbd> {x.text}</button
          >
        {/each}
      </div>
      <p class="acts">
        <Button
          size="small"
          kind="tertiary"
          disabled={!s.ready}
          onclick={() => void s.play()}>Hear all three</Button
        >
        {#if !s.ready}<span class="soft" role="status">Rendering</span>{/if}
      </p>
      <div class="ask" role="group" aria-label="Which is the other one">
        <span>The other one is</span>
        <button
          aria-pressed={s.chosen === false}
          disabled={!s.ready}
          onclick={() => s.choose(false)}><kbd>←</kbd> the first</button
        >
        <button
          aria-pressed={s.chosen === true}
          disabled={!s.ready}
          onclick={() => s.choose(true)}>the second <kbd>→</kbd></button
        >
      </div>
      {#if naming}
        <div class="ask" role="group" aria-label="What differs">
          <span>and it differs in</span>
          {#each view.parts as p, n (p.id)}<button
              onclick={() => void s.answer(p.id)}
              ><kbd>{n + 1}</kbd> {p.label}</button
            >{/each}
          <button onclick={() => void s.answer("")}
            ><kbd>Enter</kbd> I cannot say</button
          >
        </div>
      {/if}
    {:else}
      <p>
        <strong>The sitting has ended.</strong>
        <a href="/ear">What was found</a> can now judge the lines of your sheets.
      </p>
    {/if}
    <p class="last" role="status">
      {#if view.last}
        <strong class:red={!view.last.right}
          >{view.last.right ? "Right" : "No"}:</strong
        >
        the {view.last.second ? "second" : "first"} was the other one.
        {view.last.label}
        <span class="num">{view.last.by}</span>, which is
        <span class="num">{view.last.size}</span> of the published difference{#if view.last.named}{view
            .last.named === view.last.part
            ? "; you named it"
            : "; you named something else"}{/if}.
      {/if}
    </p>
    <h2>How it stands</h2>
    <table class="lines stack">
      <thead
        ><tr
          ><th>What may differ</th><th>Published</th><th class="r">Answers</th
          ><th class="r">Found so far</th><th class="r">Named rightly</th></tr
        ></thead
      >
      <tbody>
        {#each view.parts as p (p.id)}
          <tr>
            <td class="wide">{p.label} <span class="soft">{p.differs}</span></td
            >
            <td class="num" data-of="published">{p.published}</td>
            <td class="num r" data-of="answers"
              >{p.answers}{p.done ? ", done" : ""}</td
            >
            <td class="num r" data-of="found"
              >{#if p.found}{p.found.heard
                  ? `${p.found.size}× (${p.found.low} to ${p.found.high})`
                  : "not heard"}{/if}</td
            >
            <td class="num r" data-of="named"
              >{p.asked > 0 ? `${p.named} of ${p.asked}` : ""}</td
            >
          </tr>
        {/each}
      </tbody>
    </table>
  {/if}
</div>

<style>
  .sounds {
    display: grid;
    grid-template-columns: repeat(3, minmax(0, 1fr));
    gap: 1rem;
    margin: 1rem 0 0.5rem;
    max-width: 46rem;
  }
  .sounds button {
    font: inherit;
    font-size: 1.125rem;
    min-height: 5rem;
    color: var(--ink);
    background: var(--sheet);
    border: 1px solid var(--ink-3);
    cursor: pointer;
  }
  .sounds button.playing {
    background: var(--chosen);
    box-shadow: inset 0 -3px 0 var(--rubric);
  }
  .ask {
    display: flex;
    flex-wrap: wrap;
    gap: 0.5rem 0.75rem;
    align-items: center;
    margin: 0.75rem 0;
  }
  .ask button {
    font: inherit;
    color: var(--ink);
    background: none;
    border: 1px solid var(--ink-3);
    padding: 0.375rem 0.75rem;
    min-height: 2.25rem;
    cursor: pointer;
  }
  .ask button[aria-pressed="true"] {
    background: var(--chosen);
  }
  button:disabled {
    color: var(--ink-3);
    cursor: default;
  }
  .acts {
    display: flex;
    gap: 1rem;
    align-items: center;
  }
  .last {
    min-height: 3rem;
  }
  h2 {
    margin: 1rem 0 0.25rem;
  }
  .r {
    text-align: right;
  }
  input[type="range"] {
    accent-color: var(--ink);
    vertical-align: middle;
  }
  @media (max-width: 760px) {
    .sounds {
      gap: 0.5rem;
    }
    .ask button {
      min-height: 2.75rem;
    }
  }
</style>
