<script lang="ts" module>
  export type Act = {
    text: string;
    /** Where it leads, or what it does. */
    href?: string;
    run?: () => void;
    danger?: boolean;
  };
</script>

<script lang="ts">
  import { OverflowMenu, OverflowMenuItem } from "carbon-components-svelte";

  /** What is done less often, behind one button. The items tell of a click by an event of their own: an onclick of theirs would stand on what is around the button, which the click does not reach. */
  let { acts, label = "More" }: { acts: Act[]; label?: string } = $props();
  let open = $state(false);
</script>

<!-- eslint-disable no-restricted-syntax -- see above -->
<!-- svelte-ignore a11y_no_static_element_interactions -->
<span
  class="more"
  onkeydown={(e) => {
    if (open) e.stopPropagation(); // no command of the view while the menu is open
  }}
>
  <OverflowMenu flipped size="sm" aria-label={label} bind:open>
    {#snippet menu()}<span class="label">{label}</span>{/snippet}
    {#each acts as a (a.text)}
      <OverflowMenuItem
        text={a.text}
        href={a.href}
        danger={a.danger}
        hasDivider={a.danger}
        on:click={() => a.run?.()}
      />
    {/each}
  </OverflowMenu>
</span>

<style>
  .more {
    position: relative;
    display: inline-flex;
  }
  .more :global(.bx--overflow-menu) {
    width: auto;
    padding: 0 0.5rem;
    color: var(--ink);
  }
  .more :global(.bx--overflow-menu-options) {
    width: 12rem;
  }
  .label {
    font-size: 0.875rem;
    white-space: nowrap;
    text-decoration: underline;
    text-underline-offset: 2px;
  }
</style>
