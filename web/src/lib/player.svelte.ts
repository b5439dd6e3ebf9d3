// Plays two sounds side by side: both run from one start, one of them is heard. Switching
// keeps the place.
import * as sounds from "./calls/sounds";

export type Side = "source" | "target";
export const sides: Side[] = ["source", "target"];

/** How far a fade of the switch takes, in seconds: too short to hear, long enough not to click. */
const fade = 0.012;

/** A recording that plays along. */
export type Backing = {
  name: string;
  seconds: number;
  /** Where in it the phrase begins, in seconds; below 0 it comes in later. */
  offset: number;
  /** In dB. */
  level: number;
  on: boolean;
};

export class Player {
  playing = $state(false);
  side: Side = $state("source");
  loop = $state(true);
  /** Where the phrase is, in seconds. */
  at = $state(0);
  /** The level that is heard now, in dBFS. */
  level = $state(-90);
  volume = $state(0.3);
  loading = $state(false);
  private ctx: AudioContext | null = null;
  private master: GainNode | null = null;
  private analyser: AnalyserNode | null = null;
  private running: {
    node: AudioBufferSourceNode;
    gain: GainNode;
    side: Side;
  }[] = [];
  private buffers: Partial<Record<Side, AudioBuffer>> = {};
  private gains: Record<Side, number> = { source: 1, target: 1 };
  private began = 0;
  private length = 0;
  private frame = 0;
  private ticket = 0;

  /** What plays along: another recording, in which source and target are compared as they will be heard. */
  backing: Backing | null = $state.raw(null);
  private whole: AudioBuffer | null = null;
  private along: { node: AudioBufferSourceNode; gain: GainNode } | null = null;

  private context(): AudioContext {
    if (!this.ctx) {
      this.ctx = new AudioContext({ sampleRate: 48000 });
      this.master = this.ctx.createGain();
      this.master.gain.value = this.volume;
      this.analyser = this.ctx.createAnalyser();
      this.analyser.fftSize = 2048;
      this.master.connect(this.analyser);
      this.analyser.connect(this.ctx.destination);
    }
    void this.ctx.resume();
    return this.ctx;
  }

  /** Takes a recording that plays along, quiet at first; null takes it away. What cannot be decoded fails. */
  async setBacking(file: File | null) {
    if (!file) {
      [this.backing, this.whole] = [null, null];
      this.playAlong(this.place());
      return;
    }
    const ctx = this.context();
    const buffer = await ctx.decodeAudioData(await file.arrayBuffer());
    this.whole = buffer;
    if (this.analyser && !this.limited) {
      // both together must not pass full level
      this.limited = true;
      const limiter = ctx.createDynamicsCompressor();
      limiter.threshold.value = -3;
      limiter.knee.value = 0;
      limiter.ratio.value = 20;
      limiter.attack.value = 0.002;
      limiter.release.value = 0.1;
      this.analyser.disconnect();
      this.analyser.connect(limiter);
      limiter.connect(ctx.destination);
    }
    this.backing = {
      name: file.name,
      seconds: buffer.duration,
      offset: 0,
      level: -12,
      on: true,
    };
    this.playAlong(this.place());
  }
  private limited = false;

  /** Moves the recording that plays along, or makes it louder or softer. */
  changeBacking(by: Partial<Backing>) {
    if (!this.backing) return;
    this.backing = { ...this.backing, ...by };
    if (by.level !== undefined && by.offset === undefined && this.along) {
      this.along.gain.gain.setTargetAtTime(
        this.backingGain(),
        this.context().currentTime,
        0.02,
      );
      return;
    }
    this.playAlong(this.place());
  }

  private backingGain = () =>
    this.backing?.on ? Math.pow(10, this.backing.level / 20) : 0;

