<script lang="ts">
  import type { ControlState } from "../../lib/control.svelte";
  import type { Control } from "../../lib/types";
  import { words } from "../../lib/words";
  import Field from "./Field.svelte";

  /** How a control shows its position. */
  let { k, control }: { k: ControlState; control: Control } = $props();
  const show = (n: number | undefined) => (n === undefined ? "" : String(n));
  const marksText = $derived(
    (control.face.marks ?? []).map((m) => `${m.at} = ${m.legend}`).join("\n"),
  );
</script>

<h3>Face</h3>
<div class="form four">
  <Field
    label="Kind"
    how="choice"
    value={control.face.kind}
    wrong={k.wrong("/face/kind")}
    options={words.faces}
    take={k.kind}
  />
  {#if k.c.face.kind === "numeric"}
    {#each [["min", "From"], ["max", "To"], ["step", "Step"]] as const as [name, label] (name)}
      <Field
        {label}
        value={show(control.face[name] ?? 0)}
        wrong={k.wrong(`/face/${name}`)}
        typed={(t) => k.number(name, t)}
        take={k.then(name, (t) => k.number(name, t))}
      />
    {/each}
    <Field
      label="Decimals shown"
      value={show(control.face.decimals)}
      hint="as many as the step has"
      wrong={k.wrong("/face/decimals")}
      typed={(t) => k.number("decimals", t)}
      take={k.then("decimals", (t) => k.number("decimals", t))}
    />
    {#each [["prefix", "Before the number"], ["suffix", "After it"]] as const as [name, label] (name)}
      <Field
        {label}
        value={control.face[name] ?? ""}
        typed={(t) => k.word(name, t)}
        take={k.then(name, (t) => k.word(name, t))}
      />
    {/each}
    <Field
      label="Shows a plus"
      how="flag"
      value={control.face.sign ? "yes" : ""}
      take={(t) => k.flag("sign", t)}
    />
    <Field
      label="Counts things, exact"
      how="flag"
      value={control.face.exact ? "yes" : ""}
      take={(t) => k.flag("exact", t)}
    />
  {:else if k.c.face.kind === "clock"}
    {#each [["from", "Least at", "7:00"], ["to", "Most at", "17:00"]] as const as [name, label, hint] (name)}
      <Field
        {label}
        {hint}
        value={control.face[name] ?? ""}
        wrong={k.wrong(`/face/${name}`) || k.wrong("/face")}
        typed={(t) => k.word(name, t)}
        take={k.then(name, (t) => k.word(name, t))}
      />
    {/each}
    <Field
      label="Finest setting, minutes"
      hint="15"
      value={show(control.face.minutes)}
      wrong={k.wrong("/face/minutes")}
      typed={(t) => k.number("minutes", t)}
      take={k.then("minutes", (t) => k.number("minutes", t))}
    />
  {:else if k.c.face.kind === "marks"}
    <Field
      label="Places the eye holds between marks"
      value={show(control.face.between)}
      hint="1: only the marks"
      wrong={k.wrong("/face/between")}
      typed={(t) => k.number("between", t)}
      take={k.then("between", (t) => k.number("between", t))}
    />
    <Field
      wide
      how="area"
      label="Marks, one a line: travel from 0 to 1 = legend"
      value={marksText}
      rows={Math.min(5, (control.face.marks ?? []).length + 1)}
      wrong={k.wrong("/face/marks")}
      typed={k.marks}
      take={k.then("marks", k.marks)}
    />
  {:else if k.c.face.kind === "list" || k.c.face.kind === "switch"}
    <Field
      wide
      how="area"
      label="Positions, one a line"
      value={(control.face.entries ?? []).join("\n")}
      rows={Math.min(5, (control.face.entries ?? []).length + 1)}
      wrong={k.wrong("/face/entries")}
      typed={k.entries}
      take={k.then("positions", k.entries)}
    />
  {/if}
</div>

<style>
  .form {
    display: grid;
    grid-template-columns: repeat(4, minmax(0, 1fr));
    gap: 0.5rem 1rem;
  }
  h3 {
    margin: 1rem 0 0.25rem;
  }
  @media (max-width: 48rem) {
    .form {
      grid-template-columns: minmax(0, 1fr);
    }
  }
</style>
