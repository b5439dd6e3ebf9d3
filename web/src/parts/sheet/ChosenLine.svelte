<script lang="ts">
  import {
    Button,
    Select,
    SelectItem,
    TextInput,
  } from "carbon-components-svelte";
  import type { SheetState } from "../../lib/sheet.svelte";
  import type { Sheet } from "../../lib/types";
  import Because from "../Because.svelte";
  import Entries from "../Entries.svelte";
  import Verdict from "../Verdict.svelte";
  import PartPicture from "./PartPicture.svelte";
  import PartChoice from "./PartChoice.svelte";

  /** All about the chosen line: why it is so, and another reading for it. */
  let { s, sheet, edit }: { s: SheetState; sheet: Sheet; edit: () => void } =
    $props();
  const chosen = $derived(s.chosen);
  const pair = $derived(s.pair);
  /** What was corrected of the controls of this line. */
  const about = $derived(
    (s.view?.entries ?? []).filter((e) =>
      chosen?.target.some((t) => t.control === e.control),
    ),
  );
</script>

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
    {#if s.picture?.shape}<PartPicture picture={s.picture} hair={s.hair} />{/if}
    {#if s.alone.get(chosen.id)}
      {@const h = s.alone.get(chosen.id)}
      <p class="small">
        Heard alone: <span class="num">{h?.apart.toFixed(1)}</span>
        just-noticeable differences{(h?.with ?? 0) > 0
          ? `, together with ${h?.with} more lines that go over by the same rule`
          : ""}.
      </p>
    {/if}
    {#if chosen.reason}<p class="reason">{chosen.reason}.</p>{/if}
    {#each sheet.rules.filter((r) => chosen?.rules?.includes(r.id)) as r (r.id)}
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
      <PartChoice {s} {sheet} source={pair.source} label={pair.sourceLabel} />
    {/if}
    {#if chosen.target.some((t) => !t.outside)}
      <form
        onsubmit={(e) => {
          e.preventDefault();
          if (s.editing) void s.put(s.control, s.typed);
          else edit();
        }}
      >
        {#if chosen.target.length > 1}
          <Select size="sm" labelText="Control" bind:selected={s.control}>
            {#each chosen.target as t (t.control)}<SelectItem
                value={t.control}
                text={`${t.label} (${t.reading})`}
              />{/each}
          </Select>
        {/if}
        {#if s.editing}
          <TextInput
            id="override"
            size="sm"
            labelText={`Set ${s.setting(s.control)?.label ?? s.control} to`}
            helperText={s.setting(s.control)?.expects ?? ""}
            invalid={!!s.wrong}
            invalidText={s.wrong}
            autocomplete="off"
            bind:ref={s.field}
            bind:value={s.typed}
            onkeydown={(e) => {
              if (e.key !== "Escape") return;
              e.stopPropagation();
              s.close();
              void s.choose(chosen);
            }}
          />
          <Because
            bind:tags={s.tags}
            bind:why={s.why}
            done={() => void s.put(s.control, s.typed)}
            leave={() => {
              s.close();
              void s.choose(chosen);
            }}
          />
          <div class="bar acts">
            <Button size="small" type="submit">Set</Button>
            <button type="button" class="linkish" onclick={s.close}
              >leave it</button
            >
          </div>
        {:else}
          <div class="bar acts">
            <Button size="small" kind="tertiary" type="submit"
              >Set another reading</Button
            >
            {#if chosen.target.some((t) => t.overridden)}
              <button type="button" class="linkish" onclick={s.takeBack}
                >take it back</button
              >
            {/if}
          </div>
        {/if}
      </form>
      {#if about.length > 0}<Entries entries={about} />{/if}
      {#if s.setting(s.control)?.caution}<p class="red small">
          {s.setting(s.control)?.caution}
        </p>{/if}
    {/if}
  {/if}
</aside>

<style>
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
</style>
