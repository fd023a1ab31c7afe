// What is long is heard on the server: learning and levels, kept under their keys, given up when no one listens any more.
import { folder } from "./folder";
import { existsSync, readdirSync, rmSync } from "node:fs";
import path from "node:path";
import { afterAll, beforeAll, describe, expect, it } from "vitest";
import type { AnalysisJson, ListenLine, ListenWish } from "../../src/lib/api/listening";
import { measurementFromJson } from "../../src/lib/core/measure/json";
import { analysePart } from "../../src/lib/core/render/clipAnalysis";
import type { SoundPart } from "../../src/lib/core/render/soundPart";
import { recordingsByName } from "../../src/lib/core/session/lookup";
import { MIX } from "../../src/lib/core/session/owners";
import { newClip, newStep } from "../../src/lib/core/session/make";
import type { Recording, Step } from "../../src/lib/core/session/schema";
import { config } from "../../src/lib/server/config";
import { closeDatabase } from "../../src/lib/server/db/connection";
import { closePool } from "../../src/lib/server/jobs/pool";
import { startRunner } from "../../src/lib/server/jobs/runner";
import { bytesBelow, reserve } from "../../src/lib/server/media/space";
import { FileSource } from "../../src/lib/server/media/fileSource";
import { clearHeard } from "../../src/lib/server/media/heard";
import { createProject } from "../../src/lib/server/services/projects";
import { listen } from "../../src/lib/server/services/listening";
import { filesOf } from "../../src/lib/server/services/recordings";
import { noise, RATE } from "../core/signals";
import { wav16 } from "../core/wavBytes";
import * as project from "../support/project";
import { importing } from "../support/jobs";
import { useThreads } from "../support/threads";

const SECONDS = 70;
let id = "";
let recording: Recording;

const heardIn = path.join(folder, "heard");
const points = () => {
  const inside = path.join(heardIn, "points");
  return existsSync(inside) ? readdirSync(inside) : [];
};

function steps(lastGainDb = -3): Step[] {
  return [
    newStep("n", "normalize", { target: "peak", levelDb: -3 }),
    newStep("c", "compressor", { thresholdDb: -30, ratio: 3 }),
    newStep("g", "gain", { gainDb: lastGainDb })
  ];
}

function part(chain: Step[] = steps()): SoundPart {
  return { recordingId: recording.id, offset: 0, length: recording.frames, origin: 0, steps: chain };
}

interface Heard {
  readonly last: ListenLine;
  readonly shares: number[];
  readonly soFar: AnalysisJson[];
}

async function hear(wish: ListenWish, signal = new AbortController().signal): Promise<Heard> {
  const shares: number[] = [];
  const soFar: AnalysisJson[] = [];
  const last = await listen(id, wish, signal, (share, known) => {
    shares.push(share);
    if (known) soFar.push(known);
  });
  return { last, shares, soFar };
}

const analysis = ({ last }: Heard): AnalysisJson => {
  if (last.type !== "analysis") throw new Error(`an answer of ${last.type}`);
  return last.analysis;
};

const loudness = ({ stages }: AnalysisJson) => stages.map((s) => s.measurement?.integratedLufs);

beforeAll(async () => {
  await useThreads(folder);
  id = await createProject("Long", 48000);
  startRunner();
  // Loud and quiet by turns, so that every place of it is another.
  const sound = noise(SECONDS * RATE, 0.4, 7).map((x, i) => x * (0.2 + 0.8 * Math.abs(Math.sin(i / 300000))));
  await importing(id, "Long.wav", wav16(sound));
  const [found] = recordingsByName(await project.documentNow(id));
  if (!found) throw new Error("nothing was imported");
  recording = found;
  await project.run(id, {
    type: "clip.add",
    clip: newClip("k", "track-1", recording, 0),
    chain: null
  });
});

afterAll(async () => {
  await closePool();
  await closeDatabase();
});

