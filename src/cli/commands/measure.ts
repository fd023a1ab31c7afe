import { parse } from "../args";
import { chainOf } from "../chains";
import { openInput, rangeOf } from "../input";
import { measureFile } from "../measuring";
import { UsageFault, type Command } from "../outcome";
import { json, jsonRow, measurementTable, type Row } from "../report";

export const measure: Command = {
  usage: "measure FILE… [--from S] [--to S] [--mono] [--chain CHAIN.json | --preset NAME] [--json]",
  summary: "loudness, peaks, levels of files",
  help: [
    "  --from S, --to S   measure that part only; seconds, or 1:02.5",
    "  --mono             fold down to one channel first",
    "  --chain, --preset  measure what the chain makes of it",
    "  --json             print an array of objects; minus infinity is null",
    "",
    "Loudness: ITU-R BS.1770-5 and EBU R 128. RMS: plain, a full-scale sine reads -3.01.",
    "Clipped: samples in runs of three or more at full scale. Floor: RMS of the quietest 400 ms."
  ],
  async run(args, work) {
    const options = parse(args, {
      from: { type: "string" },
      to: { type: "string" },
      mono: { type: "boolean" },
      chain: { type: "string" },
      preset: { type: "string" },
      json: { type: "boolean" }
    });
    if (options.files.length === 0) throw new UsageFault("measure wants at least one file");
    const [from, to] = [options.seconds("from"), options.seconds("to")];
    const steps = await chainOf(options.text("chain"), options.text("preset"));
    const rows: Row[] = [];
    for (const file of options.files) {
      const input = await openInput(file, work);
      try {
        const range = rangeOf(input, from, to);
        const { measurement, channels } = measureFile(input, range, steps, options.flag("mono"), work);
        const { sampleRate } = input.layout;
        const frames = range[1] - range[0];
        rows.push({ file, sampleRate, channels, frames, durationSeconds: frames / sampleRate, measurement });
      } finally {
        input.close();
      }
    }
    return options.flag("json") ? json(rows.map(jsonRow)) : measurementTable(rows);
  }
};
