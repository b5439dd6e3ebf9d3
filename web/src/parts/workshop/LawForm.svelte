<script lang="ts">
  import type { ControlState } from "../../lib/control.svelte";
  import { numberOf } from "../../lib/forms";
  import {
    kindOfLaw,
    ofKind,
    uncertaintyOf,
    uncertaintyText,
    withFields,
  } from "../../lib/law";
  import type { Bind, Face, Law, LawSpec, MeanView } from "../../lib/types";
  import { words } from "../../lib/words";
  import type { WorkshopState } from "../../lib/workshop.svelte";
  import ScaleStrip from "../ScaleStrip.svelte";
  import Field, { type Wrong } from "./Field.svelte";
  import LawValues from "./LawValues.svelte";
  import MarksForm from "./MarksForm.svelte";

  /** One law of a control: what it sets, how travel becomes quantity, where that is known from. */
  let {
    s,
    k,
    n,
    bind,
    stored,
    face,
    drawn,
  }: {
    s: WorkshopState;
    k: ControlState;
    n: number;
    bind: Bind;
    stored: Bind | undefined;
    face: Face;
    drawn: MeanView | undefined;
  } = $props();

  // what it sets, in the trade's words
  const line = $derived(s.w?.lines.find((l) => l.control === k.c.id));
  const says = $derived(
    (line?.all?.[n] ?? (n === 0 ? line?.sets : "")) ||
      [bind.param, bind.part].filter(Boolean).join(" "),
  );
  let offers: string[] = $state.raw([]);
  function look(text: string): Wrong {
    void s
      .findSets(text, k.c)
      .then((all) => (offers = all.map((x) => x.label)));
    return undefined;
  }
  async function choose(text: string): Promise<Wrong> {
    const [found] = await s.findSets(text, k.c);
    if (!found) return "nothing here is called that: put in its block first";
    const b = { ...$state.snapshot(bind), param: found.param };
    if (found.part) b.part = found.part as Bind["part"] & string;
    else delete b.part;
    set(b, "what it sets");
    return undefined;
  }
  let marking = $state(false);
  const law = $derived(bind.law);
  const kept = $derived((stored ?? bind).law);
  const spec = $derived(words.laws.find((l) => l.kind === law.kind));
  /** What the law sets, as the program knows it. */
  const param = $derived(s.w?.params.find((p) => p.ref === bind.param));
  const isTime = $derived(
    words.units.find((u) => u.symbol === law.unit)?.dim === "duration",
  );
  const units = $derived(
    [...words.units]
      .sort(
        (a, b) => Number(b.dim === param?.dim) - Number(a.dim === param?.dim),
      )
      .map((u) => ({
        value: u.symbol,
        text: u.symbol === u.dim ? u.symbol : `${u.symbol} (${u.dim})`,
      })),
  );

  const at = (path: string) => k.wrong(`/means/${n}${path}`);
  /** An empty what draws only. */
  const set = (b: Bind, what: string) => k.setLaw(n, b, what);
  function put(change: Partial<Law>, what: string): undefined {
    const now = withFields($state.snapshot(law), change);
    set({ ...$state.snapshot(bind), law: now }, what);
  }
  function number(name: string, text: string, what: string): Wrong {
    const v = numberOf(text);
    if (typeof v === "string") return v;
    return put({ [name]: v === 0 ? undefined : v }, what);
  }
  function numberText(f: LawSpec["fields"][number]): string {
    const v = (kept as Record<string, unknown>)[f.name];
    return v === undefined ? (f.name === "exponent" ? "" : "0") : String(v);
  }
  function kind(text: string): undefined {
    const to = words.laws.find((l) => l.kind === text);
    if (!to) return;
    const now = ofKind(to, $state.snapshot(law), face);
    set({ ...$state.snapshot(bind), law: now }, kindOfLaw);
  }
  function uncertainty(text: string): Wrong {
    const u = uncertaintyOf(text);
    if (typeof u === "string") return u;
    return put({ uncertainty: u }, "uncertainty");
  }
</script>