  /** Lets the recording play along from a place of the phrase: as long as the phrase is, and round with it. */
  private playAlong(from: number) {
    const old = this.along;
    this.along = null;
    const ctx = this.ctx;
    if (!ctx) return;
    const now = ctx.currentTime + 0.02;
    if (old) {
      old.gain.gain.setTargetAtTime(0, now, fade / 3);
      old.node.stop(now + 2 * fade);
    }
    const b = this.backing;
    if (!b?.on || !this.whole || !this.playing || !this.master) return;
    const rate = this.whole.sampleRate;
    const n = Math.max(1, Math.round(this.length * rate));
    const part = ctx.createBuffer(this.whole.numberOfChannels, n, rate);
    const at = Math.round(b.offset * rate);
    for (let c = 0; c < part.numberOfChannels; c++) {
      const stretch = this.whole
        .getChannelData(c)
        .subarray(Math.max(0, at), Math.max(0, at + n));
      part.copyToChannel(stretch, c, Math.min(n, Math.max(0, -at)));
    }
    const node = ctx.createBufferSource();
    node.buffer = part;
    node.loop = this.loop;
    const gain = ctx.createGain();
    gain.gain.setValueAtTime(0, now);
    gain.gain.linearRampToValueAtTime(this.backingGain(), now + fade);
    node.connect(gain);
    gain.connect(this.master);
    node.start(now, Math.min(from, this.length - 0.001));
    this.along = { node, gain };
  }

  setVolume(v: number) {
    this.volume = v;
    if (this.ctx)
      this.master?.gain.setTargetAtTime(v, this.ctx.currentTime, 0.02);
  }

  /** Loads the sounds of both sides; gains make them equally loud. While playing, what is heard goes
      over to them at the same place. */
  async load(
    keys: Partial<Record<Side, string>>,
    gains: Record<Side, number>,
    loop: boolean,
  ) {
    const ctx = this.context();
    const mine = ++this.ticket;
    this.loading = true;
    try {
      const got: Partial<Record<Side, AudioBuffer>> = {};
      await Promise.all(
        sides.map(async (s) => {
          const key = keys[s];
          if (!key) return;
          got[s] = await ctx.decodeAudioData(await sounds.wave(key, loop));
        }),
      );
      if (mine !== this.ticket) return;
      this.buffers = got;
      this.gains = gains;
      this.loop = loop;
      this.length = Math.max(...sides.map((s) => got[s]?.duration ?? 0), 0.001);
      if (this.playing) this.restart(this.place());
    } finally {
      if (mine === this.ticket) this.loading = false;
    }
  }

  /** Loads one sound from its file, as load does. */
  async loadFile(bytes: ArrayBuffer, loop: boolean) {
    const ctx = this.context();
    const mine = ++this.ticket;
    const buffer = await ctx.decodeAudioData(bytes);
    if (mine !== this.ticket) return;
    this.side = "source";
    this.buffers = { source: buffer };
    this.gains = { source: 1, target: 1 };
    this.loop = loop;
    this.length = Math.max(buffer.duration, 0.001);
    if (this.playing) this.restart(this.place());
  }

  /** Lets a stretch of the sound be heard, which begins at a place, in the place of what plays, until the whole is there. */
  async bridge(bytes: ArrayBuffer, from: number) {
    const ctx = this.context();
    const buffer = await ctx.decodeAudioData(bytes);
    if (!this.playing || !this.master) return;
    const now = ctx.currentTime + 0.02;
    let into = this.place() + 0.02 - from;
    if (into < -this.length / 2) into += this.length;
    if (into < 0 || into > buffer.duration - 0.1) return;
    const node = ctx.createBufferSource();
    node.buffer = buffer;
    const gain = ctx.createGain();
    gain.gain.setValueAtTime(0, now);
    gain.gain.linearRampToValueAtTime(1, now + fade);
    node.connect(gain);
    gain.connect(this.master);
    node.start(now, into);
    for (const o of this.running) {
      o.gain.gain.cancelScheduledValues(now);
      o.gain.gain.setValueAtTime(o.gain.gain.value, now);
      o.gain.gain.linearRampToValueAtTime(0, now + fade);
      o.node.stop(now + 2 * fade);
    }
    this.running = [{ node, gain, side: this.side }];
    this.bridged = performance.now();
  }
  /** When a stretch was last put in the place of what played. */
  bridged = $state(0);

  place(): number {
    if (!this.ctx || !this.playing) return 0;
    const t = Math.max(0, this.ctx.currentTime - this.began);
    return this.loop ? t % this.length : Math.min(t, this.length);
  }

