<script lang="ts">
  /** A small plain pointer beside a clock reading; nothing for other readings. */
  let { reading }: { reading: string } = $props();
  const angle = $derived.by(() => {
    const m = /^~?(\d{1,2}):(\d\d)$/.exec(reading);
    return m ? ((Number(m[1]) % 12) + Number(m[2]) / 60) * 30 : null;
  });
</script>

{#if angle !== null}
  <svg viewBox="-7 -7 14 14" width="12" height="12" aria-hidden="true">
    <line x1="0" y1="0" x2="0" y2="-6" transform={`rotate(${angle})`} />
  </svg>
{/if}

<style>
  line {
    stroke: currentColor;
    stroke-width: 1.75;
    stroke-linecap: round;
  }
</style>
