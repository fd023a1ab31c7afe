// Markers and regions of WAV files: the chunks `cue ` and `LIST`/`adtl` of Microsoft/IBM RIFF (1991), texts in UTF-8.
import { letters, viewOf, writeChunks, type Chunk } from "./wavChunks";

/** A place in a file, in its frames; a region when it has a length. */
export interface Marker {
  readonly start: number;
  readonly length: number;
  readonly name: string;
}

const POINT_BYTES = 24;
const LENGTH_BYTES = 20;

function text(bytes: Uint8Array): string {
  const end = bytes.indexOf(0);
  return new TextDecoder().decode(end < 0 ? bytes : bytes.subarray(0, end)).trim();
}

/** Chunks within a list. */
function* inner(bytes: Uint8Array): Generator<Chunk> {
  for (let at = 4; at + 8 <= bytes.length;) {
    const length = viewOf(bytes).getUint32(at + 4, true);
    yield { id: letters(bytes, at), body: bytes.subarray(at + 8, at + 8 + length) };
    at += 8 + length + (length % 2);
  }
}

/**
 * Markers of a file by where they begin.
 * @param cue content of the chunk `cue `
 * @param lists contents of its `LIST` chunks: names and lengths are in the one of the type `adtl`
 */
export function readMarkers(cue: Uint8Array, lists: readonly Uint8Array[]): Marker[] {
  const names = new Map<number, string>();
  const lengths = new Map<number, number>();
  for (const list of lists) {
    if (list.length < 4 || letters(list, 0) !== "adtl") continue;
    for (const { id, body } of inner(list)) {
      if (body.length < 4) continue;
      const view = viewOf(body);
      const point = view.getUint32(0, true);
      if (id === "labl") names.set(point, text(body.subarray(4)));
      if (id === "ltxt" && body.length >= 8) lengths.set(point, view.getUint32(4, true));
    }
  }
  const view = viewOf(cue);
  const count =
    cue.length < 4 ? 0 : Math.min(view.getUint32(0, true), Math.floor((cue.length - 4) / POINT_BYTES));
  return Array.from({ length: count }, (_, i) => {
    const at = 4 + i * POINT_BYTES;
    const id = view.getUint32(at, true);
    const name = names.get(id) ?? "";
    return {
      start: view.getUint32(at + 20, true),
      length: lengths.get(id) ?? 0,
      name: name || `Marker ${i + 1}`
    };
  }).sort((a, b) => a.start - b.start);
}

function numbers(bytes: number, fill: (view: DataView) => void): Uint8Array {
  const body = new Uint8Array(bytes);
  fill(viewOf(body));
  return body;
}

function put(view: DataView, at: number, fourLetters: string): void {
  for (let i = 0; i < 4; i++) view.setUint8(at + i, fourLetters.charCodeAt(i));
}

/** Chunks of markers; none when there are no markers. Positions beyond 2^32 frames cannot be told in this form and are left out. */
export function markerChunks(markers: readonly Marker[]): Chunk[] {
  const told = markers.filter((m) => m.start < 2 ** 32);
  if (told.length === 0) return [];
  const cue = numbers(4 + told.length * POINT_BYTES, (view) => {
    view.setUint32(0, told.length, true);
    told.forEach((marker, i) => {
      const at = 4 + i * POINT_BYTES;
      view.setUint32(at, i + 1, true);
      view.setUint32(at + 4, marker.start, true);
      put(view, at + 8, "data");
      view.setUint32(at + 20, marker.start, true);
    });
  });
  const labels = told.map(({ name }, i) => {
    const bytes = new TextEncoder().encode(name);
    const body = new Uint8Array(4 + bytes.length + 1);
    viewOf(body).setUint32(0, i + 1, true);
    body.set(bytes, 4);
    return { id: "labl", body };
  });
  // All names first, then all lengths, without text of their own: readers lose names that come after others.
  const lengths = told.flatMap(({ length }, i) =>
    length === 0
      ? []
      : [
          {
            id: "ltxt",
            body: numbers(LENGTH_BYTES, (view) => {
              view.setUint32(0, i + 1, true);
              view.setUint32(4, Math.min(length, 2 ** 32 - 1), true);
              put(view, 8, "rgn ");
            })
          }
        ]
  );
  const list = writeChunks([...labels, ...lengths]);
  const body = new Uint8Array(4 + list.length);
  put(viewOf(body), 0, "adtl");
  body.set(list, 4);
  return [
    { id: "cue ", body: cue },
    { id: "LIST", body }
  ];
}