<section aria-label={`Law ${n + 1}`}>
  <div class="top">
    <h3>Sets</h3>
    <button class="linkish" onclick={() => (marking = !marking)}
      >From printed marks</button
    >
    <button class="linkish" onclick={() => k.dropLaw(n)}
      >Take this law away</button
    >
  </div>
  <div class="rule">
    {#if drawn && drawn.ticks.length}
      <ScaleStrip mean={drawn} />
      <div class="small soft num">{drawn.law}</div>
    {:else}
      <span class="small soft"
        >The rule is drawn when the law has no fault.</span
      >
    {/if}
  </div>
  <div class="form">
    <div class="two">
      <Field
        label="Sets"
        mono={false}
        value={says}
        {offers}
        hint="cutoff of filter"
        wrong={at("/param") || at("/part")}
        typed={look}
        take={choose}
      />
    </div>
    <div class="two">
      <Field
        label="Only while"
        value={s.when(`/means/${n}/when`)}
        hint="Wave = saw | pulse; Sync = on"
        wrong={at("/when")}
        take={(t) => s.setWhen(`/means/${n}/when`, t)}
      />
    </div>
    <Field
      label="Law"
      how="choice"
      value={law.kind}
      options={words.laws.map((l) => ({ value: l.kind, text: l.label }))}
      wrong={at("/law/kind")}
      take={kind}
    />
    <Field
      label="Unit"
      how="choice"
      value={law.unit}
      options={units}
      wrong={at("/law/unit")}
      take={(t) => put({ unit: t }, "unit")}
    />
    {#each spec?.fields ?? [] as f (f.name)}
      <Field
        label={f.label}
        value={numberText(f)}
        hint={f.name === "exponent" ? "1" : ""}
        wrong={at(`/law/${f.name}`)}
        typed={(t) => number(f.name, t, "")}
        take={(t) => number(f.name, t, f.label.toLowerCase())}
      />
    {/each}
    {#if spec?.fields.length && !spec.centred}
      <Field
        label="An end that is off"
        how="choice"
        value={law.off ?? ""}
        options={[{ value: "", text: "none" }, ...words.ends]}
        wrong={at("/law/off")}
        take={(t) => put({ off: t as "bottom" }, "end that is off")}
      />
    {/if}
    {#if isTime}
      <Field
        label="The time is"
        how="choice"
        value={law.convention ?? ""}
        options={[
          { value: "", text: "as the stage has it" },
          ...words.conventions,
        ]}
        wrong={at("/law/convention")}
        take={(t) => put({ convention: t as "tau" }, "time convention")}
      />
    {:else if param?.depth || law.swing}
      <Field
        label="Depth counts"
        how="choice"
        value={law.swing ?? ""}
        options={[{ value: "", text: "to the peak" }, ...words.swings]}
        wrong={at("/law/swing")}
        take={(t) => put({ swing: t as "peak" }, "swing")}
      />
    {/if}
    <Field
      label="Known from"
      how="choice"
      value={law.source ?? ""}
      options={[{ value: "", text: "not said" }, ...words.known]}
      wrong={at("/law/source")}
      take={(t) => put({ source: t as "stated" }, "where the law is from")}
    />
    <Field
      label="Give or take, two times of three"
      value={uncertaintyText(kept)}
      hint={law.source === "assumed" ? "5 % where none is given" : "3 % or 0.5"}
      wrong={at("/law/uncertainty")}
      take={uncertainty}
    />
  </div>
  <LawValues {spec} {law} {kept} {face} wrong={at} {put} />
  {#if marking}
    <MarksForm
      {s}
      {n}
      {law}
      {face}
      took={(now) =>
        set({ ...$state.snapshot(bind), law: now }, "law from marks")}
      close={() => (marking = false)}
    />
  {/if}
</section>

<style>
  section {
    margin-top: 0.75rem;
    padding: 0.5rem 0.75rem 0.75rem;
    background: var(--shade);
    border-left: 3px solid var(--rule);
  }
  .top {
    display: flex;
    gap: 1rem;
    align-items: baseline;
  }
  .top h3 {
    margin: 0 auto 0.25rem 0;
  }
  .form {
    display: grid;
    grid-template-columns: repeat(5, minmax(0, 1fr));
    gap: 0.375rem 0.75rem;
  }
  .two {
    grid-column: span 2;
  }
  .rule {
    margin-bottom: 0.5rem;
    min-height: 3.75rem;
    background: var(--sheet);
    padding: 0.375rem 0.5rem;
    border: 1px solid var(--rule);
  }
  @media (max-width: 48rem) {
    .form {
      grid-template-columns: minmax(0, 1fr);
    }
    .two {
      grid-column: auto;
    }
  }
</style>
