<script lang="ts">
  import type { ControlState } from "../../lib/control.svelte";
  import type { Control } from "../../lib/types";
  import Field from "./Field.svelte";

  /** The MIDI address of a control, and a note. */
  let { k, control }: { k: ControlState; control: Control } = $props();
  const show = (n: number | undefined) => (n === undefined ? "" : String(n));
</script>

<h3>MIDI address and note</h3>
<div class="form four">
  <Field
    label="CC"
    value={show(control.midi?.cc)}
    wrong={k.wrong("/midi/cc")}
    take={(t) => k.midi("cc", t)}
  />
  <Field
    label="NRPN"
    value={show(control.midi?.nrpn)}
    wrong={k.wrong("/midi/nrpn")}
    take={(t) => k.midi("nrpn", t)}
  />
  <Field
    label="Byte of the dump"
    value={show(control.midi?.byte)}
    wrong={k.wrong("/midi/byte")}
    take={(t) => k.midi("byte", t)}
  />
  <Field
    label="Numbers count"
    how="choice"
    value={control.midi?.values ?? ""}
    options={[
      { value: "", text: "as usual" },
      { value: "full", text: "the whole range" },
      { value: "index", text: "the positions from 0" },
    ]}
    wrong={k.wrong("/midi/values")}
    take={k.midiValues}
  />
  <Field
    wide
    how="area"
    mono={false}
    rows={2}
    label="Note"
    value={control.note ?? ""}
    take={k.then("note", (t) => k.set({ note: t.trim() }))}
  />
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
</style>
