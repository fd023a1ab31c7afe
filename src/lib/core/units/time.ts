/** "1:02:03.456", "0:12.480": minutes always, hours when needed, `decimals` digits of a second. */
export function formatTime(seconds: number, decimals = 3): string {
  const scale = 10 ** decimals;
  const total = Math.round(Math.abs(seconds) * scale);
  const whole = Math.floor(total / scale);
  const fraction = decimals > 0 ? "." + String(total % scale).padStart(decimals, "0") : "";
  const s = String(whole % 60).padStart(2, "0");
  const m = Math.floor(whole / 60) % 60;
  const h = Math.floor(whole / 3600);
  const sign = seconds < 0 && total > 0 ? "-" : "";
  return h > 0 ? `${sign}${h}:${String(m).padStart(2, "0")}:${s}${fraction}` : `${sign}${m}:${s}${fraction}`;
}

/** Seconds of a typed time: "12.5", "1:02.5", "1:00:00", "250 ms", "3 s". Undefined when it is none of these. */
export function parseTime(text: string): number | undefined {
  const clean = text.trim().toLowerCase().replace(",", ".");
  const unit = /^(-?\d+(?:\.\d*)?|-?\.\d+)\s*(ms|s|min|h)?$/.exec(clean);
  if (unit) {
    const factor = { ms: 0.001, s: 1, min: 60, h: 3600 }[unit[2] ?? "s"] ?? 1;
    return Number(unit[1]) * factor;
  }
  const clock = /^(?:(\d+):)?(\d{1,3}):(\d{1,2}(?:\.\d*)?)$/.exec(clean);
  if (!clock) return undefined;
  return Number(clock[1] ?? 0) * 3600 + Number(clock[2]) * 60 + Number(clock[3]);
}
