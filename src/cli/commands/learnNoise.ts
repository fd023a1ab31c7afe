import { renameSync, rmSync, writeFileSync } from "node:fs";
import path from "node:path";
import { BLOCK } from "$lib/core/audio/block";
import { NoiseLearner, profileToText } from "$lib/core/effects/noiseProfile";
import { CHAIN_FORMAT, type ChainFile } from "$lib/core/session/chainFile";
import { parse } from "../args";
import { openInput, rangeOf, reading } from "../input";
import { CouldNot, UsageFault, type Command } from "../outcome";
import { json } from "../report";
import { run, treat } from "../treated";

export const learnNoise: Command = {
  usage: "learn-noise FILE --from S --to S -o PROFILE.json",
  summary: "a noise profile from a stretch with noise alone",
  help: [
    "  --from S, --to S   where only the noise is heard; half a second or more",
    "  -o PROFILE.json    a chain with one noise reduction that carries the profile: use it with --chain,",
    "                     or copy its `profile` into a chain of your own"
  ],
  async run(args, work) {
    const options = parse(args, {
      from: { type: "string" },
      to: { type: "string" },
      output: { type: "string", short: "o" }
    });
    const [file] = options.files;
    if (options.files.length !== 1) throw new UsageFault("learn-noise wants one file");
    const [fromSeconds, toSeconds] = [options.seconds("from"), options.seconds("to")];
    if (fromSeconds === undefined || toSeconds === undefined)
      throw new UsageFault("learn-noise wants --from S and --to S");
    const target = options.text("output");
    if (!target) throw new UsageFault("learn-noise wants -o PROFILE.json");
    const input = await openInput(file, work);
    try {
      const [from, to] = rangeOf(input, fromSeconds, toSeconds);
      const treated = treat(input, [], from, to);
      const learner = new NoiseLearner(treated.sampleRate);
      reading(input, () =>
        run(treated, (l, r, n, done) => {
          learner.push(l, r, n);
          if (done % (BLOCK * 100) === 0) work.progress(`learning from ${file}`, done / (to - from));
        })
      );
      const profile = learner.finish();
      learner.release();
      treated.source.close();
      if (!profile)
        throw new CouldNot(
          `"${file}" holds no noise from ${fromSeconds} to ${toSeconds} s, or too little of it`
        );
      const chain: ChainFile = {
        wring: CHAIN_FORMAT,
        name: `Noise of ${path.basename(file)}`.slice(0, 120),
        steps: [
          {
            effect: "noise-reduction",
            on: true,
            params: { source: "carried", profile: profileToText(profile) }
          }
        ]
      };
      const part = `${target}.${process.pid}.part`;
      work.temporary(part);
      try {
        writeFileSync(part, json(chain));
        renameSync(part, target);
        work.kept(part);
      } catch (error) {
        rmSync(part, { force: true });
        throw error;
      }
      return `${target}: noise of ${((to - from) / treated.sampleRate).toFixed(3)} s\n`;
    } finally {
      input.close();
    }
  }
};
