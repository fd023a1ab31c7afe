/** What is wrong with a file, as the second half of a sentence: "it is empty". */
export class FileFault extends Error {}

/** A file that is no WAV file, or one in a coding that is not read here: another program may read it. */
export class OtherFormat extends FileFault {}

/** The whole sentence, naming the file. */
export function faultSentence(file: string, fault: string): string {
  return `"${file}" was not imported: ${fault}.`;
}