  private restart(from: number) {
    const ctx = this.context();
    const old = this.running;
    const now = ctx.currentTime + 0.02;
    this.running = [];
    for (const s of sides) {
      const buffer = this.buffers[s];
      if (!buffer || !this.master) continue;
      const node = ctx.createBufferSource();
      node.buffer = buffer;
      node.loop = this.loop;
      const gain = ctx.createGain();
      gain.gain.setValueAtTime(0, now);
      gain.gain.linearRampToValueAtTime(
        s === this.side ? this.gains[s] : 0,
        now + fade,
      );
      node.connect(gain);
      gain.connect(this.master);
      node.start(now, Math.min(from, buffer.duration - 0.001));
      this.running.push({ node, gain, side: s });
    }
    for (const o of old) {
      o.gain.gain.cancelScheduledValues(now);
      o.gain.gain.setValueAtTime(o.gain.gain.value, now);
      o.gain.gain.linearRampToValueAtTime(0, now + fade);
      o.node.stop(now + 2 * fade);
    }
    this.began = now - from;
    this.playing = true;
    this.playAlong(from);
    cancelAnimationFrame(this.frame);
    this.watch();
  }

  start() {
    if (sides.some((s) => this.buffers[s])) this.restart(0);
  }

  stop() {
    if (this.ctx)
      for (const o of this.running) {
        const now = this.ctx.currentTime;
        o.gain.gain.cancelScheduledValues(now);
        o.gain.gain.setTargetAtTime(0, now, fade / 3);
        o.node.stop(now + 2 * fade);
      }
    this.running = [];
    this.playing = false;
    this.playAlong(0);
    this.at = 0;
    this.level = -90;
    cancelAnimationFrame(this.frame);
  }

  toggle() {
    if (this.playing) this.stop();
    else this.start();
  }

  /** Lets the other side be heard, at the same place. */
  turn(to: Side) {
    this.side = to;
    if (!this.ctx) return;
    const now = this.ctx.currentTime;
    for (const o of this.running) {
      o.gain.gain.cancelScheduledValues(now);
      o.gain.gain.setValueAtTime(o.gain.gain.value, now);
      o.gain.gain.linearRampToValueAtTime(
        o.side === to ? this.gains[o.side] : 0,
        now + fade,
      );
    }
  }

  /** Plays a file at once, over what is there. */
  async strike(bytes: ArrayBuffer, gain: number) {
    const ctx = this.context();
    const buffer = await ctx.decodeAudioData(bytes);
    if (!this.master) return;
    const node = ctx.createBufferSource();
    node.buffer = buffer;
    const g = ctx.createGain();
    g.gain.value = gain;
    node.connect(g);
    g.connect(this.master);
    node.start();
    this.until = performance.now() + 1000 * (buffer.duration + 0.2);
    this.watch();
  }

  /** Until when single notes are watched. */
  private until = 0;
  private samples = new Float32Array(2048);
  private watch() {
    const look = () => {
      if (!this.ctx || !this.analyser) return;
      this.analyser.getFloatTimeDomainData(this.samples);
      let peak = 0;
      for (const x of this.samples) peak = Math.max(peak, Math.abs(x));
      this.level = peak > 1e-5 ? 20 * Math.log10(peak) : -90;
      if (this.playing) {
        this.at = this.place();
        if (!this.loop && this.at >= this.length) {
          this.stop();
          return;
        }
      } else if (performance.now() > this.until) {
        this.level = -90;
        return;
      }
      this.frame = requestAnimationFrame(look);
    };
    cancelAnimationFrame(this.frame);
    this.frame = requestAnimationFrame(look);
  }

  close() {
    this.stop();
    void this.ctx?.close();
    this.ctx = null;
  }
}

/** The gains that make two sounds equally loud: the louder one is turned down. */
export function equal(
  a: { loudness: number } | undefined | null,
  b: { loudness: number } | undefined | null,
): Record<Side, number> {
  if (!a || !b || a.loudness <= -89 || b.loudness <= -89)
    return { source: 1, target: 1 };
  const d = a.loudness - b.loudness;
  return {
    source: d > 0 ? Math.pow(10, -d / 20) : 1,
    target: d < 0 ? Math.pow(10, d / 20) : 1,
  };
}
