// What the join check costs: an hour with 500 edges, in the core, with the sound at hand.
import { performance } from "node:perf_hooks";
import { edgesToCheck, inOrder, JoinCheck } from "../src/lib/core/joins/check";
import { kernels } from "../src/lib/core/kernels/instance";
import { lanesOf } from "../src/lib/core/session/lanes";
import { documentOf, newClip, newProject, newRecording, newTrack } from "../src/lib/core/session/make";
import { row } from "./table";

const RATE = 48000;
const CLIPS = 250;
const SECONDS = 60;

/** Noise under a tone that swells. */
const sound = Float32Array.from({ length: SECONDS * RATE }, (_, i) => {
  const swell = Math.abs(Math.sin(i / 9000));
  return swell * (0.2 * Math.sin(i / 40) + 0.02 * Math.sin(i * i));
});
const source = {
  read(_id: string, from: number, frames: number, left: number, right: number): void {
    for (const address of [left, right]) {
      const target = new Float32Array(kernels.memory.buffer, address, frames).fill(0);
      const begin = Math.max(0, from);
      const part = sound.subarray(begin, Math.max(begin, from + frames));
      if (part.length > 0) target.set(part, begin - from);
    }
  }
};
const recording = newRecording("a", {
  name: "A",
  media: null,
  frames: sound.length,
  channels: 1,
  sampleRate: RATE,
  kind: "import"
});
const slot = (3600 / CLIPS) * RATE;
const doc = documentOf(newProject("An hour", RATE), {
  tracks: [1, 2, 3, 4].map((n) => newTrack(`t${n}`, `Track ${n}`, n)),
  clips: Array.from({ length: CLIPS }, (_, n) =>
    newClip(`c${n}`, `t${(n % 4) + 1}`, recording, Math.round(n * slot), {
      offset: (n % 30) * RATE,
      length: 20 * RATE
    })
  ),
  recordings: [recording]
});
const edges = edgesToCheck(doc, RATE);
const check = new JoinCheck(doc, lanesOf(doc, ["t1", "t2", "t3", "t4"]), source, RATE);
const begin = performance.now();
const found = inOrder(edges.flatMap((edge) => check.look(edge) ?? []));
row(
  `join check of an hour with ${edges.length} edges (${found.length} pop)`,
  (performance.now() - begin) / 1000,
  "s",
  undefined,
  5
);
check.release();
