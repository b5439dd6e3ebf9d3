<script lang="ts">
  import {
    Button,
    Select,
    SelectItem,
    TextInput,
  } from "carbon-components-svelte";
  import { flushSync, tick } from "svelte";
  import { app, plain, pressing, typing } from "../lib/app.svelte";
  import { ask, exportURL, part, Refusal } from "../lib/api";
  import { load } from "../lib/load.svelte";
  import { route } from "../lib/route.svelte";
  import {
    steps,
    verdicts,
    type Gloss,
    type Opened,
    type Rule,
    type SheetView,
  } from "../lib/types";
  import Readings from "../parts/Readings.svelte";
  import PartChoice from "../parts/PartChoice.svelte";
  import PlanView from "../parts/PlanView.svelte";
  import RuleView from "../parts/RuleView.svelte";
  import Verdict from "../parts/Verdict.svelte";

  let { id }: { id: number } = $props();
  let view = $state<SheetView | null>(null);
  let missing = $state("");
  let rule = $state<Rule | null>(null);
  let ruleBox = $state<RuleView | undefined>();
  let only: string[] = $state([]);
  let idle = $state(true);

  // the override of the chosen line
  let control = $state("");
  let typed = $state("");
  let wrong = $state("");
  let editing = $state(false);

  const sheet = $derived(view?.sheet);
  const losses = ["bent", "recast", "left out"];

  /** Puts an outboard rack behind the target, or takes it away. */
  async function useRack(rack: string) {
    try {
      take(
        await ask<SheetView>("PUT", `/sheets/${id}/choices`, {
          part: "",
          matters: "",
          refuse: [],
          rack,
        }),
      );
    } catch (e) {
      app.fail(e);
    }
  }
  /** Opens the sheet of a second layer, which plays what this one leaves out. */
  async function secondLayer() {
    try {
      const made = await ask<Opened>("POST", `/sheets/${id}/second`);
      route.go(`/sheets/${made.id}`);
    } catch (e) {
      app.fail(e);
    }
  }
  function take(v: SheetView) {
    view = v;
    missing = "";
    app.pending = v.pending;
    document.title = `${v.sheet.patchName} to ${v.sheet.target.name} - Glossator`;
  }
  load<SheetView>(
    () => `/sheets/${id}`,
    take,
    (detail) => (missing = detail),
  );
  $effect(() => {
    app.keys = [
      { keys: "↑ ↓", does: "move through the lines" },
      { keys: "0-9 + - ~", does: "type another reading for the target" },
      {
        keys: "Enter",
        does: "open the reading; Enter again sets it, Esc leaves it",
      },
      { keys: "x", does: "take a reading set by hand back" },
      {
        keys: "r",
        does: "go to the rule; arrows move the hairline by the target's steps, Shift finely",
      },
      { keys: "l", does: "only what is bent, recast or left out" },
      { keys: "v", does: "hide or show idle lines" },
      {
        keys: "p",
        does: "the plan: what plays what, and what is made by other means",
      },
      { keys: "b", does: "compare targets" },
      { keys: "d", does: "dial in" },
      { keys: "h", does: "hear both sides" },
      { keys: "Esc", does: "back to the desk" },
    ];
  });

  const shown = $derived(
    (sheet?.glosses ?? []).filter(
      (g) =>
        (idle || g.verdict !== "idle") &&
        (only.length === 0 || only.includes(g.verdict)),
    ),
  );
  const grouped = $derived.by(() => {
    const order = Object.keys(steps);
    return [...shown].sort(
      (a, b) => order.indexOf(a.step) - order.indexOf(b.step),
    );
  });
  const chosen = $derived(
    grouped.find((g) => g.id === route.line) ?? grouped[0],
  );
  $effect(() => {
    app.carry = chosen?.wanted
      ? {
          value: chosen.wanted.text,
          of: `${sheet?.patchName ?? ""}: ${chosen.label}`,
          tempo: sheet?.tempo ?? 0,
        }
      : null;
    return () => (app.carry = null);
  });
  const setting = (c: string) => sheet?.settings.find((s) => s.control === c);

  let met = false;
  $effect(() => {
    if (!view || met) return;
    met = true;
    void tick().then(() =>
      document
        .getElementById(`g-${route.line}`)
        ?.scrollIntoView({ block: "center" }),
    );
  });

  let drawn = "";
  $effect(() => {
    const g = chosen;
    void view;
    if (!g) {
      rule = null;
      return;
    }
    if (drawn !== g.id) {
      drawn = g.id;
      control =
        g.target.find((t) => !t.init)?.control ?? g.target[0]?.control ?? "";
      close();
    }
    ask<Rule>("GET", `/sheets/${id}/rule?gloss=${part(g.id)}`)
      .then((r) => {
        if (drawn === r.gloss) rule = r;
      })
      .catch((e: unknown) => app.fail(e));
  });

  function close() {
    editing = false;
    typed = "";
    wrong = "";
  }
  async function choose(g: Gloss | undefined, focus = true) {
    if (!g) return;
    route.choose(g.id);
    await tick();
    const row = document.getElementById(`g-${g.id}`);
    row?.scrollIntoView({ block: "nearest" });
    if (focus) row?.focus({ preventScroll: true });
  }
  /** Opens the field of the chosen line, empty where a key press is about to fill it. */
  function edit(empty = false) {
    if (!chosen) return;
    if (!control) {
      app.say(
        "No control to set",
        `${sheet?.target.name} has none for this line.`,
      );
      return;
    }
    editing = true;
    wrong = "";
    typed = empty ? "" : (setting(control)?.reading ?? "");
    flushSync();
    const field = document.querySelector<HTMLInputElement>("#override");
    field?.focus();
    if (!empty) field?.select();
  }
  async function put(c: string, reading: string) {
    try {
      take(
        await ask<SheetView>("PUT", `/sheets/${id}/overrides/${part(c)}`, {
          reading,
        }),
      );
      const g = chosen;
      close();
      app.say(
        `${setting(c)?.label ?? c} set to ${setting(c)?.reading ?? reading}`,
        g ? `${g.label} is ${g.verdict}.` : "",
      );
      await choose(g);
    } catch (e) {
      if (e instanceof Refusal && e.problem.status === 422)
        wrong = e.problem.detail;
      else app.fail(e);
    }
  }
  async function takeBack() {
    const c = chosen?.target.find((t) => t.overridden)?.control;
    if (!c) return;
    try {
      take(
        await ask<SheetView>("DELETE", `/sheets/${id}/overrides/${part(c)}`),
      );
      app.say(
        `${setting(c)?.label ?? c} taken back`,
        `It is at ${setting(c)?.reading} again.`,
      );
    } catch (e) {
      app.fail(e);
    }
  }
  async function turnTo(target: string, school: string) {
    if (!sheet || (target === sheet.target.id && school === sheet.school))
      return;
    try {
      const s = await ask<Opened>("POST", "/sheets", {
        patch: sheet.patch,
        layer: sheet.layer,
        target,
        school,
      });
      route.go(`/sheets/${s.id}`);
    } catch (e) {
      app.fail(e);
    }
  }
  function filter(v: string) {
    only = only.length === 1 && only[0] === v ? [] : [v];
  }
  function keydown(e: KeyboardEvent) {
    if (typing(e) || !plain(e) || app.help || pressing(e)) return;
    const i = grouped.findIndex((g) => g.id === chosen?.id);
    if (e.key === "ArrowDown")
      void choose(grouped[Math.min(grouped.length - 1, i + 1)]);
    else if (e.key === "ArrowUp") void choose(grouped[Math.max(0, i - 1)]);
    else if (e.key === "Home") void choose(grouped[0]);
    else if (e.key === "End") void choose(grouped[grouped.length - 1]);
    else if (e.key === "Enter") edit();
    else if (/^[0-9+\-~.]$/.test(e.key)) {
      edit(true); // the key itself goes into the field
      return;
    } else if (e.key === "x") void takeBack();
    else if (e.key === "r") ruleBox?.focus();
    else if (e.key === "l")
      only = only.length === losses.length ? [] : [...losses];
    else if (e.key === "v") idle = !idle;
    else if (e.key === "d") route.go(`/sheets/${id}/dial-in`);
    else if (e.key === "h") route.go(`/sheets/${id}/listen`);
    else if (e.key === "p") plan = !plan;
    else if (e.key === "s" && sheet && view) {
      const all = view.schools.map((x) => x.school);
      const now = all.indexOf(sheet.school);
      void turnTo(sheet.target.id, all[(now + 1) % all.length] ?? "numbers");
    } else if (e.key === "b" && sheet)
      route.go(`/patches/${part(sheet.patch)}/targets`);
    else if (e.key === "Escape") {
      if (plan) plan = false;
      else if (editing) {
        close();
        void choose(chosen);
      } else if (document.activeElement?.getAttribute("role") === "slider")
        void choose(chosen);
      else route.go("/");
    } else return;
    e.preventDefault();
  }
  let plan = $state(false);
  const school = $derived(
    view?.schools.find((s) => s.school === sheet?.school),
  );
  const failing = $derived(sheet?.audit.filter((c) => !c.ok) ?? []);
  const pair = $derived.by(() => {
    const owner = chosen?.param.slice(0, chosen.param.lastIndexOf("."));
    return [...(sheet?.plan.modules ?? []), ...(sheet?.plan.routes ?? [])].find(
      (p) => p.source === owner,
    );
  });
