// Times of an evening, as cues have them.

/** Writes seconds as "12:30", from an hour on as "1:02:30". */
export function clock(seconds: number): string {
  const n = Math.abs(Math.round(seconds));
  const two = (x: number) => String(x).padStart(2, "0");
  const text =
    n >= 3600
      ? `${Math.floor(n / 3600)}:${two(Math.floor(n / 60) % 60)}:${two(n % 60)}`
      : `${Math.floor(n / 60)}:${two(n % 60)}`;
  return seconds < 0 && n > 0 ? `-${text}` : text;
}

/** Reads "12:30" or "1:02:30"; undefined where it is neither. */
export function seconds(text: string): number | undefined {
  const m = /^(?:(\d{1,2}):)?(\d{1,3}):([0-5]\d)$/.exec(text.trim());
  return m
    ? Number(m[1] ?? 0) * 3600 + Number(m[2]) * 60 + Number(m[3])
    : undefined;
}
