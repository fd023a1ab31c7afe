// The chunks of a WAV file, in order: Microsoft/IBM RIFF (1991), EBU Tech 3306 (RF64), ITU-R BS.2088 (BW64).
import { FileFault, OtherFormat } from "./fault";

/** Reads `length` bytes of the file at `position`; fewer at its end. */
export type ReadBytes = (position: number, length: number) => Uint8Array;

/** Where a chunk lies in the file. */
export interface ChunkPlace {
  readonly id: string;
  /** Where its content begins. */
  readonly at: number;
  /** Bytes of content that its header promises; undefined for samples of which the header does not tell. */
  readonly length: number | undefined;
}

/** A chunk with its content, to be written. */
export interface Chunk {
  readonly id: string;
  readonly body: Uint8Array;
}

const UNKNOWN_SIZE = 0xffffffff;
const MAX_CHUNKS = 10000;

/** Four letters at a place. */
export function letters(bytes: Uint8Array, at: number): string {
  return String.fromCharCode(...bytes.subarray(at, at + 4));
}

export function viewOf(bytes: Uint8Array): DataView {
  return new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
}

/**
 * The chunks of a file of `size` bytes, as far as it goes.
 * @throws OtherFormat when it is no WAV file
 */
export function* chunksOf(read: ReadBytes, size: number): Generator<ChunkPlace> {
  if (size === 0) throw new FileFault("it is empty");
  const head = read(0, 12);
  const outer = head.length === 12 ? letters(head, 0) : "";
  if (!["RIFF", "RF64", "BW64"].includes(outer) || letters(head, 8) !== "WAVE")
    throw new OtherFormat("it is not a WAV audio file");
  let longData: number | undefined;
  let at = 12;
  for (let n = 0; at + 8 <= size && n < MAX_CHUNKS; n++) {
    const header = read(at, 8);
    const id = letters(header, 0);
    const body = at + 8;
    const said = viewOf(header).getUint32(4, true);
    if (id === "ds64") {
      const sizes = read(body, 16);
      if (sizes.length === 16) longData = Number(viewOf(sizes).getBigUint64(8, true));
    }
    const open = id === "data" && (said === 0 || said === UNKNOWN_SIZE);
    const length =
      id === "data" && outer !== "RIFF" && said === UNKNOWN_SIZE ? longData : open ? undefined : said;
    yield { id, at: body, length };
    // Samples whose length nothing tells reach to the end.
    if (length === undefined) return;
    at = body + length + (length % 2);
  }
}

/** Bytes that a chunk takes in a file: name, size, content, and a byte that makes it even. */
export function chunkBytes({ body }: Chunk): number {
  return 8 + body.length + (body.length % 2);
}

/** Chunks as they stand in a file. */
export function writeChunks(chunks: readonly Chunk[]): Uint8Array {
  const bytes = new Uint8Array(chunks.reduce((sum, chunk) => sum + chunkBytes(chunk), 0));
  let at = 0;
  for (const chunk of chunks) {
    for (let i = 0; i < 4; i++) bytes[at + i] = chunk.id.charCodeAt(i);
    viewOf(bytes).setUint32(at + 4, chunk.body.length, true);
    bytes.set(chunk.body, at + 8);
    at += chunkBytes(chunk);
  }
  return bytes;
}
