const MOST_FOLDER = 400;

/** A folder of the shelf as a client names it: a name for people, never part of a path. */
export function shelfFolder(text: string | null | undefined): string {
  return (text ?? "")
    .split("/")
    .map((part) => part.trim())
    .filter((part) => part !== "" && part !== "." && part !== "..")
    .join("/")
    .slice(0, MOST_FOLDER);
}
