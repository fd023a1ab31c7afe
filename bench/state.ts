// What the page's state costs when one clip of many changes: the index, and who is told.
import { performance } from "node:perf_hooks";
import { flushSync } from "svelte";
import { applyCommand } from "../src/lib/core/session/commands";
import { ClipIndex } from "../src/lib/ui/state/clipIndex.svelte";
import { bigClip, bigProject } from "../tests/support/bigProject";
import { watchLanes } from "./laneWatchers.svelte";
import { median, row } from "./table";

const CLIPS = 20000;
let doc = bigProject(CLIPS);
const index = new ClipIndex(doc);
const told = new Map<string, number>();
const lanes = [...doc.values("tracks")].map((track) => track.id);
watchLanes(index, lanes, told);
flushSync();

const times: number[] = [];
let lanesTold = 0;
for (let i = 0; i < 400; i++) {
  const clip = doc.get("clips", bigClip(i * 7));
  if (!clip) throw new Error("no clip");
  const { document } = applyCommand(doc, {
    type: "clip.move",
    clipId: clip.id,
    trackId: clip.track,
    start: clip.start + 480
  });
  doc = document;
  const before = [...told.values()].reduce((a, b) => a + b, 0);
  const begin = performance.now();
  index.show(doc);
  flushSync();
  if (i >= 100) times.push(performance.now() - begin);
  lanesTold = Math.max(lanesTold, [...told.values()].reduce((a, b) => a + b, 0) - before);
}
row("state: one clip changed of 20,000", median(times), "ms", undefined, 0.1);
row("lanes that are told of it", lanesTold, "", undefined, 1);
