<script lang="ts">
  import { Button, InlineNotification, Modal } from "carbon-components-svelte";
  import { Asleep, Help, Light, Redo, Undo } from "carbon-icons-svelte";
  import { app, plain } from "./lib/app.svelte";
  import { press, type Key } from "./lib/keys.svelte";
  import { follow, route } from "./lib/route.svelte";
  import Faults from "./parts/Faults.svelte";
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
  import Workshop from "./views/Workshop.svelte";

  $effect(() => {
    document.documentElement.setAttribute("theme", app.theme);
  });

  const nav = [
    { href: "/", label: "Desk", views: ["desk", "sheet", "dialin", "listen"] },
    {
      href: "/patches",
      label: "Patches",
      views: ["patches", "patch", "targets"],
    },
    { href: "/bank", label: "Bank", views: ["bank"] },
    {
      href: "/panels",
      label: "Panels",
      views: ["panels", "panel", "workshop"],
    },
    { href: "/reckoner", label: "Reckoner", views: ["reckoner"] },
  ];

  // a g waits for the letter of a view
  let go = false;
  const to: Record<string, string> = {
    d: "/",
    p: "/patches",
    b: "/bank",
    i: "/panels",
  };
  const free = () => !app.help;
  const everywhere: Key[] = [
    {
      on: (e) => go && !!to[e.key],
      run: (e) => {
        route.go(to[e.key] ?? "/");
        e.stopImmediatePropagation();
      },
      while: free,
    },
    {
      keys: "?",
      does: "show or hide this list",
      on: "?",
      run: () => (app.help = !app.help),
    },
    {
      keys: "g then d, p, b or i",
      does: "go to the desk, the patches, the bank or the instruments' panels",
      on: "g",
      run: () => (go = true),
      while: free,
    },
    {
      keys: "=",
      does: "open the reckoner, with the value of the chosen line",
      on: "=",
      run: () => route.go(app.reckoner()),
      while: free,
    },
    {
      keys: "t",
      does: "light or dark",
      on: "t",
      run: () => app.toggleTheme(),
      while: free,
    },
  ];
  const withControl: Key[] = [
    {
      keys: "Ctrl Z",
      does: "take the last change back",
      on: (e) => e.key.toLowerCase() === "z" && !e.shiftKey,
      run: () => void app.undo(),
    },
    {
      keys: "Ctrl Shift Z",
      does: "do it again",
      on: (e) => e.key.toLowerCase() === "z" && e.shiftKey,
      run: () => void app.redo(),
    },
  ];
  function keydown(e: KeyboardEvent) {
    if (e.ctrlKey || e.metaKey) {
      press(withControl, e);
      return;
    }
    if (!plain(e)) return;
    const waited = go;
    press(everywhere, e);
    if (waited) go = false;
  }

  let main = $state<HTMLElement | undefined>();
  const lost = $derived(route.place.view === "lost" ? route.place.path : "");
</script>

<svelte:window onkeydowncapture={keydown} />

<a
  class="skip"
  href="#main"
  onclick={(e) => (e.preventDefault(), main?.focus())}>To the content</a
