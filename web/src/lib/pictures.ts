// What the pictures of two sounds show: curves over each other, at equal loudness.
import type { Side } from "./player.svelte";
import type { Take } from "./types";

export type Trace = {
  kind: Side | `${Side} filter`;
  label: string;
  points: [number, number][];
};

const dB = (gain: number) => 20 * Math.log10(gain);
const upTo = (least: number, all: number[]) =>
  Math.ceil(Math.max(least, ...all) / 10) * 10;

export class Pictures {
  readonly seconds: number;
  readonly levels: Trace[];
  readonly topLevel: number;
  readonly bright: Trace[];
  readonly spectra: Trace[];
  readonly topSpectrum: number;
  readonly waves: Trace[];
  readonly topWave: number;
  /** How long the picture of the wave is, in milliseconds. */
  readonly waveMs: number;
  readonly timeTicks: number[];

  constructor(
    source: Take,
    target: Take,
    gains: Record<Side, number>,
    bands: number[],
  ) {
    const both: [Side, Take, number][] = [
      ["source", source, gains.source],
      ["target", target, gains.target],
    ];
    const trace = (
      of: (t: Take, gain: number) => [number, number][],
    ): Trace[] =>
      both.map(([kind, t, g]) => ({ kind, label: t.label, points: of(t, g) }));

    this.seconds = Math.max(0.1, source.seconds, target.seconds);
    this.levels = trace((t, g) =>
      t.level.map((v, i) => [i * t.hop, v + dB(g)]),
    );
    this.topLevel = upTo(
      -60,
      this.levels.flatMap((t) => t.points.map((p) => p[1])),
    );
    this.bright = trace((t) =>
      t.brightness.map((v, i) => [i * t.hop, v > 0 ? Math.log2(v) : NaN]),
    );
    const spectra = trace((t, g) =>
      t.spectrum.map((v, i) => [bands[i] ?? 1, v + dB(g)]),
    );
    const top = upTo(
      -60,
      spectra.flatMap((t) => t.points.map((p) => p[1])),
    );
    this.topSpectrum = top;
    this.spectra = [
      ...spectra,
      ...both
        .filter(([, t]) => t.filter.length > 0)
        .map(([kind, t]): Trace => ({
          kind: `${kind} filter`,
          label: `filter of ${t.label}`,
          points: t.filter.map((v, i) => [bands[i] ?? 1, top + v]),
        })),
    ];
    this.waves = trace((t, g) =>
      t.wave.map((v, i) => [
        (i * 1000 * t.waveSeconds) / Math.max(1, t.wave.length),
        v * g,
      ]),
    );
    this.waveMs = 1000 * source.waveSeconds;
    this.topWave =
      Math.max(
        0.02,
        ...this.waves.flatMap((t) => t.points.map((p) => Math.abs(p[1]))),
      ) * 1.1;
    const step =
      [0.1, 0.2, 0.5, 1, 2, 5, 10, 20].find((s) => this.seconds / s <= 9) ?? 30;
    this.timeTicks = Array.from(
      { length: Math.floor(this.seconds / step) + 1 },
      (_, i) => Math.round(i * step * 100) / 100,
    );
  }
}
