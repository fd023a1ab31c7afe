// Momentary loudness (ITU-R BS.1770-5: windows of 400 ms) of one channel on both sides, every 100 ms.
import { Meter } from "../../src/lib/core/measure/meter";
import { eachBlock, RATE } from "./signals";

export function momentaryOf(x: Float32Array): number[] {
  const out: number[] = [];
  const meter = new Meter(RATE);
  eachBlock(x, x, RATE / 10, (l, r, n) => {
    meter.push(l, r, n);
    out.push(meter.live().momentary);
  });
  meter.release();
  return out;
}
