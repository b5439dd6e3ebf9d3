<script lang="ts">
  import { pointsOf, pointsText, valueOf, valueText } from "../../lib/law";
  import type { Face, Law, LawSpec } from "../../lib/types";
  import { words } from "../../lib/words";
  import Field, { type Wrong } from "./Field.svelte";

  /** The points that a law goes through, or the value of each position. */
  let {
    spec,
    law,
    kept,
    face,
    wrong,
    put,
  }: {
    spec: LawSpec | undefined;
    law: Law;
    /** The law as it is stored. */
    kept: Law;
    face: Face;
    wrong: (path: string) => string;
    /** An empty what draws only. */
    put: (change: Partial<Law>, what: string) => void;
  } = $props();

  const named = $derived(
    words.units.find((u) => u.symbol === law.unit)?.named ?? false,
  );
  function points(text: string, what: string): Wrong {
    const out = pointsOf(text);
    if (typeof out === "string") return out;
    put({ points: out }, what);
    return undefined;
  }
  function oneValue(i: number, text: string, what: string): Wrong {
    const v = valueOf(text, named);
    if (v instanceof Error) return v.message;
    const count = Math.max(face.entries?.length ?? 0, i + 1);
    const values = Array.from(
      { length: count },
      (_, k): unknown => law.values?.[k] ?? null,
    );
    values[i] = v;
    put({ values }, what);
    return undefined;
  }
  function allValues(text: string, what: string): Wrong {
    const values: unknown[] = [];
    for (const w of text.split("|")) {
      const v = valueOf(w, named);
      if (v instanceof Error) return v.message;
      values.push(v);
    }
    put({ values }, what);
    return undefined;
  }
</script>

{#if spec?.points}
  <Field
    how="area"
    label={`Points, one a line: travel from 0 to 1 = value in ${law.unit}`}
    rows={Math.min(5, (kept.points ?? []).length + 1)}
    value={pointsText(kept)}
    wrong={wrong("/law/points")}
    typed={(t) => points(t, "")}
    take={(t) => points(t, "points")}
  />
{:else if spec?.values && face.entries}
  <div class="values" role="group" aria-label="A value for each position">
    {#each face.entries as entry, i (i)}
      <Field
        label={entry}
        value={valueText(kept.values?.[i])}
        hint="–"
        wrong={wrong(`/law/values/${i}`)}
        typed={(t) => oneValue(i, t, "")}
        take={(t) => oneValue(i, t, `value of ${entry}`)}
      />
    {/each}
  </div>
  {#if wrong("/law/values")}<p class="red small">{wrong("/law/values")}</p>{/if}
{:else if spec?.values}
  <Field
    label="Values, one a position, divided by |"
    value={(kept.values ?? []).map(valueText).join(" | ")}
    wrong={wrong("/law/values")}
    typed={(t) => allValues(t, "")}
    take={(t) => allValues(t, "values")}
  />
{/if}

<style>
  .values {
    display: grid;
    grid-template-columns: repeat(auto-fill, minmax(7rem, 1fr));
    gap: 0.25rem 0.75rem;
    margin-top: 0.375rem;
    max-height: 14rem;
    overflow: auto;
  }
</style>
