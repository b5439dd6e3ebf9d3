<script lang="ts">
  import { listOf, pairsOf, pairsText } from "../../lib/forms";
  import type { Field as Spec, GroupSpec, Item } from "../../lib/groups";
  import type { Panel } from "../../lib/types";
  import { words } from "../../lib/words";
  import type { WorkshopState } from "../../lib/workshop.svelte";
  import Field, { type Wrong } from "./Field.svelte";

  /** The fields of one part of a panel other than a control. */
  let {
    s,
    spec,
    item,
    panel,
  }: { s: WorkshopState; spec: GroupSpec; item: Item; panel: Panel } = $props();

  function shown(f: Spec): string {
    const v = item[f.name];
    switch (f.how) {
      case "when":
        return s.when(`/${f.name}`);
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
      case "pairs": {
        const p = pairsOf(text);
        return typeof p === "string" ? new Error(p) : p;
      }
      case "names":
        return listOf(text, ",");
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
  function take(f: Spec, text: string): Wrong | Promise<Wrong> {
    if (f.how === "when") return s.setWhen(`/${f.name}`, text);
    const v = read(f, text);
    if (v instanceof Error) return v.message;
    if (f.how === "id" && spec.rename) {
      if (v === item.id) return undefined;
      s.rename(String(v));
      return undefined;
    }
    const now = { ...$state.snapshot(item), [f.name]: v };
    if (f.maybe && empty(v)) delete now[f.name];
    s.save(f.label.toLowerCase(), now);
    return undefined;
  }
  const faultOf = (f: Spec) =>
    s.own.find(
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
    ...(f.offers?.(panel, words, s.params) ?? []).map((x) => ({
      value: x,
      text:
        f.name === "step"
          ? (words.steps.find((s) => s.step === x)?.title ?? x)
          : f.name === "kind"
            ? (words.kinds.find((k) => k.kind === x)?.label ?? x)
            : x,
    })),
  ];
</script>

<div class="form">
  {#each spec.fields as f, i (f.name)}
    <Field
      id={i === 0 ? "first-field" : ""}
      bind:el={
        () => null,
        (el) => {
          if (i === 0) s.first = el;
        }
      }
      label={f.label}
      value={shown(f)}
      how={typeOf(f)}
      options={f.how === "choice" ? choices(f) : []}
      offers={(f.how === "line" || f.how === "names") && f.offers
        ? f.offers(panel, words, s.params)
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
  @media (max-width: 48rem) {
    .form {
      grid-template-columns: minmax(0, 1fr);
    }
  }
</style>
