// Sending to an instrument by Web MIDI (W3C): asked for in words, paced, and only what has been shown.

/** How long a control change is waited after, in ms: old instruments take no more (common practice, no source). */
const pace = 8;

const lengths = (status: number) =>
  status >= 0xc0 && status < 0xe0 ? 2 : status === 0xf0 ? 0 : 3;

/** Parts bytes into messages: each begins with its status. */
export function messages(bytes: number[]): number[][] {
  const out: number[][] = [];
  for (let i = 0; i < bytes.length;) {
    const status = bytes[i] ?? 0;
    let n = lengths(status);
    if (n === 0) n = bytes.indexOf(0xf7, i) - i + 1;
    out.push(bytes.slice(i, i + n));
    i += Math.max(1, n);
  }
  return out;
}

export class Output {
  ports: { id: string; name: string }[] = $state([]);
  port = $state("");
  /** Why nothing can be sent from here; empty where it can. */
  why = $state("");
  private access: MIDIAccess | null = null;

  /** Asks the browser for the ports; dumps need its leave for system exclusive messages. */
  async open(sysex = false) {
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
    const look = () => {
      this.ports = [...(this.access?.outputs.values() ?? [])]
        .filter((p) => p.state === "connected")
        .map((p) => ({ id: p.id, name: p.name ?? p.id }));
      if (!this.ports.some((p) => p.id === this.port))
        this.port = this.ports[0]?.id ?? "";
      this.why = this.ports.length
        ? ""
        : "No instrument is connected by MIDI: plug it in, or save the settings as a MIDI file.";
    };
    this.access.onstatechange = look;
    look();
  }

  /** Sends bytes message by message; false where the port has gone. */
  async send(bytes: number[]): Promise<boolean> {
    const out = this.access?.outputs.get(this.port);
    if (!out || out.state !== "connected") return false;
    for (const m of messages(bytes)) {
      try {
        out.send(m);
      } catch {
        return false;
      }
      await new Promise((ok) => setTimeout(ok, pace));
    }
    return true;
  }
  close() {
    if (this.access) this.access.onstatechange = null;
    this.access = null;
  }
}
