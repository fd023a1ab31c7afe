const format = new Intl.DateTimeFormat("en-GB", { dateStyle: "medium", timeStyle: "short" });

/** A point in time, ISO 8601, as its day and minute are read here. Empty when there is none. */
export function day(iso: string): string {
  return iso === "" ? "" : format.format(new Date(iso));
}
