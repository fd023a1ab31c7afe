import { createHash } from "node:crypto";
import { closeSync, openSync, readSync } from "node:fs";

const HASH_BYTES = 4 << 20;

/** SHA-256 of a file's content, hexadecimal. */
export function hashFile(file: string, tick: (share: number) => void, size: number): string {
  const hash = createHash("sha256");
  const bytes = Buffer.allocUnsafe(HASH_BYTES);
  const fd = openSync(file, "r");
  try {
    for (let at = 0; ;) {
      const n = readSync(fd, bytes, 0, HASH_BYTES, at);
      if (n === 0) break;
      hash.update(bytes.subarray(0, n));
      at += n;
      tick(Math.min(1, at / Math.max(1, size)));
    }
  } finally {
    closeSync(fd);
  }
  return hash.digest("hex");
}
