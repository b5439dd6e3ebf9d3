// A recording from the microphone or the line input, as a WAVE file of 24 bits.

/** How loud the input is, and whether it stands at full level, while a recording is made. */
export class Recorder {
  /** The highest level of the last moment, in dBFS. */
  level = $state(-120);
  clipped = $state(false);
  running = $state(false);
  seconds = $state(0);
  private stop: (() => void) | null = null;

  /** Records until done is called or the time is over; the names of what can go wrong are those of the browser. */
  async record(longest: number): Promise<ArrayBuffer> {
    if (!navigator.mediaDevices?.getUserMedia)
      throw new Error(
        "This browser gives no page a microphone here: open the desk on this machine, or drop a recording instead.",
      );
    const stream = await navigator.mediaDevices
      .getUserMedia({
        audio: {
          echoCancellation: false,
          noiseSuppression: false,
          autoGainControl: false,
        },
      })
      .catch((e: unknown) => {
        const why: Record<string, string> = {
          NotAllowedError:
            "The microphone was refused: allow it for this page, or drop a recording instead.",
          NotFoundError:
            "There is no microphone and no line input: plug one in, or drop a recording instead.",
        };
        const name = e instanceof DOMException ? e.name : "";
        throw new Error(why[name] ?? `The microphone does not open (${name}).`);
      });
    const context = new AudioContext();
    const parts: Float32Array[][] = [];
    this.level = -120;
    this.clipped = false;
    this.seconds = 0;
    this.running = true;
    try {
      await context.audioWorklet.addModule("/recorder.js");
      const source = context.createMediaStreamSource(stream);
      const tap = new AudioWorkletNode(context, "tap");
      source.connect(tap);
      const gone = new Promise<never>((_, fail) => {
        for (const t of stream.getTracks())
          t.onended = () =>
            fail(new Error("The microphone was unplugged: take it again."));
      });
      const done = new Promise<void>((ok) => {
        this.stop = ok;
        tap.port.onmessage = (e: MessageEvent<Float32Array[]>) => {
          parts.push(e.data);
          let high = 0;
          for (const c of e.data)
            for (const x of c) high = Math.max(high, Math.abs(x));
          this.level = 20 * Math.log10(Math.max(high, 1e-6));
          if (high >= 0.999) this.clipped = true;
          this.seconds += (e.data[0]?.length ?? 0) / context.sampleRate;
          if (this.seconds >= longest) ok();
        };
      });
      await Promise.race([done, gone]);
      return wave(parts, context.sampleRate);
    } finally {
      this.running = false;
      this.stop = null;
      for (const t of stream.getTracks()) {
        t.onended = null;
        t.stop();
      }
      void context.close();
    }
  }
  done = () => this.stop?.();
}

/** Writes samples as a WAVE of 24 bits (RIFF, as the program reads it). */
function wave(parts: Float32Array[][], rate: number): ArrayBuffer {
  const channels = Math.min(2, parts[0]?.length ?? 1);
  const frames = parts.reduce((n, p) => n + (p[0]?.length ?? 0), 0);
  const bytes = frames * channels * 3;
  const out = new DataView(new ArrayBuffer(44 + bytes));
  const text = (at: number, s: string) => {
    for (let i = 0; i < s.length; i++) out.setUint8(at + i, s.charCodeAt(i));
  };
  text(0, "RIFF");
  out.setUint32(4, 36 + bytes, true);
  text(8, "WAVEfmt ");
  out.setUint32(16, 16, true);
  out.setUint16(20, 1, true);
  out.setUint16(22, channels, true);
  out.setUint32(24, rate, true);
  out.setUint32(28, rate * channels * 3, true);
  out.setUint16(32, channels * 3, true);
  out.setUint16(34, 24, true);
  text(36, "data");
  out.setUint32(40, bytes, true);
  let at = 44;
  for (const p of parts)
    for (let i = 0; i < (p[0]?.length ?? 0); i++)
      for (let c = 0; c < channels; c++) {
        const x = Math.max(-1, Math.min(1, p[c]?.[i] ?? 0));
        const v = Math.round(x * 8388607);
        out.setUint8(at++, v & 255);
        out.setUint8(at++, (v >> 8) & 255);
        out.setUint8(at++, (v >> 16) & 255);
      }
  return out.buffer as ArrayBuffer;
}
