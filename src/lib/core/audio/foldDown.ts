/** Gains from each channel of a file to left and right, by number of channels. */
export type FoldDown = readonly (readonly [left: number, right: number])[];

const R = Math.SQRT1_2;

// Order of channels as in WAVE_FORMAT_EXTENSIBLE: L R C LFE Ls Rs Lb Rb. Centre and surround at -3 dB, no LFE:
// ITU-R BS.775-4, annex 4, table 2. One channel is heard on both sides at full level, as a mono clip in the mix.
const TABLES: Record<number, FoldDown> = {
  1: [[1, 1]],
  2: [
    [1, 0],
    [0, 1]
  ],
  3: [
    [1, 0],
    [0, 1],
    [R, R]
  ],
  4: [
    [1, 0],
    [0, 1],
    [R, 0],
    [0, R]
  ],
  5: [
    [1, 0],
    [0, 1],
    [R, R],
    [R, 0],
    [0, R]
  ],
  6: [
    [1, 0],
    [0, 1],
    [R, R],
    [0, 0],
    [R, 0],
    [0, R]
  ]
};

/** The fold-down for a file of 1 to 8 channels. Channels beyond the sixth are a second pair of surrounds. */
export function foldDown(channels: number): FoldDown {
  const six = TABLES[6];
  const known = TABLES[channels];
  if (known) return known;
  return [
    ...six,
    ...Array.from({ length: channels - 6 }, (_, i): [number, number] => (i === 0 ? [R, 0] : [0, R]))
  ];
}
