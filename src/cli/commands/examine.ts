import { BLOCK } from "$lib/core/audio/block";
import { Examiner } from "$lib/core/measure/examine";
import type { Finding } from "$lib/core/measure/examine/finding";
import { formatTime } from "$lib/core/units/time";
import { parse } from "../args";
import { openInput, reading } from "../input";
import { UsageFault, type Command } from "../outcome";
import { json } from "../report";
import { run, treat } from "../treated";

/** Places that a line of text names. */
const PLACES = 3;

function line({ certainty, text, places, step }: Finding): string {
  const where = places.slice(0, PLACES).map(({ from }) => formatTime(from, 1));
  const more = places.length > PLACES ? " …" : "";
  const at = where.length > 0 ? ` At ${where.join(", ")}${more}.` : "";
  const params = step ? Object.entries(step.params).map(([id, value]) => `${id} ${String(value)}`) : [];
  const mends = step ? ` Mended by ${[step.effect, ...params].join(", ")}.` : "";
  return `  ${certainty.padEnd(8)} ${text}${at}${mends}\n`;
}

export const examine: Command = {
  usage: "examine FILE… [--json]",
  summary: "what is wrong with recordings, and what mends it",
  help: [
    "  --json             print an array of objects: file, findings with kind, certainty, value, unit, text, places, step",
    "",
    "Looks for: too low, clipped, offset, hum, steady noise, clicks, sharp s, pops, a dead or inverted side, sides that cancel",
    "in mono, a narrow band, long reverberation. Says what is sure, likely, or only possible."
  ],
  async run(args, work) {
    const options = parse(args, { json: { type: "boolean" } });
    if (options.files.length === 0) throw new UsageFault("examine wants at least one file");
    const rows: { file: string; findings: Finding[] }[] = [];
    for (const file of options.files) {
      const input = await openInput(file, work);
      try {
        const { frames } = input.layout;
        const treated = treat(input, [], 0, frames);
        const examiner = new Examiner(treated.sampleRate, frames, treated.channels);
        try {
          reading(input, () =>
            run(treated, (l, r, n, done) => {
              examiner.push(l, r, n);
              if (done % (BLOCK * 100) === 0) work.progress(`examining ${file}`, done / frames);
            })
          );
          rows.push({ file, findings: examiner.finish() });
        } finally {
          examiner.release();
          treated.source.close();
        }
      } finally {
        input.close();
      }
    }
    if (options.flag("json")) return json(rows);
    return rows
      .map(({ file, findings }) => `${file}\n${findings.map(line).join("") || "  nothing found\n"}`)
      .join("");
  }
};
