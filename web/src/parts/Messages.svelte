<script lang="ts">
  import { InlineNotification } from "carbon-components-svelte";
  import { app } from "../lib/app.svelte";
  import Faults from "./Faults.svelte";
</script>

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

<style>
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
</style>
