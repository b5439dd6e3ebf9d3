<script lang="ts">
  /** A share of the whole: the figure, and a line as long. */
  let { share, best = false }: { share: number; best?: boolean } = $props();
  const text = $derived(`${(share * 100).toFixed(share > 0.9995 ? 0 : 1)} %`);
</script>

<span class="share"
  ><span class="num" class:best>{text}</span>{#if best}<span class="small"
      >best</span
    >{/if}
  <span class="line" aria-hidden="true"
    ><span style:width={`${Math.max(0, Math.min(100, share * 100))}%`}
    ></span></span
  ></span
>

<style>
  .share {
    display: block;
  }
  .num {
    font-size: 0.8125rem;
    white-space: nowrap;
    font-variant-numeric: tabular-nums;
    margin-right: 0.375rem;
  }
  .best {
    font-weight: 600;
  }
  .line {
    display: block;
    height: 3px;
    background: var(--rule);
  }
  .line span {
    display: block;
    height: 3px;
    background: var(--ink-2);
  }
</style>
