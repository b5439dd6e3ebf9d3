<script lang="ts">
  import { Button } from "carbon-components-svelte";
  import {
    Asleep,
    Help,
    Information,
    Light,
    Redo,
    Undo,
  } from "carbon-icons-svelte";
  import { app } from "../lib/app.svelte";
  import { route } from "../lib/route.svelte";

  /** The name, the views, and what is at hand everywhere. */
  const nav = [
    {
      href: "/",
      label: "Desk",
      views: [
        "desk",
        "sheet",
        "dialin",
        "changeover",
        "listen",
        "keep",
        "ear",
        "earsitting",
      ],
    },
    {
      href: "/patches",
      label: "Patches",
      views: ["patches", "patch", "targets"],
    },
    { href: "/bank", label: "Bank", views: ["bank"] },
    {
      href: "/panels",
      label: "Panels",
      views: ["panels", "panel", "workshop", "benches", "bench", "slots"],
    },
    {
      href: "/shows",
      label: "Shows",
      views: ["shows", "show", "hire", "rehearse"],
    },
    { href: "/log", label: "Log", views: ["log"] },
    { href: "/reckoner", label: "Reckoner", views: ["reckoner"] },
  ];
</script>

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
      icon={Information}
      iconDescription="What this view is for (F1)"
      tooltipAlignment="end"
      onclick={() => (app.beside = !app.beside)}
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

<style>
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
  @media (max-width: 820px) {
    header {
      gap: 0.5rem;
      padding: 0 0.75rem;
    }
    nav a {
      padding: 0 0.375rem;
    }
    .tools :global(.bx--btn) {
      padding: 0.25rem;
      min-width: 0;
      width: 1.75rem;
    }
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
      padding: 0 0.3125rem;
      font-size: 0.8125rem;
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
