// One chain, and a level if wanted, for many files: each is written anew and measured before and after; bad ones are told, the others go on.
import { writeFileSync } from "node:fs";
import { kernels } from "$lib/core/kernels/instance";
import { Buffer as KernelBuffer } from "$lib/core/kernels/memory";
import { BLOCK } from "$lib/core/audio/block";
import { channelWeights } from "$lib/core/measure/channelWeights";
import { Meter, type Measurement } from "$lib/core/measure/meter";
import { levelStep } from "$lib/core/session/batch";
import type { Step } from "$lib/core/session/schema";
import { formatDb } from "$lib/core/units/decibels";
import { WavWriter } from "$lib/server/media/wavFile";
import { numberOf, parse } from "../args";
import { chainOf } from "../chains";
import { openInput, reading } from "../input";
import { CouldNot, UsageFault, type Command, type Printed, type Work } from "../outcome";
import { formatOf, makeFolder, outputs, writeWav } from "../output";
import { columns, json, jsonLevels } from "../report";
import { targetOf } from "../targets";
import { run, treat } from "../treated";
import { measureFile } from "../measuring";

interface Done {
  readonly file: string;
  readonly output: string;
  readonly before: Measurement;
  readonly after: Measurement;
}

interface Failed {
  readonly file: string;
  readonly error: string;
}

/** The step that brings to the level of --to. */
function stepTo(to: string | undefined, ceiling: string | undefined): Step[] {
  if (to === undefined) {
    if (ceiling !== undefined) throw new UsageFault("--ceiling wants --to");
    return [];
  }
  const { target, level: levelDb } = targetOf(to);
  const ceilingDb = ceiling === undefined ? null : numberOf("--ceiling", ceiling);
  return [{ ...levelStep({ target, levelDb, ceilingDb }), id: "level" }];
}

async function one(
  file: string,
  output: string,
  steps: readonly Step[],
  bits: string | undefined,
  work: Work
): Promise<Done> {
  const input = await openInput(file, work);
  try {
    const { frames, sampleRate, kind } = input.layout;
    if (frames === 0) throw new CouldNot(`"${file}" has no sample`);
    const format = formatOf(bits, kind);
    const before = measureFile(input, [0, frames], undefined, false, work).measurement;
    const treatment = treat(input, steps, 0, frames);
    const planar = new KernelBuffer(BLOCK * 8);
    const meter = new Meter(sampleRate, { weights: channelWeights(treatment.channels), annex2: true });
    try {
      reading(input, () =>
        writeWav(
          output,
          file,
          (part) => new WavWriter(part, format, treatment.channels, sampleRate, "triangular"),
          (writer) =>
            run(treatment, (l, r, n, done) => {
              meter.pushChannels(treatment.channels === 1 ? [l] : [l, r], n);
              kernels.copy(planar.ptr, l, n);
              kernels.copy(planar.ptr + BLOCK * 4, r, n);
              writer.write(planar.ptr, BLOCK * 4, n);
              work.progress(`treating ${file}`, done / frames);
            }),
          work
        )
      );
      return { file, output, before, after: meter.result() };
    } finally {
      treatment.source.close();
      meter.release();
      planar.release();
    }
  } finally {
    input.close();
  }
}

const HEAD = [
  "file",
  "before LUFS",
  "after LUFS",
  "before dBTP",
  "after dBTP",
  "written to",
  "why it failed"
];

function rowsOf(done: readonly Done[], failed: readonly Failed[]): string[][] {
  return [
    ...done.map(({ file, output, before, after }) => [
      file,
      formatDb(before.integratedLufs),
      formatDb(after.integratedLufs),
      formatDb(before.truePeakDbtp),
      formatDb(after.truePeakDbtp),
      output,
      ""
    ]),
    ...failed.map(({ file, error }) => [file, "", "", "", "", "", error])
  ];
}

export const batch: Command = {
  usage:
    "batch FILE… [--chain CHAIN.json | --preset NAME] [--to TARGET=LEVEL] [--ceiling DBTP] -o DIR [--bits 16|24|32f] [--csv REPORT.csv] [--json]",
  summary: "many files through one chain, with a report of loudness before and after",
  help: [
    "  --chain, --preset  what to do; `effects` and `presets` list what there is",
    "  --to TARGET=LEVEL  bring each to a level last, by one gain, as integrated=-16 or peak=-1",
    "  --ceiling DBTP     the gain stops where the true peak would pass this",
    "  -o DIR             where to; the sources are never overwritten",
    "  --bits             sample format; that of each source unless said",
    "  --csv REPORT.csv   write the report as a table as well (RFC 4180)",
    "",
    "A file that cannot be used is told with the reason, and the others go on; the exit status is 1 then."
  ],
  async run(args, work): Promise<Printed> {
    const options = parse(args, {
      chain: { type: "string" },
      preset: { type: "string" },
      to: { type: "string" },
      ceiling: { type: "string" },
      output: { type: "string", short: "o" },
      bits: { type: "string" },
      csv: { type: "string" },
      json: { type: "boolean" }
    });
    if (options.files.length === 0) throw new UsageFault("batch wants files");
    const folder = options.text("output");
    if (!folder) throw new UsageFault("batch wants -o DIR");
    const level = stepTo(options.text("to"), options.text("ceiling"));
    const chain = (await chainOf(options.text("chain"), options.text("preset"))) ?? [];
    const steps = [...chain, ...level];
    if (steps.length === 0)
      throw new UsageFault("batch wants --chain CHAIN.json, --preset NAME or --to TARGET=LEVEL");
    const bits = options.text("bits");
    formatOf(bits, "float32");
    const names = outputs(options.files, folder);
    makeFolder(folder);
    const done: Done[] = [];
    const failed: Failed[] = [];
    for (const [i, file] of options.files.entries())
      try {
        done.push(await one(file, names[i], steps, bits, work));
      } catch (error) {
        if (!(error instanceof CouldNot)) throw error;
        failed.push({ file, error: error.message });
      }
    const rows = rowsOf(done, failed);
    const csv = options.text("csv");
    if (csv !== undefined) {
      // Loaded only when it is wanted: it costs some time.
      const { csvFormatRows } = await import("d3");
      writeFileSync(csv, `${csvFormatRows([HEAD, ...rows])}\n`);
    }
    const out = options.flag("json")
      ? json([
          ...done.map(({ file, output, before, after }) => ({
            file,
            output,
            before: jsonLevels(before),
            after: jsonLevels(after)
          })),
          ...failed
        ])
      : columns([HEAD, ...rows]);
    const error =
      failed.length > 0 ? `${failed.length} of ${options.files.length} files could not be treated` : "";
    return { out, error };
  }
};