describe("levels of a long part", () => {
  it("are those that the core measures in one go, and are told in parts while they come", async () => {
    const wish: ListenWish = { kind: "part", part: part(), shape: null, bins: 50 };
    const heard = await hear(wish);
    const files = await filesOf([recording.id], RATE, () => "");
    const source = new FileSource(files, RATE);
    const analyser = analysePart(part(), null, source, RATE, 50);
    while (!analyser.advance(1 << 20));
    const wanted = analyser.result();
    analyser.release();
    source.close();
    const { stages, output, before, after } = analysis(heard);
    expect(stages.map((s) => s.measurement && measurementFromJson(s.measurement))).toEqual(
      wanted.stages.map((s) => s.measurement)
    );
    expect(stages.map((s) => s.stepId)).toEqual([null, "n", "c", "g"]);
    expect(stages[1]?.learnt).toEqual(wanted.stages[1]?.learnt);
    expect(output && measurementFromJson(output)).toEqual(wanted.output);
    expect(before).toEqual([...wanted.before]);
    expect(after).toEqual([...wanted.after]);
    expect(heard.shares.length).toBeGreaterThan(1);
    expect([...heard.shares].sort((a, b) => a - b)).toEqual(heard.shares);
  });

  it("are kept: asked for again, nothing is heard", async () => {
    const heard = await hear({ kind: "part", part: part(), shape: null, bins: 50 });
    expect(heard.shares).toEqual([]);
    expect(analysis(heard).stages).toHaveLength(4);
  });

  it("begin at the last kept point when only the last step changed, and are as from the beginning", async () => {
    expect(points()).toHaveLength(1);
    const wish = { kind: "part" as const, part: part(steps(-9)), shape: null, bins: 50 };
    const fromPoint = analysis(await hear(wish));
    rmSync(heardIn, { recursive: true });
    const fromStart = analysis(await hear(wish));
    expect(fromPoint.stages.map((s) => s.stepId)).toEqual(fromStart.stages.map((s) => s.stepId));
    loudness(fromPoint).forEach((lufs, i) => expect(lufs).toBeCloseTo(loudness(fromStart)[i] ?? NaN, 2));
    fromPoint.after.forEach((x, i) => expect(x).toBeCloseTo(fromStart.after[i] ?? NaN, 3));
    expect(fromPoint.before).toEqual(fromStart.before);
  });

  it("give the room of kept sound to what needs it", () => {
    expect(points()).toHaveLength(1);
    const { maxBytes } = config;
    config.maxBytes = bytesBelow(folder) + 1000;
    const back = reserve(1000000, "It was not kept");
    back();
    config.maxBytes = maxBytes;
    expect(points()).toEqual([]);
  });

  it("of a changed first step are not those that were kept", async () => {
    const [first, ...rest] = steps();
    const changed = first && { ...first, params: { ...first.params, levelDb: -12 } };
    const other = analysis(
      await hear({ kind: "part", part: part(changed ? [changed, ...rest] : []), shape: null, bins: 50 })
    );
    const same = analysis(await hear({ kind: "part", part: part(), shape: null, bins: 50 }));
    expect(
      (same.stages[1]?.measurement?.samplePeakDbfs ?? 0) - (other.stages[1]?.measurement?.samplePeakDbfs ?? 0)
    ).toBeCloseTo(9, 2);
  });
});

describe("learning of a long part", () => {
  it("gives what was learnt, once for all who ask at a time", async () => {
    rmSync(heardIn, { recursive: true, force: true });
    const wish: ListenWish = { kind: "learn", part: part() };
    const [a, b] = await Promise.all([hear(wish), hear(wish)]);
    expect(a.last).toEqual(b.last);
    if (a.last.type !== "lesson") throw new Error(a.last.type);
    expect(a.last.lesson.learnt[0]?.gainDb).toBeTypeOf("number");
    expect(a.last.lesson.sound).toBe(false);
  });

  it("is given up when no one listens any more, and begins anew for the next", async () => {
    rmSync(heardIn, { recursive: true, force: true });
    const stop = new AbortController();
    const wish: ListenWish = { kind: "learn", part: part() };
    const given = hear(wish, stop.signal);
    setTimeout(() => stop.abort(), 20);
    await expect(given).rejects.toThrow();
    expect((await hear(wish)).last.type).toBe("lesson");
    expect(readdirSync(path.join(folder, "scratch")).filter((name) => name.startsWith("listen-"))).toEqual(
      []
    );
  });

  it("says that it kept sound where the step keeps sound", async () => {
    const { last } = await hear({ kind: "learn", part: part([newStep("r", "reverse")]) });
    expect(last).toMatchObject({ type: "lesson", lesson: { sound: true } });
  });
});

