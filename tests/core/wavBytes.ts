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

/** A file of planar signals as 16 or 24-bit integers or 32-bit floats. */
export function wavBytes(sound: {
  readonly channels: readonly Float32Array[];
  readonly sampleRate: number;
  readonly kind: "int16" | "int24" | "float32";
}): Uint8Array<ArrayBuffer> {
  const { channels, sampleRate, kind } = sound;
  const bits = { int16: 16, int24: 24, float32: 32 }[kind];
  const frames = channels[0].length;
  const bytes = riff({
    tag: kind === "float32" ? 3 : 1,
    channels: channels.length,
    rate: sampleRate,
    bits,
    frames
  });
  const v = new DataView(bytes.buffer);
  const full = 2 ** (bits - 1);
  for (let i = 0; i < frames; i++)
    channels.forEach((x, c) => {
      const at = 44 + ((i * channels.length + c) * bits) / 8;
      const whole = Math.max(-full, Math.min(full - 1, Math.round(x[i] * full)));
      if (kind === "float32") v.setFloat32(at, x[i], true);
      else v.setInt16(at, kind === "int16" ? whole : whole & 0xffff, true);
      if (kind === "int24") {
        v.setUint8(at, whole & 255);
        v.setUint8(at + 1, (whole >> 8) & 255);
        v.setInt8(at + 2, whole >> 16);
      }
    });
  return bytes;
}
