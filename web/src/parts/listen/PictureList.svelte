<script lang="ts">
  import { round } from "../../lib/axis";
  import { Pictures } from "../../lib/pictures";
  import type { ListenState } from "../../lib/listen.svelte";
  import type { Take } from "../../lib/types";
  import Traces from "./Traces.svelte";

  /** Both sounds over each other, at equal loudness. */
  let {
    s,
    source,
    target,
    bands,
  }: { s: ListenState; source: Take; target: Take; bands: number[] } = $props();
  const p = $derived(new Pictures(source, target, s.gains, bands));
  const cursor = $derived(s.player.playing ? s.player.at : -1);
</script>

<section class="pictures" aria-label="Pictures of both sounds">
  <p class="legend small">
    <span class="key source"></span>
    {source.label}
    <span class="key target"></span>
    {target.label}
  </p>
  <Traces
    title="Level"
    unit="dB, A-weighted"
    traces={p.levels}
    from={0}
    to={p.seconds}
    low={p.topLevel - 60}
    high={p.topLevel}
    ticks={p.timeTicks}
    marks={[p.topLevel - 40, p.topLevel - 20]}
    xunit="s"
    {cursor}
  />
  <Traces
    title="Brightness"
    unit="middle of the spectrum, Hz"
    name={(v) => (v >= 10 ? `${2 ** (v - 10)}k` : String(2 ** v))}
    traces={p.bright}
    from={0}
    to={p.seconds}
    low={5}
    high={13}
    ticks={p.timeTicks}
    marks={[6, 8, 10, 12]}
    xunit="s"
    {cursor}
  />
  <Traces
    title="Spectrum and filters"
    unit="dB in auditory bands; dotted: the filters without envelopes"
    traces={p.spectra}
    from={30}
    to={15000}
    log
    low={p.topSpectrum - 70}
    high={p.topSpectrum + 10}
    ticks={[63, 125, 250, 500, 1000, 2000, 4000, 8000]}
    marks={[p.topSpectrum - 60, p.topSpectrum - 30, p.topSpectrum]}
    xunit="Hz"
  />
  <Traces
    title="Wave"
    unit={`${p.waveMs < 10 ? p.waveMs.toFixed(1) : Math.round(p.waveMs)} ms at the loudest place of the source: two periods of its lowest tone`}
    traces={p.waves}
    from={0}
    to={p.waveMs}
    low={-p.topWave}
    high={p.topWave}
    ticks={round(0, p.waveMs, 5)}
    marks={[0]}
    xunit="ms"
    height={104}
  />
</section>

<style>
  .legend {
    margin: 0 0 0.25rem;
  }
  .key {
    display: inline-block;
    width: 1.75rem;
    border-top: 2px solid var(--ink);
    vertical-align: middle;
    margin-right: 0.25rem;
  }
  .key.target {
    border-top: 2px dashed var(--rubric);
    margin-left: 0.75rem;
  }
</style>
