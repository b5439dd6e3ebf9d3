<script lang="ts">
  import {
    pairsOf,
    pairsText,
    whenOf,
    whenText,
    type Field as Spec,
    type GroupSpec,
    type Item,
  } from "../lib/panel";
  import type { Fault, Panel, Vocabulary, When } from "../lib/types";
  import Field from "./Field.svelte";

  /** The fields of one part of a panel other than a control. */
  let {
    spec,
    item,
    panel,
    vocabulary,
    faults,
    save,
    rename,
  }: {
    spec: GroupSpec;
    item: Item;
    panel: Panel;
    vocabulary: Vocabulary;
    /** Faults below the item, their paths from it. */
    faults: Fault[];
    save: (what: string, now: Item) => void;
    rename: (to: string) => void;
  } = $props();

  function shown(f: Spec): string {
    const v = item[f.name];
    switch (f.how) {
      case "when":
        return whenText(v as When[] | undefined);
      case "names":
        return ((v as string[] | undefined) ?? []).join(", ");
      case "pairs":
        return pairsText(v as Record<string, string> | undefined);
      case "flag":
        return v ? "yes" : "";
      default:
        return v === undefined ? "" : String(v);
    }
  }
  function read(f: Spec, text: string): unknown {
    switch (f.how) {
      case "when": {
        const w = whenOf(text);
        return typeof w === "string" ? new Error(w) : w;
      }
      case "pairs": {
        const p = pairsOf(text);
        return typeof p === "string" ? new Error(p) : p;
      }
      case "names":
        return text
          .split(",")
          .map((x) => x.trim())
          .filter(Boolean);
      case "flag":
        return text === "yes";
      default:
        return text.trim();
    }
  }
  const empty = (v: unknown) =>
    v === "" ||
    v === false ||
    (typeof v === "object" && v !== null && Object.keys(v).length === 0);
  function take(f: Spec, text: string): string | undefined {
    const v = read(f, text);
    if (v instanceof Error) return v.message;
    if (f.how === "id" && spec.rename) {
      if (v === item.id) return undefined;
      rename(String(v));
      return undefined;
    }
    const now = { ...$state.snapshot(item), [f.name]: v };
    if (f.maybe && empty(v)) delete now[f.name];
    save(f.label.toLowerCase(), now);
    return undefined;
  }
  const faultOf = (f: Spec) =>
    faults.find(
      (x) => x.path === `/${f.name}` || x.path.startsWith(`/${f.name}/`),
    )?.message ?? "";
  const typeOf = (f: Spec) =>
    f.how === "area" || f.how === "pairs"
      ? ("area" as const)
      : f.how === "choice"
        ? ("choice" as const)
        : f.how === "flag"
          ? ("flag" as const)
          : ("line" as const);
  const choices = (f: Spec) => [
    ...(f.maybe ? [{ value: "", text: "" }] : []),
    ...(f.offers?.(panel, vocabulary) ?? []).map((x) => ({
      value: x,
      text:
        f.name === "step"
          ? (vocabulary.steps.find((s) => s.step === x)?.title ?? x)
          : f.name === "kind"
            ? (vocabulary.kinds.find((k) => k.kind === x)?.label ?? x)
            : x,
    })),
  ];
</script>

<div class="form">
  {#each spec.fields as f, i (f.name)}
    <Field
      id={i === 0 ? "first-field" : ""}
      label={f.label}
      value={shown(f)}
      how={typeOf(f)}
      options={f.how === "choice" ? choices(f) : []}
      offers={(f.how === "line" || f.how === "names") && f.offers
        ? f.offers(panel, vocabulary)
        : []}
      hint={f.hint ?? ""}
      wide={f.how === "when" ||
        f.how === "names" ||
        f.how === "pairs" ||
        f.how === "area"}
      mono={f.how !== "area" && f.name !== "label"}
      wrong={faultOf(f)}
      take={(t) => take(f, t)}
    />
  {/each}
</div>

<style>
  .form {
    display: grid;
    grid-template-columns: repeat(3, minmax(0, 1fr));
    gap: 0.5rem 1rem;
  }
</style>
