// The tiles that the page has, kept by when they were last used, and the wishes for those that it has not.
import type { FromPainter, ToPainter } from "./protocol";
import type { StripWish } from "./strip";
import { lookKey, tileKey, type TileWish, type WaveLook } from "./tile";

/** A bitmap that holds memory until it is closed. */
export interface Closable {
  close(): void;
}

/** The painter as the page sees it: a worker. */
export interface Painter {
  postMessage(message: ToPainter): void;
  terminate(): void;
}

interface Tile<Bitmap> {
  readonly bitmap: Bitmap;
  readonly bytes: number;
  readonly look: string;
  readonly recordingId: string;
  readonly framesPerPixel: number;
}

/** A look and a zoom of which there are tiles. */
export interface StandIn {
  readonly look: string;
  readonly framesPerPixel: number;
}

/** A stretch of the timeline in frames, [from, to): where a tile is missing. */
export interface Stretch {
  readonly from: number;
  readonly to: number;
}

/** Waits for tiles that may be looked at next: they come after those that are. */
export const AHEAD = "ahead";

const LEAST_BYTES = 64e6;
/** Screens of tiles that are kept at least. */
const SCREENS = 3;
const AGAIN_MS = 5000;

export class Tiles<Bitmap extends Closable> {
  readonly #tiles = new Map<string, Tile<Bitmap>>();
  /** Of each recording: its looks, and the zooms of which they have tiles, with how many. */
  readonly #looks = new Map<string, Map<string, Map<number, number>>>();
  #wishes = new Map<string, TileWish>();
  /** Who waits for a tile, and where it is missing there. */
  #waiting = new Map<string, Map<string, Stretch>>();
  #sent = "";
  readonly #failed = new Map<string, number>();
  #bytes = 0;
  #strips = 0;
  #onstrip: ((peaks: Float32Array) => void) | undefined;

  /** Told who waited for a tile that has come, and where: this is to be drawn anew. */
  onarrival: (lanes: ReadonlyMap<string, Stretch>) => void = () => undefined;

  constructor(
    private readonly painter: Painter,
    sampleRate: number,
    private readonly leastBytes = LEAST_BYTES
  ) {
    painter.postMessage({ type: "open", sampleRate });
  }

  /** Bytes of the bitmaps that are kept. */
  get bytes(): number {
    return this.#bytes;
  }

  get count(): number {
    return this.#tiles.size;
  }

  /** A tile that is there. It counts as used. */
  find(look: string, framesPerPixel: number, index: number): Bitmap | undefined {
    const key = tileKey(look, framesPerPixel, index);
    const found = this.#tiles.get(key);
    if (!found) return undefined;
    this.#tiles.delete(key);
    this.#tiles.set(key, found);
    return found.bitmap;
  }

