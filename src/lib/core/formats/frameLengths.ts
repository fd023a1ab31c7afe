// How long a frame of a coded stream is, by its own header.

/** Bytes of the frame that a header begins, of at least HEADER_BYTES; undefined where no frame begins. */
export type FrameLength = (header: Uint8Array) => number | undefined;

/** So many bytes of a frame tell its length. */
export const HEADER_BYTES = 7;

/** kbit/s by the header's four bits: ISO/IEC 11172-3, 2.4.2.3, for layers I to III; and ISO/IEC 13818-3, 2.4.2.3, layer I and the others. */
const MPEG_1 = [
  [0, 32, 64, 96, 128, 160, 192, 224, 256, 288, 320, 352, 384, 416, 448],
  [0, 32, 48, 56, 64, 80, 96, 112, 128, 160, 192, 224, 256, 320, 384],
  [0, 32, 40, 48, 56, 64, 80, 96, 112, 128, 160, 192, 224, 256, 320]
] as const;
const MPEG_2 = [
  [0, 32, 48, 56, 64, 80, 96, 112, 128, 144, 160, 176, 192, 224, 256],
  [0, 8, 16, 24, 32, 40, 48, 56, 64, 80, 96, 112, 128, 144, 160],
  [0, 8, 16, 24, 32, 40, 48, 56, 64, 80, 96, 112, 128, 144, 160]
] as const;
const MPEG_RATES = [44100, 48000, 32000] as const;

/** A frame of MPEG audio, layer I to III. */
export const mpegFrame: FrameLength = ([a = 0, b = 0, c = 0]) => {
  if (a !== 0xff || (b & 0xe0) !== 0xe0) return undefined;
  // 0: MPEG-2.5, which is no standard but common practice; 2: MPEG-2; 3: MPEG-1.
  const version = (b >> 3) & 3;
  const layer = 4 - ((b >> 1) & 3);
  const rate = MPEG_RATES[(c >> 2) & 3];
  if (version === 1 || layer === 4 || rate === undefined) return undefined;
  const kbits = (version === 3 ? MPEG_1 : MPEG_2)[layer - 1]?.[c >> 4];
  if (!kbits) return undefined;
  const sampleRate = version === 3 ? rate : version === 2 ? rate / 2 : rate / 4;
  const padding = (c >> 1) & 1;
  if (layer === 1) return 4 * (Math.floor((12000 * kbits) / sampleRate) + padding);
  const samples = layer === 3 && version !== 3 ? 576 : 1152;
  return Math.floor((samples * 125 * kbits) / sampleRate) + padding;
};

/** A frame of AAC in ADTS: ISO/IEC 13818-7, 6.2. */
export const adtsFrame: FrameLength = ([a = 0, b = 0, , d = 0, e = 0, f = 0]) => {
  if (a !== 0xff || (b & 0xf6) !== 0xf0) return undefined;
  const length = ((d & 3) << 11) | (e << 3) | (f >> 5);
  return length >= HEADER_BYTES ? length : undefined;
};

/** kbit/s by half of the frame size code: ATSC A/52, table 5.18. */
const AC3_KBITS = [
  32, 40, 48, 56, 64, 80, 96, 112, 128, 160, 192, 224, 256, 320, 384, 448, 512, 576, 640
] as const;

/** A frame of AC-3 or E-AC-3: ATSC A/52, 5.4.1 and E.2.3.1. */
export const ac3Frame: FrameLength = ([a = 0, b = 0, c = 0, d = 0, e = 0, f = 0]) => {
  if (a !== 0x0b || b !== 0x77) return undefined;
  // The stream's version tells which of the two it is.
  if (f >> 3 > 10) return 2 * ((((c & 7) << 8) | d) + 1);
  const code = e & 63;
  const kbits = AC3_KBITS[code >> 1];
  if (kbits === undefined) return undefined;
  // At 44.1 kHz frames are as long as they come nearest, which of two the code's last bit tells.
  return [4 * kbits, 2 * (Math.floor((kbits * 320) / 147) + (code & 1)), 6 * kbits][e >> 6];
};
