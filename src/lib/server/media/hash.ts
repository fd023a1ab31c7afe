// The hash of a file's content, under which the store keeps it.
import { createHash, type Hash } from "node:crypto";
import { closeSync, openSync, readSync } from "node:fs";

const HASH_BYTES = 4 << 20;
/** FIPS 180-4. Twice as fast as SHA-256 on processors without instructions for that, where hashing holds imports up. */
const CONTENT = "sha512-256";
/** By which earlier versions named their files. */
const EARLIER = "sha256";

/** A hash that content is to be pushed through. */
export function contentHash(): Hash {
  return createHash(CONTENT);
}

/** SHA-512/256 of a file's content, hexadecimal. */
export function hashFile(file: string, tick: (share: number) => void, size: number): string {
  return hashed(file, contentHash(), tick, size);
}

/** Whether a file's content is what its hash says, by the hash of now or of earlier versions. Only what differs is read again. */
export function isContentOf(
  hash: string,
  file: string,
  tick: (share: number) => void,
  size: number
): boolean {
  return (
    hashFile(file, tick, size) === hash || hashed(file, createHash(EARLIER), () => undefined, size) === hash
  );
}

function hashed(file: string, hash: Hash, tick: (share: number) => void, size: number): string {
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