>
<!-- svelte-ignore a11y_no_static_element_interactions, a11y_click_events_have_key_events -->
<div class="frame" onclick={follow}>
  <header class="noprint">
    <a class="name" href="/">Glossator</a>
    <nav aria-label="Views">
      {#each nav as n (n.href)}
        <a
          href={n.href}
          aria-current={n.views.includes(route.place.view) ? "page" : undefined}
          >{n.label}</a
        >
      {/each}
    </nav>
    <div class="tools">
      <Button
        kind="ghost"
        size="small"
        icon={Undo}
        iconDescription={app.pending.undo
          ? `Undo: ${app.pending.undo}`
          : "Nothing to undo"}
        tooltipAlignment="end"
        disabled={!app.pending.undo}
        onclick={() => app.undo()}
      />
      <Button
        kind="ghost"
        size="small"
        icon={Redo}
        iconDescription={app.pending.redo
          ? `Redo: ${app.pending.redo}`
          : "Nothing to redo"}
        tooltipAlignment="end"
        disabled={!app.pending.redo}
        onclick={() => app.redo()}
      />
      <Button
        kind="ghost"
        size="small"
        icon={app.theme === "white" ? Asleep : Light}
        iconDescription={app.theme === "white" ? "Dark" : "Light"}
        tooltipAlignment="end"
        onclick={() => app.toggleTheme()}
      />
      <Button
        kind="ghost"
        size="small"
        icon={Help}
        iconDescription="Keys (?)"
        tooltipAlignment="end"
        onclick={() => (app.help = true)}
      />
    </div>
  </header>

  <div class="messages noprint" aria-live="polite">
    {#if app.message}
      <InlineNotification
        kind={app.message.kind}
        lowContrast
        title={app.message.title}
        subtitle={app.message.text}
        role="status"
        bind:open={
          () => true,
          (open) => {
            if (!open) app.message = null;
          }
        }
      />
      {#if app.message.problem?.faults}
        <Faults faults={app.message.problem.faults} />
      {/if}
    {/if}
  </div>

  <main bind:this={main} id="main" tabindex="-1">
    {#if route.place.view === "desk"}
      <Desk />
    {:else if route.place.view === "reckoner"}
      <Reckoner />
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
    {:else if route.place.view === "patches"}
      <Patches />
    {:else if route.place.view === "patch"}
      {#key route.place.id}<PatchPage id={route.place.id} />{/key}
    {:else if route.place.view === "sheet"}
      {#key route.place.id}<Sheet id={route.place.id} />{/key}
    {:else if route.place.view === "dialin"}
      {#key route.place.id}<DialIn id={route.place.id} />{/key}
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
</div>

<Modal
  bind:open={app.help}
  passiveModal
  modalHeading="Keys"
  size="sm"
  hasScrollingContent
>
  {#if app.help}
    <dl class="keys">
      {#each [...app.keys, ...everywhere, ...withControl].filter((k) => k.does) as k, i (i)}
        <div>
          <dt><kbd>{k.keys}</kbd></dt>
          <dd>{k.does}</dd>
        </div>
      {/each}
    </dl>
  {/if}
</Modal>

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
  header {
    display: flex;
    align-items: center;
    gap: 1.25rem;
    height: 2.75rem;
    padding: 0 1.25rem;
    border-bottom: 1px solid var(--ink-3);
    background: var(--paper);
    position: sticky;
    top: 0;
    z-index: 50;
  }
  .name {
    font-family: var(--serif);
    font-style: italic;
    font-size: 1.125rem;
    text-decoration: none;
    color: var(--rubric);
  }
  nav {
    display: flex;
    height: 100%;
  }
  nav a {
    display: flex;
    align-items: center;
    padding: 0 0.75rem;
    text-decoration: none;
    border-bottom: 3px solid transparent;
    border-top: 3px solid transparent;
  }
  nav a:hover {
    background: var(--shade);
  }
  nav a[aria-current] {
    border-bottom-color: var(--rubric);
    font-weight: 600;
  }
  .tools {
    margin-left: auto;
    display: flex;
  }
  .messages {
    position: fixed;
    z-index: 60;
    right: 1rem;
    bottom: 12.75rem;
    width: min(30rem, calc(100vw - 2rem));
  }
  .messages :global(.bx--inline-notification) {
    max-width: none;
    margin: 0;
    background: var(--sheet);
    color: var(--ink);
    border: 1px solid var(--rule);
    border-left: 3px solid var(--ink);
  }
  .messages :global(.bx--inline-notification--error) {
    border-left-color: var(--rubric);
  }
  .messages :global(.bx--inline-notification__icon),
  .messages :global(.bx--inline-notification__close-icon) {
    fill: var(--ink);
  }
  .messages :global(.bx--inline-notification__title),
  .messages :global(.bx--inline-notification__subtitle) {
    color: var(--ink);
  }
  main:focus {
    outline: none;
  }
  .keys div {
    display: flex;
    gap: 1rem;
    padding: 0.25rem 0;
    border-bottom: 1px solid var(--rule);
  }
  dt {
    flex: 0 0 9rem;
  }
  dd {
    margin: 0;
  }
  @media (max-width: 480px) {
    header {
      gap: 0 0.5rem;
      padding: 0.25rem 0.5rem 0;
      flex-wrap: wrap;
      height: auto;
      position: static;
    }
    nav {
      order: 3;
      width: 100%;
      height: 2rem;
    }
    nav a {
      padding: 0 0.5rem;
    }
    .name {
      font-size: 0.9375rem;
    }
    .tools :global(.bx--btn) {
      padding: 0.25rem;
      min-width: 0;
      width: 1.625rem;
    }
  }
</style>
