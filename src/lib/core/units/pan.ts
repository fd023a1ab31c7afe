/** A pan from -1 to 1 as it is written: "L30", "C", "R100". */
export function panText(pan: number): string {
  return pan === 0 ? "C" : `${pan < 0 ? "L" : "R"}${Math.round(Math.abs(pan) * 100)}`;
}

/** The pan of a typed text, "L30", "r100", "C", "0"; undefined when it is none. */
export function parsePan(text: string): number | undefined {
  const match = /^(?:(c|centre|0)|([lr])\s*(\d{1,3}))$/i.exec(text.trim());
  if (!match) return undefined;
  const amount = match[1] ? 0 : Number(match[3]) / 100;
  if (amount > 1) return undefined;
  return match[2]?.toLowerCase() === "l" ? -amount : amount;
}
