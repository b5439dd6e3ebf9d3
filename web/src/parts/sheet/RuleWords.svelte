<script lang="ts">
  import type { Scales } from "../../lib/types";

  /** Two lists of words side by side: what has no axis. */
  let { rule }: { rule: Scales } = $props();
</script>

<div class="words">
  {#each [rule.source, rule.target] as side, i (i)}
    {#if side}
      <div>
        <div class="small soft">{side.panel}: {side.label}</div>
        {#if side.ticks.length > 40}<p class="num">
            {side.reading}
            <span class="soft small">one of {side.ticks.length} positions</span>
          </p>{:else}<ul>
            {#each side.ticks as t, n (n)}
              <li class="num" class:here={t.reading === side.reading}>
                {t.reading}{#if t.text !== t.reading}<span class="soft small"
                    >{t.text}</span
                  >{/if}
              </li>
            {/each}
          </ul>{/if}
      </div>
    {/if}
  {/each}
  <p class="reason small">{rule.explanation}</p>
</div>

<style>
  .words {
    display: flex;
    flex-wrap: wrap;
    gap: 0.5rem 2rem;
    min-height: 8rem;
    align-content: flex-start;
  }
  .words ul {
    display: flex;
    flex-wrap: wrap;
    gap: 0.25rem;
    margin: 0.25rem 0;
    padding: 0;
    list-style: none;
  }
  .words li {
    border: 1px solid var(--rule);
    padding: 0.0625rem 0.5rem;
  }
  .words li span {
    margin-left: 0.5rem;
  }
  .here {
    background: var(--chosen);
    border-color: var(--ink-3);
    font-weight: 500;
  }
  .words p {
    flex-basis: 100%;
    margin: 0;
  }
</style>
