<script lang="ts">
  import { part } from "../../lib/api";
  import type { ShowState } from "../../lib/show.svelte";

  /** What can be hired in the house, who plays, and how fast hands are. */
  let { show }: { show: ShowState } = $props();
  const doc = $derived(show.view?.doc);
  const at = $derived(show.at);
  const house = $derived(doc?.houses[at]);
  const panels = $derived(show.view?.panels ?? []);
  const nameOf = $derived(new Map(panels.map((p) => [p.id, p.name])));
  let adding = $state("");
  const price = (text: string) => {
    const x = Number(text.replace(",", "."));
    return Number.isFinite(x) && x >= 0 ? x : 0;
  };
  const addHouse = () =>
    show
      .change((d) => {
        let n = d.houses.length + 1;
        while (d.houses.some((h) => h.name === `House ${n}`)) n++;
        d.houses.push({ name: `House ${n}`, instruments: [] });
      })
      .then((ok) => {
        const to = show.view?.doc.houses.at(-1)?.id;
        if (ok && to) {
          show.house = to;
          void show.replan();
        }
      });
  const pace = (who: string) => show.plan?.paces.find((p) => p.player === who);
  const players = $derived(
    [
      ...new Set([
        ...(doc?.players ?? []).map((p) => p.name),
        ...(doc?.cues ?? []).map((c) => c.player ?? ""),
      ]),
    ].filter(Boolean),
  );
  const setPace = (who: string, text: string) =>
    show.change((d) => {
      d.players ??= [];
      const p = d.players.find((x) => x.name === who);
      if (p) p.pace = price(text);
      else d.players.push({ name: who, pace: price(text) });
    });
</script>

