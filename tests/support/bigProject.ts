// A project of any size: clips on 24 tracks over two hours, with three steps each.
import type { Document } from "../../src/lib/core/session/document";
import {
  documentOf,
  newChain,
  newClip,
  newProject,
  newRecording,
  newStep,
  newTrack
} from "../../src/lib/core/session/make";

const TRACKS = 24;
const RATE = 48000;
const PROGRAMME = 2 * 3600 * RATE;

/** The id of clip n. */
export const bigClip = (n: number): string => `clip-${n}`;

export function bigProject(count: number): Document {
  const recording = newRecording("1234567890abcdef12345678", {
    name: "Interview",
    media: null,
    frames: PROGRAMME,
    channels: 2,
    sampleRate: RATE,
    kind: "import"
  });
  const perTrack = Math.ceil(count / TRACKS);
  const clips = Array.from({ length: count }, (_, n) => {
    const start = Math.floor(((n / TRACKS) * PROGRAMME) / perTrack);
    const length = Math.floor((0.8 * PROGRAMME) / perTrack);
    const name = `Take ${n}`;
    const change = { name, length, offset: start % 1000, chain: `chain-${n}` };
    return newClip(bigClip(n), `track-${n % TRACKS}`, recording, start, change);
  });
  const chains = clips.map((_, n) =>
    newChain(`chain-${n}`, [
      newStep(`step-${n}-a`, "gain", { gainDb: 3 }),
      newStep(`step-${n}-b`, "parametric-eq", { on1: true, type1: "highPass", freq1: 90 }),
      newStep(`step-${n}-c`, "limiter", { ceilingDb: -2 })
    ])
  );
  return documentOf(newProject(`A project of ${count} clips`, RATE), {
    tracks: Array.from({ length: TRACKS }, (_, n) => newTrack(`track-${n}`, `Track ${n + 1}`, n)),
    clips,
    chains,
    recordings: [recording]
  });
}