describe("levels of tracks and the mix", () => {
  it("are measured over a range or all of the programme, after every step", async () => {
    await project.run(id, {
      type: "step.add",
      owner: MIX,
      chainId: "cm",
      step: newStep("m", "gain", { gainDb: -6 }),
      before: null
    });
    const all = analysis(await hear({ kind: "bus", owner: MIX, from: 0, to: null, bins: 10 }));
    const [into, out] = loudness(all);
    expect((into ?? 0) - (out ?? 0)).toBeCloseTo(6, 3);
    expect(all.output?.integratedLufs).toBeCloseTo(out ?? NaN, 6);
    const track = { table: "tracks" as const, id: "track-1" };
    const range = analysis(await hear({ kind: "bus", owner: track, from: RATE, to: 5 * RATE, bins: 10 }));
    const wanted = analysis(
      await hear({
        kind: "part",
        part: { ...part([]), offset: RATE, origin: RATE, length: 4 * RATE },
        shape: null,
        bins: 10
      })
    );
    expect(range.stages[0]?.measurement).toEqual(wanted.stages[0]?.measurement);
  });

  it("refuse what is none of the project's with a sentence", async () => {
    const beyond = { kind: "part" as const, part: { ...part(), length: 2 ** 40 }, shape: null, bins: 10 };
    await expect(hear(beyond)).rejects.toThrow('"Long" has no sound there.');
    const other = { ...part(), recordingId: "elsewhere" };
    await expect(hear({ kind: "learn", part: other })).rejects.toThrow("no longer in this project");
    await expect(hear({ kind: "bus", owner: MIX, from: 0, to: 2 ** 40, bins: 10 })).rejects.toThrow(
      "ends far behind the programme"
    );
  });

  it("refuse an empty range, and a track that is not there, with a sentence", async () => {
    await expect(hear({ kind: "bus", owner: MIX, from: 5, to: 5, bins: 10 })).rejects.toThrow(
      "The range to measure is empty."
    );
    const gone = { table: "tracks" as const, id: "gone" };
    await expect(hear({ kind: "bus", owner: gone, from: 0, to: 5, bins: 10 })).rejects.toThrow(
      "The track is no longer there."
    );
  });

  it("are cleared away when they have not been used for long", () => {
    clearHeard();
    expect(existsSync(heardIn)).toBe(true);
  });
});

describe("what is heard once", () => {
  it("is examined as it comes to the chain: the whole part, or a stretch of it", async () => {
    const whole = await hear({ kind: "examine", sound: { part: part() } });
    if (whole.last.type !== "findings") throw new Error("Something else was answered.");
    // White noise for more than a minute is a steady noise; it is told with what mends it.
    const found = whole.last.findings.find(({ kind }) => kind === "noise");
    expect(found?.step?.effect).toBe("noise-reduction");
    const within = { from: 0, to: 2 * RATE };
    const short = await hear({ kind: "examine", sound: { part: part(), within } });
    expect(short.last.type).toBe("findings");
  });

  it("is told in mono as it leaves the chain", async () => {
    const turned = [newStep("p", "polarity", { left: false, right: true })];
    const { last } = await hear({
      kind: "mono",
      sound: { part: part(turned), within: { from: 0, to: 4 * RATE } }
    });
    if (last.type !== "mono") throw new Error("Something else was answered.");
    expect(last.mono.correlation).toBeCloseTo(-1, 2);
    expect(last.mono.lossLu === null || last.mono.lossLu < -20).toBe(true);
  });

  it("of the mix: nothing before there is a programme, else the range", async () => {
    const { last } = await hear({ kind: "examine", sound: { owner: MIX, from: 0, to: RATE } });
    expect(last.type).toBe("findings");
    await expect(hear({ kind: "mono", sound: { owner: MIX, from: RATE, to: RATE } })).rejects.toThrow(
      "empty"
    );
  });
});
