// A file of any format becomes a WAV file, by ffmpeg, at its own rate and with its own channels.
import { rmSync } from "node:fs";
import { FileFault } from "$lib/core/formats/fault";
import { decodeSamples } from "$lib/core/formats/samples";
import { Buffer as KernelBuffer } from "$lib/core/kernels/memory";
import type { Findings } from "../findings";
import { WavWriter } from "../wavFile";
import type { ProbedSound } from "./probe";
import { ended, lastComplaint, startTool } from "./tools";

const DECODE_MS = 4 * 3600 * 1000;
const ROOM_FRAMES = 1 << 15;
/** What a file says of its length may be off by so much. */
const SLACK_SECONDS = 0.2;

/** Takes interleaved samples as they come, in pieces of any size, and writes whole frames. */
class FrameSink {
  readonly #raw: KernelBuffer;
  readonly #planar: KernelBuffer;
  #filled = 0;

  constructor(
    private readonly writer: WavWriter,
    private readonly channels: number,
    private readonly most: number,
    private readonly findings: Findings | undefined
  ) {
    this.#raw = new KernelBuffer(ROOM_FRAMES * channels * 4);
    this.#planar = new KernelBuffer(ROOM_FRAMES * channels * 4);
  }

  /** Whether no more frames are wanted. */
  get full(): boolean {
    return this.writer.frames >= this.most;
  }

  push(bytes: Uint8Array): void {
    const room = ROOM_FRAMES * this.channels * 4;
    for (let done = 0; done < bytes.length;) {
      const n = Math.min(bytes.length - done, room - this.#filled);
      this.#raw.u8.set(bytes.subarray(done, done + n), this.#filled);
      this.#filled += n;
      done += n;
      if (this.#filled === room) this.#write();
    }
  }

  #write(): void {
    const whole = Math.floor(this.#filled / (4 * this.channels));
    const n = Math.min(whole, this.most - this.writer.frames);
    if (n > 0) {
      decodeSamples("float32", this.#raw.ptr, n, this.channels, this.#planar.ptr, ROOM_FRAMES * 4);
      this.findings?.push(this.#planar.ptr, ROOM_FRAMES * 4, n);
      this.writer.write(this.#planar.ptr, ROOM_FRAMES * 4, n);
    }
    this.#filled = 0;
  }

  end(): void {
    this.#write();
  }

  release(): void {
    this.#raw.release();
    this.#planar.release();
  }
}

/** What was decoded. */
export interface Decoded {
  readonly frames: number;
  /** Why it is not all that the file should hold; null: it is. */
  readonly torn: string | null;
}

/**
 * Decodes the sound of a file into a WAV file that is not there yet. Ends when the thread does: what ffmpeg writes has then nowhere to go.
 * @param partial whether what can be read of a cut or damaged file will do
 * @param findings what is found of the samples on their way
 * @throws FileFault when it cannot be read, or ends before it should; nothing is left then
 */
export async function decode(
  file: string,
  sound: ProbedSound,
  target: string,
  tick: (share: number) => void,
  { partial = false, findings }: { partial?: boolean | undefined; findings?: Findings | undefined } = {}
): Promise<Decoded> {
  const { channels, sampleRate, stream, kept, frames, cut } = sound;
  const writer = new WavWriter(target, kept, channels, sampleRate, "none");
  const sink = new FrameSink(writer, channels, cut ?? Infinity, findings);
  let whole = false;
  try {
    const child = startTool(
      "ffmpeg",
      file,
      ["-v", "error", "-nostdin", "-threads", "1"],
      ["-map", `0:${stream}`, "-f", "f32le", "-c:a", "pcm_f32le", "pipe:1"]
    );
    const end = ended(child, DECODE_MS);
    let fault: unknown;
    child.stdout?.on("data", (bytes: Uint8Array) => {
      if (fault !== undefined) return;
      try {
        if (!sink.full) sink.push(bytes);
      } catch (error) {
        fault = error;
        child.kill("SIGKILL");
      }
      if (frames) tick(Math.min(1, writer.frames / frames));
    });
    const { code, complaint } = await end;
    if (fault !== undefined) throw fault;
    sink.end();
    const seconds = (n: number) => `${(n / sampleRate).toFixed(1)} s`;
    if (writer.frames === 0) throw new FileFault("it holds no sound that can be read");
    const torn =
      frames && writer.frames < frames - SLACK_SECONDS * sampleRate
        ? `it is cut off: ${seconds(writer.frames)} of ${seconds(frames)} can be read`
        : code !== 0
          ? `it is damaged after ${seconds(writer.frames)}${reason(complaint)}`
          : null;
    if (torn && !partial) throw new FileFault(torn);
    writer.finish();
    whole = true;
    return { frames: writer.frames, torn };
  } finally {
    sink.release();
    if (!whole) {
      writer.abandon();
      rmSync(target, { force: true });
    }
  }
}

function reason(complaint: string): string {
  const text = lastComplaint(complaint);
  return text ? ` (${text})` : "";
}
