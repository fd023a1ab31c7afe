import { Buffer } from "../kernels/memory";

// ITU-R BS.1770-5 annex 2, table of the order-48, 4-phase interpolating FIR filter.
const PHASE_0 = [
  0.001708984375, 0.010986328125, -0.0196533203125, 0.033203125, -0.0594482421875, 0.1373291015625,
  0.97216796875, -0.102294921875, 0.047607421875, -0.026611328125, 0.014892578125, -0.00830078125
];
const PHASE_1 = [
  -0.0291748046875, 0.029296875, -0.0517578125, 0.089111328125, -0.16650390625, 0.465087890625, 0.77978515625,
  -0.2003173828125, 0.1015625, -0.0582275390625, 0.0330810546875, -0.0189208984375
];
export const PHASES: readonly (readonly number[])[] = [
  PHASE_0,
  PHASE_1,
  [...PHASE_1].reverse(),
  [...PHASE_0].reverse()
];

let table: Buffer | undefined;

/** Address of the coefficients as the kernels want them: for each tap the four phases. Made once a thread. */
export function truePeakTaps(): number {
  if (!table) {
    table = new Buffer(12 * 16);
    for (let tap = 0; tap < 12; tap++)
      for (let phase = 0; phase < 4; phase++) table.f32[tap * 4 + phase] = PHASES[phase][tap];
  }
  return table.ptr;
}
