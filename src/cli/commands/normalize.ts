import { kernels } from "$lib/core/kernels/instance";
import { Buffer as KernelBuffer } from "$lib/core/kernels/memory";
import { NORMALIZE_TARGETS, normalizeGain } from "$lib/core/effects/normalize";
import { channelWeights } from "$lib/core/measure/channelWeights";
import { Meter, type Measurement } from "$lib/core/measure/meter";
import { dbToGain, formatDb } from "$lib/core/units/decibels";
import { WavFile, WavWriter } from "$lib/server/media/wavFile";
import { numberOf, parse } from "../args";
import { openInput, reading, type Input } from "../input";
import { measureFile } from "../measuring";
import { CouldNot, UsageFault, type Command, type Work } from "../outcome";
import { formatOf, makeFolder, outputs, writeWav } from "../output";
import { columns, json, jsonLevels } from "../report";
import { targetOf } from "../targets";

const BLOCK_FRAMES = 1 << 14;

/** Writes a file with a gain and measures what is written. */
function writeGained(
  input: Input,
  output: string,
  gainDb: number,
  bits: string | undefined,
  work: Work
): Measurement {
  const { channels, sampleRate, frames, kind } = input.layout;
  const file = new WavFile(input.path);
  const stride = BLOCK_FRAMES * 4;
  const planar = new KernelBuffer(stride * channels);
  const weights = channelWeights(channels);
  const addresses = weights.map((_, c) => planar.ptr + c * stride);
  const meter = new Meter(sampleRate, { weights, annex2: true });
  try {
    reading(input, () =>
      writeWav(
        output,
        input.name,
        (part) => new WavWriter(part, formatOf(bits, kind), channels, sampleRate, "triangular"),
        (writer) => {
          for (let at = 0; at < frames; at += BLOCK_FRAMES) {
            const n = file.read(at, BLOCK_FRAMES, planar.ptr, stride);
            for (const address of addresses) kernels.gain(address, n, dbToGain(gainDb));
            meter.pushChannels(addresses, n);
            writer.write(planar.ptr, stride, n);
            work.progress(`writing ${output}`, (at + n) / frames);
          }
        },
        work
      )
    );
    return meter.result();
  } finally {
    file.close();
    meter.release();
    planar.release();
  }
}

export const normalize: Command = {
  usage:
    "normalize FILE… --to integrated=-16|momentary-max=…|short-term-max=…|peak=-1|true-peak=-1|rms=-20 [--ceiling -1] [--together] [--bits 16|24|32f] -o DIR [--json]",
  summary: "files to a loudness or a peak by one gain each, or by one for all",
  help: [
    "  --to         what is brought to which level: LUFS for loudness, dBTP for true peak, dBFS for peak and RMS",
    "  --ceiling L  the gain stops where the true peak would pass L dBTP",
    "  --together   the same gain for all, so that their balance stays: the one that the loudest file needs",
    "  --bits       sample format; that of each source unless said; 16 and 24 bit are dithered",
    "  -o DIR       folder of the new files, made when it is missing; sources are never overwritten"
  ],
  async run(args, work) {
    const options = parse(args, {
      to: { type: "string" },
      ceiling: { type: "string" },
      together: { type: "boolean" },
      bits: { type: "string" },
      output: { type: "string", short: "o" },
      json: { type: "boolean" }
    });
    if (options.files.length === 0) throw new UsageFault("normalize wants at least one file");
    const { target, level } = targetOf(options.text("to"));
    const ceilingText = options.text("ceiling");
    const ceiling = ceilingText === undefined ? Infinity : numberOf("--ceiling", ceilingText);
    const folder = options.text("output");
    if (!folder) throw new UsageFault("normalize wants -o DIR");
    const names = outputs(options.files, folder);
    const inputs: Input[] = [];
    for (const file of options.files) inputs.push(await openInput(file, work));
    try {
      for (const input of inputs) formatOf(options.text("bits"), input.layout.kind);
      const before = inputs.map(
        (input) => measureFile(input, [0, input.layout.frames], undefined, false, work).measurement
      );
      const { key, unit } = NORMALIZE_TARGETS[target];
      const own = before.map((m, i) => {
        if (!Number.isFinite(m[key]))
          throw new CouldNot(`"${inputs[i].name}" is silent by that measure: no gain brings it to a level`);
        return normalizeGain(m, target, level, ceiling);
      });
      const gains = options.flag("together") ? own.map(() => Math.min(...own)) : own;
      makeFolder(folder);
      const after = inputs.map((input, i) =>
        writeGained(input, names[i], gains[i], options.text("bits"), work)
      );
      if (options.flag("json"))
        return json(
          inputs.map((input, i) => ({
            file: input.name,
            output: names[i],
            gainDb: gains[i],
            before: jsonLevels(before[i]),
            after: jsonLevels(after[i])
          }))
        );
      const rows = inputs.map((input, i) => [
        input.name,
        `${formatDb(gains[i], 2, true)} dB`,
        `${formatDb(before[i][key])} → ${formatDb(after[i][key])} ${unit}`,
        `${formatDb(after[i].truePeakDbtp)} dBTP`,
        names[i]
      ]);
      return columns([["file", "gain", "level", "true peak", "written to"], ...rows]);
    } finally {
      for (const input of inputs) input.close();
    }
  }
};
