// WAV files made by hand, right and wrong, independent of the writer under test.
interface Riff {
  readonly tag?: number;
  readonly channels?: number;
  readonly rate?: number;
  readonly bits?: number;
  readonly align?: number;
  readonly frames?: number;
  readonly dataSize?: number;
  /** Bytes of an unknown chunk before the samples. */
  readonly extra?: number;
  /** Sample values, interleaved, for 32-bit float. */
  readonly floats?: readonly number[];
}

/** A classic 44-byte-header WAV. */
export function riff(options: Riff): Uint8Array<ArrayBuffer> {
  const { tag = 1, channels = 1, rate = 48000, bits = 16, frames = 10, extra, floats } = options;
  const align = options.align ?? (channels * bits) / 8;
  const data = floats ? floats.length * 4 : Math.ceil(frames * align);
  const skipped = extra === undefined ? 0 : 8 + extra + (extra % 2);
  const bytes = new Uint8Array(44 + skipped + data);
  const v = new DataView(bytes.buffer);
  const text = (at: number, s: string) => [...s].forEach((c, i) => v.setUint8(at + i, c.charCodeAt(0)));
  text(0, "RIFF");
  v.setUint32(4, bytes.length - 8, true);
  text(8, "WAVEfmt ");
  v.setUint32(16, 16, true);
  v.setUint16(20, tag, true);
  v.setUint16(22, channels, true);
  v.setUint32(24, rate, true);
  v.setUint32(28, rate * align, true);
  v.setUint16(32, align, true);
  v.setUint16(34, bits, true);
  if (extra !== undefined) {
    text(36, "junk");
    v.setUint32(40, extra, true);
  }
  text(36 + skipped, "data");
  v.setUint32(40 + skipped, options.dataSize ?? data, true);
  floats?.forEach((x, i) => v.setFloat32(44 + skipped + i * 4, x, true));
  return bytes;
}

/** A mono 16-bit file of a signal. */
export function wav16(signal: ArrayLike<number>, rate = 48000): Uint8Array<ArrayBuffer> {
  const bytes = riff({ frames: signal.length, rate });
  const v = new DataView(bytes.buffer);
  for (let i = 0; i < signal.length; i++)
    v.setInt16(44 + 2 * i, Math.max(-32768, Math.min(32767, Math.round(signal[i] * 32768))), true);
  return bytes;
}
