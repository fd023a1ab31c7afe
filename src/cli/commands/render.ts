import { kernels } from "$lib/core/kernels/instance";
import { Buffer as KernelBuffer } from "$lib/core/kernels/memory";
import { BLOCK } from "$lib/core/audio/block";
import { renderClip } from "$lib/core/render/clipRender";
import { formatTime, parseTime } from "$lib/core/units/time";
import { WavWriter } from "$lib/server/media/wavFile";
import { parse } from "../args";
import { chainOf } from "../chains";
import { openInput, reading, rangeOf } from "../input";
import { UsageFault, type Command } from "../outcome";
import { formatOf, writeWav } from "../output";
import { treat } from "../treated";

function tailOf(text: string | undefined): number | "auto" {
  if (text === undefined || text === "auto") return text ?? 0;
  const seconds = parseTime(text);
  if (seconds === undefined || seconds < 0)
    throw new UsageFault(`--tail wants a time or "auto", not "${text}"`);
  return seconds;
}

export const render: Command = {
  usage:
    "render FILE --chain CHAIN.json | --preset NAME -o OUT.wav [--from S] [--to S] [--handles S] [--tail S|auto] [--bits 16|24|32f] [--no-dither]",
  summary: "a file through a chain, as a new WAV file",
  help: [
    "  --chain, --preset  what to do; `effects` and `presets` list what there is",
    "  -o OUT.wav         where to; the source is never overwritten",
    "  --from S, --to S   render that part only",
    "  --handles S        keep that much before and after the part, as far as the file has it",
    "  --tail S|auto      let the chain ring on after it; auto: until it is silent",
    "  --bits             sample format; that of the source unless said",
    "  --no-dither        round without dither at 16 and 24 bit"
  ],
  async run(args, work) {
    const options = parse(args, {
      chain: { type: "string" },
      preset: { type: "string" },
      output: { type: "string", short: "o" },
      from: { type: "string" },
      to: { type: "string" },
      handles: { type: "string" },
      tail: { type: "string" },
      bits: { type: "string" },
      "no-dither": { type: "boolean" }
    });
    const [file] = options.files;
    if (options.files.length !== 1) throw new UsageFault("render wants one file");
    const target = options.text("output");
    if (!target) throw new UsageFault("render wants -o OUT.wav");
    const tail = tailOf(options.text("tail"));
    const handles = options.seconds("handles") ?? 0;
    const [fromSeconds, toSeconds] = [options.seconds("from"), options.seconds("to")];
    const steps = await chainOf(options.text("chain"), options.text("preset"));
    if (!steps) throw new UsageFault("render wants --chain CHAIN.json or --preset NAME");
    const input = await openInput(file, work);
    try {
      const format = formatOf(options.text("bits"), input.layout.kind);
      const [from, to] = rangeOf(input, fromSeconds, toSeconds);
      const { clip, source, sampleRate, channels } = treat(input, steps, from, to);
      const planar = new KernelBuffer(BLOCK * 8);
      let frames = 0;
      try {
        reading(input, () =>
          writeWav(
            target,
            file,
            (part) =>
              new WavWriter(
                part,
                format,
                channels,
                sampleRate,
                options.flag("no-dither") ? "none" : "triangular"
              ),
            (writer) => {
              const order = {
                clip,
                sampleRate,
                recordingFrames: input.layout.frames,
                handleFrames: Math.round(handles * sampleRate),
                tailFrames: tail === "auto" ? ("auto" as const) : Math.round(tail * sampleRate)
              };
              const sink = (l: number, r: number, n: number) => {
                kernels.copy(planar.ptr, l, n);
                kernels.copy(planar.ptr + BLOCK * 4, r, n);
                writer.write(planar.ptr, BLOCK * 4, n);
              };
              ({ frames } = renderClip(order, source, sink, (done) =>
                work.progress(`rendering ${file}`, Math.min(1, done / clip.length))
              ));
            },
            work
          )
        );
      } finally {
        source.close();
        planar.release();
      }
      return `${target}: ${formatTime(frames / sampleRate)}, ${channels === 1 ? "mono" : "stereo"}, ${sampleRate} Hz\n`;
    } finally {
      input.close();
    }
  }
};
