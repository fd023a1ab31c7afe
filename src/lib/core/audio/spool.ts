// Sound kept in the kernels' memory, in pieces that grow with it.
import { kernels } from "../kernels/instance";
import { StereoBlock } from "./block";

const PIECE = 1 << 16;

/** Keeps frames as they come and gives them back from any place. */
export class MemorySpool {
  readonly #pieces: StereoBlock[] = [];
  #frames = 0;

  append(l: number, r: number, n: number): void {
    for (let done = 0; done < n;) {
      const inside = this.#frames % PIECE;
      if (inside === 0) this.#pieces.push(new StereoBlock(PIECE));
      const piece = this.#pieces[this.#pieces.length - 1];
      const m = Math.min(n - done, PIECE - inside);
      kernels.copy(piece.left.ptr + inside * 4, l + done * 4, m);
      kernels.copy(piece.right.ptr + inside * 4, r + done * 4, m);
      this.#frames += m;
      done += m;
    }
  }

  read(from: number, n: number, l: number, r: number): void {
    kernels.clear(l, n);
    kernels.clear(r, n);
    const end = Math.min(from + n, this.#frames);
    for (let at = Math.max(0, from); at < end;) {
      const piece = this.#pieces[Math.floor(at / PIECE)];
      const inside = at % PIECE;
      const m = Math.min(end - at, PIECE - inside);
      kernels.copy(l + (at - from) * 4, piece.left.ptr + inside * 4, m);
      kernels.copy(r + (at - from) * 4, piece.right.ptr + inside * 4, m);
      at += m;
    }
  }

  release(): void {
    for (const piece of this.#pieces) piece.release();
    this.#pieces.length = 0;
    this.#frames = 0;
  }
}
