<script lang="ts">
  import type { Workshop } from "../../lib/types";
  import type { WorkshopState } from "../../lib/workshop.svelte";
  import Field from "./Field.svelte";

  /** Name, kind and dump of the panel itself. */
  let { s, w }: { s: WorkshopState; w: Workshop } = $props();
  const head = (
    name: Parameters<WorkshopState["setHead"]>[0],
    value: unknown,
    what: string,
  ) => {
    s.setHead(name, value, what);
    return undefined;
  };
</script>

<div class="form">
  <Field
    id="first-field"
    bind:el={s.first}
    label="Name"
    mono={false}
    value={w.panel.name}
    wrong={w.faults.find((f) => f.path === "/name")?.message ?? ""}
    take={(t) => head("name", t.trim(), "name")}
  />
  <Field
    label="Kind"
    how="choice"
    value={w.panel.kind}
    options={[
      { value: "instrument", text: "instrument" },
      { value: "rack", text: "rack of outboard" },
    ]}
    take={(t) => head("kind", t, "kind")}
  />
  <Field
    label="Has memory and an init to start from"
    how="flag"
    value={w.panel.memory ? "yes" : ""}
    take={(t) => head("memory", t === "yes", "memory")}
  />
  <Field
    wide
    how="area"
    mono={false}
    rows={2}
    label="What it is"
    value={w.panel.summary ?? ""}
    take={(t) => head("summary", t.trim(), "summary")}
  />
  <Field
    label="Dump: header after F0, hexadecimal"
    hint="7D 01"
    value={w.panel.dump?.header ?? ""}
    wrong={w.faults.find((f) => f.path.startsWith("/dump"))?.message ?? ""}
    take={(t) =>
      head(
        "dump",
        t.trim()
          ? { length: 1, ...w?.panel.dump, header: t.trim() }
          : undefined,
        "dump header",
      )}
  />
  <Field
    label="Dump: bytes between header and F7"
    value={w.panel.dump ? String(w.panel.dump.length) : ""}
    take={(t) => {
      const n = Number(t);
      if (!w?.panel.dump) return "expected a header first";
      if (!Number.isInteger(n) || n < 1)
        return "expected a whole number above 0";
      head("dump", { ...w.panel.dump, length: n }, "dump length");
      return undefined;
    }}
  />
  <Field
    label="Dump: what asks for it, F0 and F7 left out"
    hint="7D 01; empty where nothing does"
    value={w.panel.dump?.request ?? ""}
    take={(t) => {
      if (!w?.panel.dump)
        return t.trim() ? "expected a header first" : undefined;
      head(
        "dump",
        { ...w.panel.dump, request: t.trim() || undefined },
        "dump request",
      );
      return undefined;
    }}
  />
</div>

<style>
  .form {
    display: grid;
    grid-template-columns: repeat(3, minmax(0, 1fr));
    gap: 0.5rem 1rem;
  }
  @media (max-width: 48rem) {
    .form {
      grid-template-columns: minmax(0, 1fr);
    }
  }
</style>