</script>

<svelte:window onkeydown={keydown} />

{#if missing}
  <div class="page">
    <h1>No such sheet</h1>
    <p>{missing} <a href="/">To the desk</a></p>
  </div>
{:else if !view || !sheet}
  <div class="page"><p class="soft" role="status">Loading</p></div>
{:else}
  <div class="sheet">
    <div class="top bar">
      <h1 title={sheet.patchName}>
        <a href={`/patches/${part(sheet.patch)}`}>{sheet.patchName}</a>
      </h1>
      <span class="from">{sheet.source.name} to</span>
      <Select
        size="sm"
        labelText="Target"
        hideLabel
        inline
        selected={sheet.target.id}
        on:change={(e) =>
          sheet && turnTo((e.target as HTMLSelectElement).value, sheet.school)}
      >
        {#each view.targets as t (t.id)}<SelectItem
            value={t.id}
            text={t.name}
          />{/each}
      </Select>
      <Select
        size="sm"
        labelText="School"
        hideLabel
        inline
        selected={sheet.school}
        on:change={(e) =>
          sheet &&
          turnTo(sheet.target.id, (e.target as HTMLSelectElement).value)}
      >
        {#each view.schools as s (s.school)}<SelectItem
            value={s.school}
            text={s.label}
          />{/each}
      </Select>
      <div
        class="sum"
        role="group"
        aria-label="Verdicts; press one to see only those lines"
      >
        {#each verdicts as v (v)}
          {#if (sheet.summary[v] ?? 0) > 0}
            <button aria-pressed={only.includes(v)} onclick={() => filter(v)}>
              <span class="num">{sheet.summary[v]}</span>
              <Verdict verdict={v} />
            </button>
          {/if}
        {/each}
      </div>
      <div class="end bar">
        <details class="audit">
          <summary class:red={failing.length > 0}
            >{failing.length === 0
              ? "audit clean"
              : `audit: ${failing.map((c) => c.id).join(", ")} fails`}</summary
          >
          <ul>
            {#each sheet.audit as c (c.id)}
              <li class:red={!c.ok}>
                <strong>{c.id}</strong>
                {c.ok ? "holds" : "fails"}: {c.what}{c.detail
                  ? `: ${c.detail}`
                  : ""}
              </li>
            {/each}
            <li class="soft">
              plan: cost {sheet.plan.cost.toFixed(2)}, {sheet.plan.nodes} looked at{sheet
                .plan.exact
                ? ", none cheaper"
                : ", stopped at the limit"}
            </li>
          </ul>
        </details>
        <button
          class="linkish"
          aria-expanded={plan}
          onclick={() => (plan = !plan)}>Plan</button
        >
        <a href={`/patches/${part(sheet.patch)}/targets`}>Targets</a>
        <span class="exports"
          ><a download href={exportURL(`/sheets/${id}/export.json`)}>JSON</a>
          <a download href={exportURL(`/sheets/${id}/export.md`)}>Markdown</a
          ></span
        >
        <Button size="small" kind="tertiary" href={`/sheets/${id}/listen`}
          >Listen</Button
        >
        <Button size="small" href={`/sheets/${id}/dial-in`}>Dial in</Button>
      </div>
    </div>
    {#if sheet.notes.length > 0 || view.newer || failing.length > 0 || sheet.school !== "numbers" || view.outboard.length > 0 || sheet.rig || view.first || view.second || view.missing.length > 0}
      <div class="notes small">
        {#each failing as c (c.id)}<span class="red"
            >{c.id} fails: {c.detail}</span
          >{/each}
        {#each sheet.notes as n, i (i)}<span>{n}</span>{/each}
        {#if view.first}
          <span
            ><a href={`/sheets/${view.first}`}>The first layer’s sheet</a></span
          >
        {:else if view.second}
          <span
            ><a href={`/sheets/${view.second}`}>The second layer’s sheet</a
            ></span
          >
        {:else if view.missing.length > 0}
          <span
            ><button class="linkish" onclick={() => void secondLayer()}
              >Make a second layer of {sheet.target.name} for {view.missing.join(
                ", ",
              )}</button
            ></span
          >
        {/if}
        {#if sheet.rig}
          <span
            >Outside, {sheet.rig.rack.name} plays {sheet.rig.parts.join(", ")}.
            <button class="linkish" onclick={() => void useRack("")}
              >Do without it</button
            ></span
          >
        {/if}
        {#each view.outboard as o (o.rack.id)}
          <span
            >Outside, {o.rack.name} could play {o.parts.join(", ")}.
            <button class="linkish" onclick={() => void useRack(o.rack.id)}
              >Put it behind {sheet.target.name}</button
            ></span
          >
        {/each}
        {#if school && sheet.school !== "numbers"}
          <details class="against">
            <summary
              >{school.label}: {school.says}. {view.against.length === 0
                ? "Nothing is set otherwise than by numbers."
                : view.against.length === 1
                  ? "1 control is set otherwise than by numbers."
                  : `${view.against.length} controls are set otherwise than by numbers.`}</summary
            >
            <p>Takes care of: {school.compensates.join("; ")}.</p>
            <table class="lines">
              <thead
                ><tr
                  ><th>Control</th><th>By numbers</th><th>{school.label}</th><th
                    >Why</th
                  ></tr
                ></thead
              >
              <tbody>
                {#each view.against as c (c.control)}
                  <tr
                    ><td>{c.label}</td><td class="num">{c.was}</td><td
                      class="num">{c.is}</td
                    ><td class="reason">{c.why}</td></tr
                  >
                {/each}
              </tbody>
            </table>
          </details>
        {/if}
        {#if view.newer}<span class="red"
            >Since this sheet was made {view.newer}{view.since.length > 0
              ? `: made again, ${view.since
                  .slice(0, 4)
                  .map((c) => `${c.label} goes from ${c.was} to ${c.is}`)
                  .join(
                    ", ",
                  )}${view.since.length > 4 ? ` and ${view.since.length - 4} more` : ""}`
              : ""}.
            <button
              class="linkish"
              onclick={() =>
                sheet &&
                ask<Opened>("POST", "/sheets", {
                  patch: sheet.patch,
                  layer: sheet.layer,
                  target: sheet.target.id,
                  school: sheet.school,
                })
                  .then((s) => route.go(`/sheets/${s.id}`))
                  .catch((e: unknown) => app.fail(e))}>Translate again</button
            ></span
          >{/if}
      </div>
    {/if}

    {#if plan}<PlanView {id} {sheet} {take} />{/if}
    <div class="body">
      <!-- svelte-ignore a11y_no_noninteractive_tabindex -->
      <div
        class="scroll"
        role="region"
        aria-label="Lines of the sheet"
        tabindex="-1"
      >
        <table class="lines" role="grid" aria-label="Glosses">
          <thead>
            <tr>
              <th>Control</th>
              <th
                ><span class="panel" title={sheet.source.name}
                  >{sheet.source.name}</span
                ></th
              >
              <th>Meaning</th>
              <th>k = 2</th>
              <th
                ><span class="panel" title={sheet.target.name}
                  >{sheet.target.name}</span
                ></th
              >
              <th>Reached</th>
              <th>Verdict</th>
            </tr>
          </thead>
          <tbody>
            {#each grouped as g, i (g.id)}
              {#if grouped[i - 1]?.step !== g.step}
                <tr class="step"
                  ><th colspan="7" scope="rowgroup"
                    >{steps[g.step] ?? g.step}</th
                  ></tr
                >
              {/if}
              <tr
                id={`g-${g.id}`}
                class="open"
                class:dim={g.verdict === "idle"}
                tabindex={g.id === chosen?.id ? 0 : -1}
                aria-selected={g.id === chosen?.id}
                onclick={() => choose(g)}
                ondblclick={() => edit()}
              >
                <td class="label">
                  <span
                    class="section"
                    class:again={grouped[i - 1]?.section === g.section &&
                      grouped[i - 1]?.step === g.step}>{g.section}</span
                  >
                  <span>{g.label}</span>
                </td>
                <td><Readings readings={g.source} /></td>
                <td class="num" class:long={(g.wanted?.text.length ?? 0) > 16}
                  >{g.wanted?.text ?? "–"}</td
                >
                <td class="num soft">{g.wanted?.tol ?? ""}</td>
                <td><Readings readings={g.target} /></td>
                <td class="num" class:long={(g.reached?.text.length ?? 0) > 16}
                  >{g.reached?.text ?? "–"}</td
                >
                <td class="verdict"
                  ><Verdict verdict={g.verdict} />{#if g.open}<span
                      class="openmark"
                      title="hangs on what is not known">?</span
                    >{/if}</td
                >
              </tr>
            {:else}
              <tr
                ><td colspan="7"
                  >No line has this verdict. <button
                    class="linkish"
                    onclick={() => ((only = []), (idle = true))}
                    >Show all</button
                  ></td
                ></tr
              >
            {/each}
          </tbody>
        </table>
      </div>

      <aside aria-label="The chosen line">
        {#if chosen}
          <h2>{chosen.label}</h2>
          <div class="small soft">
            {chosen.section}{pair?.targetLabel
              ? `; played by ${pair.targetLabel}`
              : ""}
          </div>
          <p class="v">
            <Verdict verdict={chosen.verdict} />
            {#if chosen.diff && chosen.verdict !== "idle"}<span class="num"
                >{chosen.diff}</span
              >{/if}
            {#if chosen.jnds > 0}<span class="soft small"
                >{chosen.jnds} of a just-noticeable difference</span
              >{/if}
          </p>
          {#if chosen.reason}<p class="reason">{chosen.reason}.</p>{/if}
          {#each sheet.rules.filter( (r) => chosen?.rules?.includes(r.id) ) as r (r.id)}
            <p class="small rule">
              By the rule <em>{r.name}</em>: {r.why}.
              <span class="soft">{r.source}</span>
            </p>
          {/each}
          {#each chosen.also ?? [] as a (a.param)}
            <p class="small">
              {a.label}: <span class="num">{a.wanted?.text}</span> to
              <span class="num">{a.reached?.text ?? "–"}</span>
              <Verdict verdict={a.verdict} />
            </p>
          {/each}
          {#if pair}
            <PartChoice
              {id}
              {sheet}
              source={pair.source}
              label={pair.sourceLabel}
              took={take}
            />
          {/if}
          {#if chosen.target.some((t) => !t.outside)}
            <form
              onsubmit={(e) => {
                e.preventDefault();
                if (editing) void put(control, typed);
                else edit();
              }}
            >
              {#if chosen.target.length > 1}
                <Select size="sm" labelText="Control" bind:selected={control}>
                  {#each chosen.target as t (t.control)}<SelectItem
                      value={t.control}
                      text={`${t.label} (${t.reading})`}
                    />{/each}
                </Select>
              {/if}
              {#if editing}
                <TextInput
                  id="override"
                  size="sm"
                  labelText={`Set ${setting(control)?.label ?? control} to`}
                  helperText={setting(control)?.expects ?? ""}
                  invalid={!!wrong}
                  invalidText={wrong}
                  autocomplete="off"
                  bind:value={typed}
                  on:keydown={(e) => {
                    if (e.key !== "Escape") return;
                    e.stopPropagation();
                    close();
                    void choose(chosen);
                  }}
                />
                <div class="bar acts">
                  <Button size="small" type="submit">Set</Button>
                  <button type="button" class="linkish" onclick={close}
                    >leave it</button
                  >
                </div>
              {:else}
                <div class="bar acts">
                  <Button size="small" kind="tertiary" type="submit"
                    >Set another reading</Button
                  >
                  {#if chosen.target.some((t) => t.overridden)}
                    <button type="button" class="linkish" onclick={takeBack}
                      >take it back</button
                    >
                  {/if}
                </div>
              {/if}
            </form>
            {#if setting(control)?.caution}<p class="red small">
                {setting(control)?.caution}
              </p>{/if}
          {/if}
        {/if}
      </aside>
    </div>
    <div class="dock" role="region" aria-label="Rule">
      {#if rule}<RuleView
          bind:this={ruleBox}
          {rule}
          set={(c, r) => put(c, r)}
        />{/if}
    </div>
  </div>
{/if}

<style>
  .against table {
    margin: 0.25rem 0;
  }
  .against summary {
    cursor: pointer;
  }
  .sheet {
    display: flex;
    flex-direction: column;
    height: calc(100vh - 2.75rem);
    min-height: 34rem;
  }
  .top {
    padding: 0.3125rem 1.25rem;
    border-bottom: 1px solid var(--rule);
    gap: 0.25rem 0.625rem;
  }
  h1 a {
    text-decoration: none;
  }
  .from {
    white-space: nowrap;
  }
  .top :global(.bx--form-item) {
    flex: 0 0 auto;
  }
  .top :global(.bx--select--inline .bx--select-input) {
    font-weight: 600;
    width: auto;
    min-width: 0;
  }
  .top :global(.bx--select--inline),
  .top :global(.bx--select--inline .bx--select-input__wrapper) {
    width: auto;
    max-width: 10rem;
  }
  .sum {
    display: flex;
    flex-wrap: wrap;
    font-size: 0.8125rem;
  }
  .sum button {
    font: inherit;
    color: inherit;
    background: none;
    border: 1px solid transparent;
    padding: 0.125rem 0.4375rem;
    cursor: pointer;
    white-space: nowrap;
  }
  .sum button:hover {
    background: var(--shade);
  }
  .sum button[aria-pressed="true"] {
    background: var(--chosen);
    border-color: var(--ink-3);
  }
  .audit {
    position: relative;
    font-size: 0.8125rem;
  }
  .audit summary {
    cursor: pointer;
    white-space: nowrap;
  }
  .audit ul {
    position: absolute;
    right: 0;
    z-index: 30;
    width: 26rem;
    margin: 0.25rem 0 0;
    padding: 0.5rem 0.75rem;
    list-style: none;
    background: var(--sheet);
    border: 1px solid var(--ink-3);
  }
  .audit li {
    padding: 0.1875rem 0;
  }
  .exports {
    font-size: 0.8125rem;
    white-space: nowrap;
  }
  .exports a {
    margin-left: 0.375rem;
  }
  .notes {
    display: flex;
    flex-wrap: wrap;
    gap: 0 1.5rem;
    padding: 0.25rem 1.25rem;
    border-bottom: 1px solid var(--rule);
    background: var(--shade);
  }
  .body {
    flex: 1;
    display: grid;
    grid-template-columns: minmax(0, 1fr) 19rem;
    min-height: 0;
  }
  .scroll {
    overflow: auto;
    padding-left: 0.75rem;
  }
  .panel {
    display: block;
    max-width: 8.5rem;
    overflow: hidden;
    text-overflow: ellipsis;
  }
  h1 {
    max-width: 24rem;
    overflow: hidden;
    text-overflow: ellipsis;
    white-space: nowrap;
  }
  .from {
    max-width: 12rem;
    overflow: hidden;
    text-overflow: ellipsis;
  }
  .scroll thead th {
    position: sticky;
    top: 0;
    background: var(--paper);
    z-index: 5;
  }
  .step th {
    padding-top: 0.75rem;
    font-size: 0.8125rem;
    color: var(--rubric);
    border-bottom-color: var(--rule);
  }
  .label {
    width: 31%;
  }
  td.num {
    white-space: nowrap;
  }
  td.num.long {
    white-space: normal;
  }
  .section {
    display: inline-block;
    width: 7.75rem;
    margin-right: 0.375rem;
    color: var(--ink-3);
    font-size: 0.75rem;
    vertical-align: baseline;
  }
  .again {
    visibility: hidden;
  }
  .dim td {
    color: var(--ink-3);
  }
  .verdict {
    white-space: nowrap;
  }
  .openmark {
    color: var(--rubric);
    margin-left: 0.25rem;
  }
  aside {
    overflow: auto;
    padding: 0.75rem 1.25rem 0.75rem 1rem;
    border-left: 1px solid var(--rule);
    background: var(--sheet);
  }
  aside p {
    margin: 0.5rem 0;
  }
  aside .reason {
    font-size: 0.9375rem;
    line-height: 1.3125rem;
  }
  .v {
    display: flex;
    flex-wrap: wrap;
    gap: 0 0.75rem;
    align-items: baseline;
  }
  form {
    margin-top: 0.75rem;
    display: grid;
    gap: 0.5rem;
  }
  .acts {
    gap: 0.75rem;
  }
  .dock {
    flex: none;
    min-height: 11.25rem;
    padding: 0.4375rem 1.25rem 0.375rem;
    border-top: 1px solid var(--ink-3);
    background: var(--paper);
  }
  @media (max-width: 1100px) {
    .body {
      grid-template-columns: minmax(0, 1fr) 15.5rem;
    }
    .section {
      width: auto;
    }
    .again {
      display: none;
    }
  }
</style>
