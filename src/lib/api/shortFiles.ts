// Many short files in one request: a line of JSON that tells them, then their bytes one after the other.
import { z } from "zod";
import type { JobView } from "./jobs";

/** So short a file may come with others, bytes. */
export const SHORT_BYTES = 1 << 20;
/** So many bytes, and so many files, come in one request at most. */
export const SHORT_TOGETHER_BYTES = 4 << 20;
export const SHORT_TOGETHER = 16;

export const shortFilesSchema = z
  .array(
    z.object({
      /** Made up by who sends it: the id of its job. Sent once more, a file is still taken once. */
      key: z.uuid(),
      name: z.string().min(1),
      size: z.number().int().min(0).max(SHORT_BYTES),
      /** Folder of the shelf; empty: the top. */
      folder: z.string(),
      /** Whether what can be read of a cut or damaged file will do. */
      partial: z.boolean()
    })
  )
  .min(1)
  .max(SHORT_TOGETHER);
export type ShortFile = z.infer<typeof shortFilesSchema>[number];

/** What became of a file: a job imports it, it was refused with a sentence, or it had been given up. */
export type ShortFileAnswer =
  { readonly job: JobView } | { readonly refused: string } | { readonly givenUp: true };

/** The body of a request. */
export function shortFilesBody(files: readonly ShortFile[], contents: readonly Blob[]): Blob {
  // A body that says nothing of its kind would not be read.
  return new Blob([`${JSON.stringify(files)}\n`, ...contents], { type: "application/octet-stream" });
}
