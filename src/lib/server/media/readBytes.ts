import { readSync } from "node:fs";
import type { ReadBytes } from "$lib/core/formats/wavChunks";

/** Reads an open file at any place. */
export function readerOf(fd: number): ReadBytes {
  return (position, length) => {
    const bytes = new Uint8Array(length);
    return bytes.subarray(0, readSync(fd, bytes, 0, length, position));
  };
}
