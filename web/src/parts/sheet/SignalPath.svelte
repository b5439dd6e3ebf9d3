<script lang="ts">
  import type { SignalPath } from "../../lib/types";

  /** The way of the sound through a patch, from left to right, with who plays what; the same in words below. */
  let { path: p, red = false }: { path: SignalPath; red?: boolean } = $props();

  const wide = 148;
  const tall = 34;
  const gapX = 34;
  const gapY = 8;
  const rowsIn = $derived(
    p.nodes.reduce<Record<number, number>>((n, x) => {
      n[x.column] = Math.max(n[x.column] ?? 0, x.row + 1);
      return n;
    }, {}),
  );
  const columns = $derived(Math.max(0, ...p.nodes.map((n) => n.column)) + 1);
  const most = $derived(Math.max(1, ...Object.values(rowsIn)));
  const width = $derived(columns * (wide + gapX) - gapX + 2);
  const height = $derived(most * (tall + gapY) - gapY + 2);
  const x = (column: number) => 1 + column * (wide + gapX);
  const y = (column: number, row: number) =>
    1 + (row + (most - (rowsIn[column] ?? 1)) / 2) * (tall + gapY);
  const short = (text: string, n: number) =>
    text.length > n ? `${text.slice(0, n - 1)}…` : text;
</script>

<figure>
  <figcaption>{p.panel}</figcaption>
  <!-- svelte-ignore a11y_no_noninteractive_tabindex -->
  <div
    class="scroll"
    tabindex="0"
    role="region"
    aria-label={`The way of the sound through ${p.panel}`}
  >
    <svg {width} {height} role="img" aria-label={`${p.panel}: ${p.text}`}>
      {#each p.edges as e, i (i)}
        {@const a = p.nodes[e[0] ?? 0]}
        {@const b = p.nodes[e[1] ?? 0]}
        {#if a && b}
          {@const x1 = x(a.column) + wide}
          {@const y1 = y(a.column, a.row) + tall / 2}
          {@const x2 = x(b.column)}
          {@const y2 = y(b.column, b.row) + tall / 2}
          <path
            d={`M${x1} ${y1}C${x1 + gapX / 2} ${y1} ${x2 - gapX / 2} ${y2} ${x2} ${y2}`}
          />
        {/if}
      {/each}
      {#each p.nodes as n (n.id)}
        <g class:lost={n.plays === "left out"}>
          <title>{n.label}{n.plays ? `: ${n.plays}` : ""}</title>
          <rect
            x={x(n.column)}
            y={y(n.column, n.row)}
            width={wide}
            height={tall}
          />
          <text x={x(n.column) + 6} y={y(n.column, n.row) + 14}
            >{short(n.label, 22)}</text
          >
          {#if n.plays}<text
              class="plays"
              x={x(n.column) + 6}
              y={y(n.column, n.row) + 27}
              >{red || n.plays === "left out" || n.plays.startsWith("by ")
                ? ""
                : "by "}{short(n.plays, 24)}</text
            >{/if}
        </g>
      {/each}
    </svg>
  </div>
  <p class="small soft">{p.text}.</p>
</figure>

<style>
  figure {
    margin: 0.25rem 0 0.5rem;
  }
  figcaption {
    font-size: 0.8125rem;
    font-weight: 600;
  }
  .scroll {
    overflow-x: auto;
  }
  rect {
    fill: var(--paper);
    stroke: var(--ink-3);
  }
  path {
    fill: none;
    stroke: var(--ink-3);
    stroke-width: 1.25;
  }
  text {
    font-size: 0.75rem;
    fill: var(--ink);
  }
  .plays {
    font-size: 0.6875rem;
    fill: var(--ink-3);
  }
  .lost rect {
    stroke: var(--rubric);
    stroke-dasharray: 4 2;
  }
  .lost .plays {
    fill: var(--rubric);
  }
  p {
    margin: 0.125rem 0 0;
  }
</style>
