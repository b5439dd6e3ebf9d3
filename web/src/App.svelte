<script lang="ts">
  import { tick } from "svelte";
  import { app } from "./lib/app.svelte";
  import { keydown } from "./lib/everywhere";
  import { setHome, watchFields } from "./lib/keys.svelte";
  import { follow, route } from "./lib/route.svelte";
  import GuideStrip from "./parts/GuideStrip.svelte";
  import HelpBeside from "./parts/HelpBeside.svelte";
  import Header from "./parts/Header.svelte";
  import KeyList from "./parts/KeyList.svelte";
  import Messages from "./parts/Messages.svelte";
  import Bank from "./views/Bank.svelte";
  import Compare from "./views/Compare.svelte";
  import Desk from "./views/Desk.svelte";
  import DialIn from "./views/DialIn.svelte";
  import Listen from "./views/Listen.svelte";
  import PanelPage from "./views/PanelPage.svelte";
  import Panels from "./views/Panels.svelte";
  import Patches from "./views/Patches.svelte";
  import PatchPage from "./views/PatchPage.svelte";
  import Reckoner from "./views/Reckoner.svelte";
  import Sheet from "./views/Sheet.svelte";
  import Changeover from "./views/Changeover.svelte";
  import Keep from "./views/Keep.svelte";
  import Slots from "./views/Slots.svelte";
  import Log from "./views/Log.svelte";
  import Ear from "./views/Ear.svelte";
  import EarSitting from "./views/EarSitting.svelte";
  import Hire from "./views/Hire.svelte";
  import Rehearse from "./views/Rehearse.svelte";
  import Show from "./views/Show.svelte";
  import Shows from "./views/Shows.svelte";
  import Bench from "./views/Bench.svelte";
  import BenchList from "./views/BenchList.svelte";
  import Workshop from "./views/Workshop.svelte";

  $effect(() => {
    document.documentElement.setAttribute("theme", app.theme);
  });

  let main = $state<HTMLElement | undefined>();
  watchFields();
  // the focus is never on nothing: a view that gives it to no part of its own has it itself
  $effect(() => {
    void route.place;
    setHome(main);
    void tick().then(() => {
      if (document.activeElement === document.body)
        main?.focus({ preventScroll: true });
    });
  });
  const lost = $derived(route.place.view === "lost" ? route.place.path : "");
</script>

<svelte:window onkeydowncapture={keydown} />

<a
  class="skip"
  href="#main"
  onclick={(e) => (e.preventDefault(), main?.focus())}>To the content</a
>
<!-- svelte-ignore a11y_no_static_element_interactions, a11y_click_events_have_key_events -->
<div class="frame" tabindex="-1" onclick={follow}>
  <Header />

  <Messages />

  <main bind:this={main} id="main" tabindex="-1">
    {#if route.place.view === "desk"}
      <Desk />
    {:else if route.place.view === "reckoner"}
      <Reckoner />
    {:else if route.place.view === "log"}
      <Log />
    {:else if route.place.view === "ear"}
      <Ear />
    {:else if route.place.view === "earsitting"}
      {#key route.place.id}<EarSitting id={route.place.id} />{/key}
    {:else if route.place.view === "shows"}
      <Shows />
    {:else if route.place.view === "show"}
      {#key `${route.place.id}/${route.place.house}`}<Show
          id={route.place.id}
          house={route.place.house}
        />{/key}
    {:else if route.place.view === "hire"}
      {#key `${route.place.id}/${route.place.house}`}<Hire
          id={route.place.id}
          house={route.place.house}
        />{/key}
    {:else if route.place.view === "rehearse"}
      {#key `${route.place.id}/${route.place.house}/${route.place.evening}`}<Rehearse
          id={route.place.id}
          house={route.place.house}
          evening={route.place.evening}
        />{/key}
    {:else if route.place.view === "keep"}
      <Keep />
    {:else if route.place.view === "slots"}
      {#key route.place.id}<Slots id={route.place.id} />{/key}
    {:else if route.place.view === "panels"}
      <Panels />
    {:else if route.place.view === "panel"}
      {#key route.place.id}<PanelPage id={route.place.id} />{/key}
    {:else if route.place.view === "targets"}
      {#key route.place.id}<Compare id={route.place.id} />{/key}
    {:else if route.place.view === "bank"}
      <Bank />
    {:else if route.place.view === "workshop"}
      {#key route.place.id}<Workshop id={route.place.id} />{/key}
    {:else if route.place.view === "benches"}
      {#key route.place.id}<BenchList id={route.place.id} />{/key}
    {:else if route.place.view === "bench"}
      {#key route.place.id + "/" + route.place.control}<Bench
          id={route.place.id}
          control={route.place.control}
        />{/key}
    {:else if route.place.view === "patches"}
      <Patches />
    {:else if route.place.view === "patch"}
      {#key route.place.id}<PatchPage id={route.place.id} />{/key}
    {:else if route.place.view === "sheet"}
      {#key route.place.id}<Sheet id={route.place.id} />{/key}
    {:else if route.place.view === "dialin"}
      {#key route.place.id}<DialIn id={route.place.id} />{/key}
    {:else if route.place.view === "changeover"}
      {#key route.place.id}<Changeover id={route.place.id} />{/key}
    {:else if route.place.view === "listen"}
      {#key route.place.id}<Listen id={route.place.id} />{/key}
    {:else}
      <div class="page">
        <h1>Nothing here</h1>
        <p>
          There is no view at <span class="num">{lost}</span>.
          <a href="/">Go to the desk</a>.
        </p>
      </div>
    {/if}
  </main>
  <GuideStrip />
</div>

<HelpBeside />

<KeyList />

<style>
  .skip {
    position: absolute;
    left: -999px;
  }
  .skip:focus {
    left: 0.5rem;
    top: 0.5rem;
    z-index: 9000;
    background: var(--sheet);
    padding: 0.5rem;
  }
  main:focus,
  .frame:focus {
    outline: none;
  }
</style>
