// MIDI to and from an instrument by Web MIDI (W3C), or to a stand-in: asked for in words, paced, and only what has been shown is sent.
import { client, got } from "./api";

/** How long a control change is waited after, in ms: old instruments take no more (common practice, no source). */
const pace = 8;
/** How long an instrument takes to load a program, in ms (common practice, no source). */
const loading = 250;
/** What a control says is taken when it has been still for so long, in ms. */
const still = 150;

const lengths = (status: number) =>
  status >= 0xc0 && status < 0xe0 ? 2 : status === 0xf0 ? 0 : 3;

/** Parts bytes into messages: each begins with its status. */
export function messages(bytes: number[]): number[][] {
  const out: number[][] = [];
  for (let i = 0; i < bytes.length;) {
    const status = bytes[i] ?? 0;
    let n = lengths(status);
    if (n === 0) n = bytes.indexOf(0xf7, i) - i + 1;
    if (n < 1) n = bytes.length - i; // a dump that was cut short
    out.push(bytes.slice(i, i + n));
    i += n;
  }
  return out;
}

/** What of earlier messages still counts for the next: which NRPN is chosen, and the last of each control. */
export function remembered(before: number[][], now: number[][]): number[][] {
  const last = new Map<string, number[]>();
  for (const m of [...before, ...now]) {
    const status = m[0] ?? 0;
    if ((status & 0xf0) !== 0xb0) continue;
    const key = `${status} ${m[1]}`;
    last.delete(key);
    last.set(key, m);
  }
  return [...last.values()];
}

const standInPort = "stand-in";
const channelKey = "glossator-channel";
/** Where the number of the stand-in is kept. */
export const unitKey = "glossator-unit";

export class Instrument {
  readonly panel: string;
  outs: { id: string; name: string }[] = $state([]);
  ins: { id: string; name: string }[] = $state([]);
  out = $state("");
  in = $state("");
  channel = $state(Number(localStorage.getItem(channelKey)) || 1);
  /** The number of the stand-in. */
  unit = $state(Number(localStorage.getItem(unitKey)) || 1);
  /** Why no instrument can be reached from here; empty where one can. */
  why = $state("");
  readonly standIn = $derived(this.out === standInPort);
  private access: MIDIAccess | null = null;
  private hears: ((message: number[]) => void) | null = null;
  /** What the stand-in has had. */
  private had: number[] = [];
  private closed = false;

  constructor(panel: string) {
    this.panel = panel;
  }

  /** Asks the browser for the ports; dumps need its leave for system exclusive messages. */
  async open(sysex = false) {
    this.outs = [{ id: standInPort, name: "a stand-in" }];
    this.ins = [];
    const keep = () => {
      if (!this.outs.some((p) => p.id === this.out))
        this.out = this.outs.find((p) => p.id !== standInPort)?.id ?? "";
      if (!this.ins.some((p) => p.id === this.in))
        this.in = this.ins[0]?.id ?? "";
    };
    keep();
    if (!navigator.requestMIDIAccess) {
      this.why =
        "This browser has no MIDI: save the settings as a MIDI file and play it to the instrument.";
      return;
    }
    try {
      this.access = await navigator.requestMIDIAccess({ sysex });
    } catch {
      this.why =
        "MIDI was refused: allow it for this page, or save the settings as a MIDI file.";
      return;
    }
    if (this.closed) return;
    const named = (all: Iterable<MIDIPort> | undefined) =>
      [...(all ?? [])]
        .filter((p) => p.state === "connected")
        .map((p) => ({ id: p.id, name: p.name ?? p.id }));
    const look = () => {
      const real = named(this.access?.outputs.values());
      this.outs = [...real, { id: standInPort, name: "a stand-in" }];
      this.ins = named(this.access?.inputs.values());
      keep();
      this.why = real.length
        ? ""
        : "No instrument is connected by MIDI: plug it in, or save the settings as a MIDI file.";
      this.attach();
    };
    this.access.onstatechange = look;
    look();
  }

  /** Chooses where it goes. */
  choose(port: string) {
    this.out = port;
    this.had = [];
    // an instrument has both under one name, mostly
    const name = this.outs.find((p) => p.id === port)?.name;
    this.in = this.ins.find((p) => p.name === name)?.id ?? this.in;
    this.attach();
  }
  /** Chooses where it comes from. */
  from(port: string) {
    this.in = port;
    this.attach();
  }
  setChannel(n: number) {
    this.channel = n;
    localStorage.setItem(channelKey, String(n));
  }
  setUnit(n: number) {
    this.unit = n;
    this.had = [];
    localStorage.setItem(unitKey, String(n));
  }

  /** Listens to the chosen input. */
  private attach() {
    for (const p of this.access?.inputs.values() ?? [])
      p.onmidimessage =
        this.hears && p.id === this.in && !this.standIn
          ? (e) => this.hears?.([...(e.data ?? [])])
          : null;
  }
  /** Has what the instrument sends, message by message; null ends it. */
  listen(to: ((message: number[]) => void) | null) {
    this.hears = to;
    this.attach();
  }

  /** Sends bytes message by message; false where the port has gone. */
  async send(bytes: number[]): Promise<boolean> {
    if (this.standIn) {
      const answer = await got(
        client.POST("/api/v1/panels/{id}/stand-in", {
          params: { path: { id: this.panel } },
          body: { unit: this.unit, before: this.had, bytes },
        }),
      );
      this.had = [...this.had, ...bytes];
      for (const m of messages(answer.bytes)) this.hears?.(m);
      return true;
    }
    const out = this.access?.outputs.get(this.out);
    if (!out || out.state !== "connected") return false;
    for (const m of messages(bytes)) {
      try {
        out.send(m);
      } catch {
        return false;
      }
      await new Promise((ok) =>
        setTimeout(ok, ((m[0] ?? 0) & 0xf0) === 0xc0 ? loading : pace),
      );
    }
    return true;
  }
  /** What a stand-in has had: where it stands. */
  get sent() {
    return this.had;
  }
  close() {
    this.closed = true;
    this.listen(null);
    if (this.access) this.access.onstatechange = null;
    this.access = null;
  }
}

/** Gathers what an instrument sends until it is still, and gives it on together with what it said before. */
export class Ear {
  private before: number[][] = [];
  private now: number[][] = [];
  private timer = 0;
  private take: (before: number[], now: number[]) => Promise<void>;
  private queue: Promise<void> = Promise.resolve();

  constructor(take: (before: number[], now: number[]) => Promise<void>) {
    this.take = take;
  }
  hears = (message: number[]) => {
    if ((message[0] ?? 0) >= 0xf8) return; // clock and active sensing
    this.now.push(message);
    clearTimeout(this.timer);
    this.timer = window.setTimeout(() => {
      const [before, now] = [this.before, this.now];
      this.before = remembered(before, now);
      this.now = [];
      this.queue = this.queue.then(() => this.take(before.flat(), now.flat()));
    }, still);
  };
  close() {
    clearTimeout(this.timer);
  }
}
