<script lang="ts">
  import { Tab, TabContent, Tabs } from "carbon-components-svelte";
  import { BlindState } from "../lib/blind.svelte";
  import { keys, type Key } from "../lib/keys.svelte";
  import { ListenState } from "../lib/listen.svelte";
  import { route } from "../lib/route.svelte";
  import BlindTest from "../parts/listen/BlindTest.svelte";
  import ByEar from "../parts/listen/ByEar.svelte";
  import Differences from "../parts/listen/Differences.svelte";
  import Parts from "../parts/listen/Parts.svelte";
  import PictureList from "../parts/listen/PictureList.svelte";
  import Recordings from "../parts/listen/Recordings.svelte";
  import Stages from "../parts/listen/Stages.svelte";
  import Transport from "../parts/listen/Transport.svelte";

  let { id }: { id: number } = $props();
  // svelte-ignore state_referenced_locally
  const s = new ListenState(id);
  const blind = new BlindState(s);
  let tab = $state(0);
  $effect(() => {
    s.looking = tab === 0;
  });

  const digit = (e: KeyboardEvent) => Number(e.code.replace("Digit", ""));
  const listening: Key[] = [
    { keys: "Space", does: "play or stop", on: " ", run: s.play },
    {
      keys: "s",
      does: "switch between source and target, at the same place",
      on: "s",
      run: () =>
        s.player.turn(s.player.side === "source" ? "target" : "source"),
    },
    {
      keys: "l",
      does: "loop, or once through with the tail",
      on: "l",
      run: () => (s.loop = !s.loop),
    },
    {
      keys: "↑ ↓",
      does: "choose a part",
      on: ["ArrowUp", "ArrowDown"],
      run: (e) =>
        (s.chosen = Math.min(
          s.parts.length - 1,
          Math.max(0, s.chosen + (e.key === "ArrowDown" ? 1 : -1)),
        )),
    },
    {
      keys: "o",
      does: "switch the chosen part off or on, on both sides",
      on: "o",
      run: () => s.toggle(s.parts[s.chosen]?.id),
    },
    { keys: "a", does: "all parts on", on: "a", run: () => (s.off = []) },
    {
      keys: "1 to 8",
      does: "play the major scale on the side that is heard; with Shift a semitone higher",
      on: (e) => /^Digit[1-8]$/.test(e.code),
      run: (e) => !e.repeat && void s.strike(digit(e) - 1, e.shiftKey),
    },
    {
      keys: ", and .",
      does: "move those notes an octave down or up",
      on: [",", "."],
      run: (e) =>
        (s.octave = Math.min(
          4,
          Math.max(-3, s.octave + (e.key === "." ? 1 : -1)),
        )),
    },
    {
      keys: "- and +",
      does: "quieter, louder",
      on: ["-", "+"],
      run: (e) => s.setVolume(s.player.volume + (e.key === "+" ? 0.1 : -0.1)),
    },
    {
      keys: "k",
      does: "the recording that plays along, on or off",
      on: "k",
      while: () => !!s.player.backing,
      run: () => s.player.changeBacking({ on: !s.player.backing?.on }),
    },
    { keys: "b", does: "begin a blind test", on: "b", run: blind.begin },
    {
      keys: "Esc",
      does: "back to where you came from",
      on: "Escape",
      run: () => route.back(`/sheets/${id}`),
    },
  ];
  const testing: Key[] = [
    {
      keys: "in a blind test: a, b and x",
      does: "hear A, B or X",
      on: ["a", "b", "x"],
      run: (e) => blind.hear(e.key.toUpperCase() as "A"),
    },
    {
      keys: "← →",
      does: "X is A, X is B",
      on: ["ArrowLeft", "ArrowRight"],
      run: (e) => blind.answer(e.key === "ArrowLeft" ? "A" : "B"),
    },
    { on: "Escape", run: blind.leave },
  ];
  keys([
    ...listening.map((k) => ({ ...k, while: () => !s.blind })),
    ...testing.map((k) => ({ ...k, while: () => s.blind })),
  ]);
</script>

<svelte:window
  ondragover={(e) => e.preventDefault()}
  ondrop={(e) => e.preventDefault()}
/>

{#if s.missing}
  <div class="page">
    <h1>No such sheet</h1>
    <p>{s.missing} <a href="/">To the desk</a></p>
  </div>
{:else if !s.sheet || !s.loaded}
  <div class="page">
    {#if s.failed}
      <h1>Nothing to hear</h1>
      <p class="red" role="alert">{s.failed}</p>
      <p><a href={`/sheets/${id}`}>Back to the sheet</a></p>
    {:else}
      <p class="soft" role="status">Rendering both sides</p>
    {/if}
  </div>
{:else}
  <div class="page listen">
    <div class="bar">
      <h1>
        Listen to <a href={`/patches/${s.sheet.sheet.patch}`}
          >{s.sheet.sheet.patchName}</a
        >
        on {s.sheet.sheet.target.name}
      </h1>
      <div class="end">
        <a href={`/sheets/${id}`}>Sheet</a> &nbsp;
        <a href={`/sheets/${id}/dial-in`}>Dial in</a>
      </div>
    </div>
    <Transport {s} loaded={s.loaded} />
    {#if s.failed}<p class="red" role="alert">{s.failed}</p>{/if}
    <div class="columns" class:hidden={s.blind}>
      <Parts {s} />
      {#if s.source && s.target}<PictureList
          {s}
          source={s.source}
          target={s.target}
          bands={s.loaded.bands}
        />{/if}
      <section class="findings" aria-label="Findings">
        <Tabs bind:selected={tab} type="container" autoWidth>
          <Tab label="Differences" />
          <Tab label="By ear" />
          <Tab label="Stages" />
          <Tab label="Recordings" />
          <svelte:fragment slot="content">
            <TabContent><Differences {s} loaded={s.loaded} /></TabContent>
            <TabContent><ByEar {s} loaded={s.loaded} /></TabContent>
            <TabContent><Stages {s} /></TabContent>
            <TabContent><Recordings {s} sheet={s.sheet} /></TabContent>
          </svelte:fragment>
        </Tabs>
      </section>
    </div>
    <BlindTest {s} test={blind} kept={s.trials ?? s.loaded.trials} />
  </div>
{/if}

<style>
  .listen {
    padding-top: 0.5rem;
  }
  .hidden {
    display: none !important;
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
  .findings :global(.bx--tab-content) {
    padding: 0.5rem 0;
    background: transparent;
  }
  .findings :global(.bx--tabs__nav-link) {
    padding-left: 0.625rem;
    padding-right: 0.625rem;
  }
</style>