{#if doc}
  <section class="two">
    <div>
      <h2>
        {house ? `In ${house.name}` : "No house"}
      </h2>
      {#if house}
        <p class="fields">
          <label
            >Name <input
              value={house.name}
              maxlength="200"
              onchange={(e) => {
                const name = e.currentTarget.value;
                void show.change((d) => {
                  const h = d.houses[at];
                  if (h) h.name = name;
                });
              }}
            /></label
          >
          <label class="long"
            >Note <input
              value={house.note ?? ""}
              maxlength="2000"
              placeholder="how hire goes there"
              onchange={(e) => {
                const note = e.currentTarget.value;
                void show.change((d) => {
                  const h = d.houses[at];
                  if (h) h.note = note;
                });
              }}
            /></label
          >
        </p>
        <table class="lines stack">
          <thead
            ><tr
              ><th>Instrument</th><th>Stands with</th><th>Price</th><th>Note</th
              ><th></th></tr
            ></thead
          >
          <tbody>
            {#each house.instruments as x, k (k)}
              <tr>
                <td
                  >{#if nameOf.has(x.panel)}<a href={`/panels/${part(x.panel)}`}
                      >{nameOf.get(x.panel)}</a
                    >{:else}<span class="red">{x.panel}, which is gone</span
                    >{/if}</td
                >
                <td
                  ><input
                    aria-label={`Who ${nameOf.get(x.panel) ?? x.panel} stands with`}
                    value={x.player ?? ""}
                    list="players"
                    placeholder="anybody"
                    onchange={(e) => {
                      const player = e.currentTarget.value;
                      void show.change((d) => {
                        const h = d.houses[at]?.instruments[k];
                        if (h) h.player = player;
                      });
                    }}
                  /></td
                >
                <td
                  ><input
                    class="num price"
                    aria-label={`Price of ${nameOf.get(x.panel) ?? x.panel}`}
                    value={x.price ?? ""}
                    inputmode="decimal"
                    onchange={(e) => {
                      const value = price(e.currentTarget.value);
                      void show.change((d) => {
                        const h = d.houses[at]?.instruments[k];
                        if (h) h.price = value;
                      });
                    }}
                  /></td
                >
                <td class="wide"
                  ><input
                    class="note"
                    aria-label={`Note on ${nameOf.get(x.panel) ?? x.panel}`}
                    value={x.note ?? ""}
                    maxlength="2000"
                    placeholder="whether it is to be had"
                    onchange={(e) => {
                      const note = e.currentTarget.value;
                      void show.change((d) => {
                        const h = d.houses[at]?.instruments[k];
                        if (h) h.note = note;
                      });
                    }}
                  /></td
                >
                <td
                  ><button
                    class="linkish"
                    onclick={() =>
                      void show.change((d) => {
                        d.houses[at]?.instruments.splice(k, 1);
                      })}>Not there</button
                  ></td
                >
              </tr>
            {/each}
          </tbody>
        </table>
        <p class="acts">
          <label class="small"
            >Another instrument <select
              bind:value={adding}
              onchange={() => {
                const panel = adding;
                adding = "";
                if (panel)
                  void show.change((d) => {
                    d.houses[at]?.instruments.push({ panel });
                  });
              }}
              ><option value="">choose</option>{#each panels as p (p.id)}<option
                  value={p.id}>{p.name}</option
                >{/each}</select
            ></label
          >
          <button class="linkish" onclick={() => void addHouse()}
            >Another house</button
          >
          {#if doc.houses.length > 1}<button
              class="linkish"
              onclick={() =>
                void show.change((d) => {
                  d.houses.splice(at, 1);
                })}>Leave this house out</button
            >{/if}
        </p>
      {:else}
        <button class="linkish" onclick={() => void addHouse()}
          >A house to play in</button
        >
      {/if}
    </div>
    <div>
      <h2>Hands</h2>
      <p class="small soft">
        Seconds that a control takes in a changeover, and another program. What
        rehearsals have shown counts before what is written here.
      </p>
      <table class="figures">
        <tbody>
          <tr
            ><th>anybody</th><td
              ><input
                class="num price"
                aria-label="Seconds a control, for anybody"
                value={doc.pace || ""}
                placeholder="4"
                inputmode="decimal"
                onchange={(e) => {
                  const x = price(e.currentTarget.value);
                  void show.change((d) => (d.pace = x));
                }}
              /> s</td
            ><td></td></tr
          >
          {#each players as who (who)}
            {@const past = pace(who)?.pace}
            <tr
              ><th>{who}</th><td
                ><input
                  class="num price"
                  aria-label={`Seconds a control, ${who}`}
                  value={doc.players?.find((p) => p.name === who)?.pace || ""}
                  placeholder={String(doc.pace || 4)}
                  inputmode="decimal"
                  onchange={(e) => void setPace(who, e.currentTarget.value)}
                /> s</td
              ><td class="small"
                >{#if past}rehearsed: <span class="num"
                    >{past.each.toFixed(1)} s</span
                  >
                  ({past.n} lines){/if}</td
              ></tr
            >
          {/each}
          <tr
            ><th>another program</th><td
              ><input
                class="num price"
                aria-label="Seconds to another program"
                value={doc.program || ""}
                placeholder="2"
                inputmode="decimal"
                onchange={(e) => {
                  const x = price(e.currentTarget.value);
                  void show.change((d) => (d.program = x));
                }}
              /> s</td
            ><td></td></tr
          >
        </tbody>
      </table>
    </div>
  </section>
{/if}

<style>
  .two {
    display: grid;
    grid-template-columns: minmax(0, 1fr) 20rem;
    gap: 0 2rem;
    margin-top: 1.5rem;
  }
  td input,
  .acts select {
    font: inherit;
    font-size: 0.8125rem;
    color: var(--ink);
    background: none;
    border: 0;
    border-bottom: 1px solid var(--rule);
    padding: 0.125rem 0.25rem;
  }
  td input.price {
    width: 4.5rem;
    text-align: right;
    font-family: var(--mono);
  }
  td input.note {
    width: 100%;
  }
  ::placeholder {
    color: var(--ink-3);
    opacity: 1;
    font-style: italic;
  }
  .two > div {
    min-width: 0;
    overflow-wrap: anywhere;
  }
  td input {
    max-width: 100%;
    box-sizing: border-box;
  }
  .fields label {
    max-width: 100%;
  }
  .figures td {
    white-space: nowrap;
  }
  .acts select {
    max-width: 100%;
  }
  .long input {
    width: 24rem;
    max-width: 100%;
  }
  .acts > :global(*) {
    margin-right: 1rem;
  }
  @media (max-width: 760px) {
    .two {
      grid-template-columns: minmax(0, 1fr);
    }
  }
</style>
