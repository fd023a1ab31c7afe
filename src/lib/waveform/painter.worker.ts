// Paints tiles of waveforms off the page's thread: tiles made there cost it a millisecond each.
import { paintStrip, type StripWish } from "./strip";
import { paintTile } from "./paintTile";
import { Pieces } from "./pieces";
import type { FromPainter, ToPainter } from "./protocol";
import { TILE_WIDTH, type TileWish } from "./tile";

let pieces: Pieces | undefined;
let wishes: readonly TileWish[] = [];
let strip: { readonly id: number; readonly wish: StripWish } | undefined;
let working = false;
let again = false;

function say(message: FromPainter<ImageBitmap>, transfer: Transferable[] = []): void {
  postMessage(message, { transfer });
}

async function fetchBytes(path: string): Promise<ArrayBuffer> {
  const answer = await fetch(path);
  if (!answer.ok) throw new Error(`The waveform was answered with ${answer.status}.`);
  return await answer.arrayBuffer();
}

async function paint(wish: TileWish, from: Pieces): Promise<void> {
  const image = new ImageData(TILE_WIDTH, wish.height);
  const outlook = paintTile(wish, from, new Uint32Array(image.data.buffer));
  if (outlook === "coming") return;
  // A newer list may have come meanwhile, without it.
  wishes = wishes.filter((other) => other.key !== wish.key);
  if (outlook === "failed") {
    say({ type: "failed", key: wish.key });
    return;
  }
  const bitmap = await createImageBitmap(image);
  say({ type: "tile", key: wish.key, bitmap, bytes: image.data.byteLength }, [bitmap]);
}

function paintWholeStrip(from: Pieces): void {
  if (!strip) return;
  const peaks = new Float32Array(strip.wish.width);
  const outlook = paintStrip(strip.wish, from, peaks);
  say({ type: "strip", id: strip.id, peaks }, [peaks.buffer]);
  if (outlook !== "coming") strip = undefined;
}

/** Goes through the wishes, the newest list from its beginning; what waits for its sound is looked at again when that comes. */
async function work(from: Pieces): Promise<void> {
  if (working) {
    again = true;
    return;
  }
  working = true;
  try {
    do {
      again = false;
      const list = wishes;
      for (const wish of list) {
        await paint(wish, from);
        if (again) break;
      }
      if (!again) paintWholeStrip(from);
    } while (again);
  } finally {
    working = false;
  }
}

onmessage = ({ data }: MessageEvent<ToPainter>) => {
  if (data.type === "open") {
    pieces = new Pieces(data.sampleRate, fetchBytes, () => start());
    return;
  }
  if (data.type === "tiles") wishes = data.wishes;
  else strip = { id: data.id, wish: data.wish };
  start();
};

function start(): void {
  if (!pieces) return;
  work(pieces).catch((error: unknown) => {
    // To the page, which says what went wrong.
    setTimeout(() => {
      throw error;
    });
  });
}