  /** Asks for a tile that is missing in a stretch of a lane; whoever waits for it is told when it comes. */
  wish(look: WaveLook, framesPerPixel: number, index: number, lane: string, { from, to }: Stretch): void {
    const key = tileKey(lookKey(look), framesPerPixel, index);
    if ((this.#failed.get(key) ?? 0) > performance.now()) return;
    if (!this.#wishes.has(key)) this.#wishes.set(key, { ...look, key, framesPerPixel, index });
    const waiting = this.#waiting.get(key) ?? new Map<string, Stretch>();
    this.#waiting.set(key, waiting);
    const other = waiting.get(lane);
    waiting.set(
      lane,
      other ? { from: Math.min(from, other.from), to: Math.max(to, other.to) } : { from, to }
    );
  }

  /**
   * What can stand in for a tile that is missing: looks of the recording with the zooms at which they have tiles, the nearest first, of its own
   * look before others.
   */
  standIns(look: WaveLook, framesPerPixel: number, most = 3): StandIn[] {
    const own = lookKey(look);
    const best: (StandIn & { readonly far: number })[] = [];
    for (const [of, zooms] of this.#looks.get(look.recordingId) ?? [])
      for (const zoom of zooms.keys()) {
        const far = (of === own ? 0 : 100) + Math.abs(Math.log2(zoom / framesPerPixel));
        const at = best.findIndex((other) => far < other.far);
        if (at < 0 && best.length >= most) continue;
        best.splice(at < 0 ? best.length : at, 0, { look: of, framesPerPixel: zoom, far });
        if (best.length > most) best.pop();
      }
    return best.map(({ look: of, framesPerPixel: zoom }) => ({ look: of, framesPerPixel: zoom }));
  }

  /** Drops what a lane waits for: all, for it is about to be drawn anew, or what lies outside of a stretch that is still looked at. */
  forget(lane: string, kept?: Stretch): void {
    for (const [key, waiting] of this.#waiting) {
      const missing = waiting.get(lane);
      if (!missing || (kept && missing.to > kept.from && missing.from < kept.to)) continue;
      waiting.delete(lane);
      if (waiting.size > 0) continue;
      this.#waiting.delete(key);
      this.#wishes.delete(key);
    }
  }

  /**
   * Sends the wishes, when they are others than before, and lets go of what was not used for longest.
   * @param screenBytes bytes of the tiles that one screen takes
   */
  settle(screenBytes: number): void {
    const most = Math.max(this.leastBytes, SCREENS * screenBytes);
    for (const [key, tile] of this.#tiles) {
      if (this.#bytes <= most) break;
      this.#remove(key, tile);
    }
    const keys = [...this.#wishes.keys()].join("\n");
    if (keys === this.#sent) return;
    this.#sent = keys;
    const later = ({ key }: TileWish) => {
      const waiting = this.#waiting.get(key);
      return waiting?.size === 1 && waiting.has(AHEAD);
    };
    const all = [...this.#wishes.values()];
    const wishes = [...all.filter((wish) => !later(wish)), ...all.filter(later)];
    this.painter.postMessage({ type: "tiles", wishes });
  }

  /** Asks for the programme's strip; the newest wish counts. It may come several times, each more complete. */
  strip(wish: StripWish, then: (peaks: Float32Array) => void): void {
    this.#onstrip = then;
    this.painter.postMessage({ type: "strip", id: ++this.#strips, wish });
  }

  /** Takes what the painter says. */
  hear(message: FromPainter<Bitmap>): void {
    if (message.type === "strip") {
      if (message.id === this.#strips) this.#onstrip?.(message.peaks);
      return;
    }
    const { key } = message;
    const wish = this.#wishes.get(key);
    const waiting = this.#waiting.get(key);
    this.#wishes.delete(key);
    this.#waiting.delete(key);
    // The painter has done it: asked for again, it is a new wish.
    this.#sent = [...this.#wishes.keys()].join("\n");
    if (message.type === "failed") {
      this.#failed.set(key, performance.now() + AGAIN_MS);
      if (waiting) setTimeout(() => this.onarrival(waiting), AGAIN_MS + 1);
      return;
    }
    if (!wish || !waiting) {
      message.bitmap.close();
      return;
    }
    this.#keep(key, wish, message.bitmap, message.bytes);
    this.onarrival(waiting);
  }

  #keep(key: string, wish: TileWish, bitmap: Bitmap, bytes: number): void {
    const { recordingId, framesPerPixel } = wish;
    const look = lookKey(wish);
    const old = this.#tiles.get(key);
    if (old) this.#remove(key, old);
    this.#tiles.set(key, { bitmap, bytes, look, recordingId, framesPerPixel });
    this.#bytes += bytes;
    const looks = this.#looks.get(recordingId) ?? new Map<string, Map<number, number>>();
    this.#looks.set(recordingId, looks);
    const zooms = looks.get(look) ?? new Map<number, number>();
    looks.set(look, zooms);
    zooms.set(framesPerPixel, (zooms.get(framesPerPixel) ?? 0) + 1);
  }

  #remove(key: string, { bitmap, bytes, look, recordingId, framesPerPixel }: Tile<Bitmap>): void {
    this.#tiles.delete(key);
    this.#bytes -= bytes;
    bitmap.close();
    const looks = this.#looks.get(recordingId);
    const zooms = looks?.get(look);
    if (!looks || !zooms) return;
    const left = (zooms.get(framesPerPixel) ?? 1) - 1;
    if (left > 0) zooms.set(framesPerPixel, left);
    else zooms.delete(framesPerPixel);
    if (zooms.size === 0) looks.delete(look);
    if (looks.size === 0) this.#looks.delete(recordingId);
  }

  close(): void {
    this.painter.terminate();
    for (const { bitmap } of this.#tiles.values()) bitmap.close();
    this.#tiles.clear();
    this.#bytes = 0;
  }
}
