/** What is wrong with a file, as the second half of a sentence: "it is empty". */
export class FileFault extends Error {}

/** The whole sentence, naming the file. */
export function faultSentence(file: string, fault: string): string {
  return `"${file}" was not imported: ${fault}.`;
}
