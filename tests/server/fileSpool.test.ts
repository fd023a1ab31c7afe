import { describe, expect, it } from "vitest";
import { Buffer as KernelBuffer } from "../../src/lib/core/kernels/memory";
import { FileSpool } from "../../src/lib/server/media/fileSpool";
import { eachBlock, noise } from "../core/signals";

describe("sound kept in a file", () => {
  it("comes back from any place, forwards and backwards, with silence outside", () => {
    const spool = new FileSpool();
    const [x, y] = [noise(100000, 1, 1), noise(100000, 1, 2)];
    eachBlock(x, y, 500, (l, r, n) => spool.append(l, r, n));
    const [l, r] = [new KernelBuffer(8000), new KernelBuffer(8000)];
    for (const from of [99000, 65000, 32000, 0, -700, 98500]) {
      spool.read(from, 2000, l.ptr, r.ptr);
      for (let i = 0; i < 2000; i += 3) {
        expect(l.f32[i]).toBe(x[from + i] ?? 0);
        expect(r.f32[i]).toBe(y[from + i] ?? 0);
      }
    }
    spool.release();
    spool.release();
    for (const b of [l, r]) b.release();
  });
});
