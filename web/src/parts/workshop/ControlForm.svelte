<script lang="ts">
  import { untrack } from "svelte";
  import { ControlState } from "../../lib/control.svelte";
  import { listOf } from "../../lib/forms";
  import type { Control, Panel } from "../../lib/types";
  import type { WorkshopState } from "../../lib/workshop.svelte";
  import AddressForm from "./AddressForm.svelte";
  import FaceForm from "./FaceForm.svelte";
  import Field from "./Field.svelte";
  import LawForm from "./LawForm.svelte";

  /** One control: its face, what it sets and by which laws, with the rule drawn as it is typed. */
  let {
    s,
    control,
    panel,
  }: { s: WorkshopState; control: Control; panel: Panel } = $props();
  const k = untrack(() => new ControlState(s, () => control));
  const init = (text: string) => {
    k.c.init = text;
    return undefined;
  };
  const aliases = (text: string) => {
    const all = listOf(text, ",");
    return k.set({ aliases: all.length ? all : undefined });
  };
</script>

<div class="form">
  <Field
    id="first-field"
    bind:el={s.first}
    label="Label"
    mono={false}
    value={control.label}
    wrong={k.wrong("/label")}
    take={k.then("label", (t) => k.set({ label: t.trim() }))}
  />
  <Field
    label="Section"
    how="choice"
    value={control.section}
    options={panel.sections.map((s) => ({ value: s.id, text: s.label }))}
    wrong={k.wrong("/section")}
    take={k.then("section", (t) => k.set({ section: t }))}
  />
  <Field
    label="Init"
    value={control.init}
    wrong={k.wrong("/init")}
    hint={k.tried?.expects ?? ""}
    typed={init}
    take={k.then("init", init)}
  />
  <Field
    label="Aliases, by commas"
    mono={false}
    value={(control.aliases ?? []).join(", ")}
    take={k.then("aliases", aliases)}
  />
  <Field
    label="In a menu or shift layer"
    how="flag"
    value={control.hidden ? "yes" : ""}
    take={k.then("hidden", (t) => k.set({ hidden: !!t }))}
  />
  <Field
    label="Short name"
    value={control.id}
    wrong={k.wrong("/id")}
    take={(t) => {
      if (t.trim() !== control.id) s.rename(t.trim());
      return undefined;
    }}
  />
</div>

<FaceForm {k} {control} />

{#each k.c.means ?? [] as bind, i (i)}
  <LawForm
    {s}
    {k}
    n={i}
    {bind}
    stored={control.means?.[i]}
    face={k.c.face}
    drawn={k.tried?.means[i]}
  />
{/each}
<p class="add">
  {#if !k.c.means?.length}<span class="reason"
      >The control sets nothing: its reading is only written down.</span
    >{/if}
  <button class="linkish" onclick={k.addLaw}
    >{k.c.means?.length
      ? "It sets another thing too"
      : "Say what it sets"}</button
  >
</p>

<AddressForm {k} {control} />

<style>
  .form {
    display: grid;
    grid-template-columns: repeat(3, minmax(0, 1fr));
    gap: 0.5rem 1rem;
  }
  .add {
    margin: 0.75rem 0 0;
  }
  @media (max-width: 48rem) {
    .form {
      grid-template-columns: minmax(0, 1fr);
    }
  }
</style>
