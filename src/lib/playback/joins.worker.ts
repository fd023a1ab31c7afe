// Listens to where clips meet, off the page's thread: correlations, best places, zero crossings, pops.
import { bestPlace } from "$lib/core/joins/bestPlace";
import { edgesToCheck, inOrder, JoinCheck, type Pop } from "$lib/core/joins/check";
import { soundNeeded, wholeSound, type Stereo } from "$lib/core/joins/clipSound";
import { correlation } from "$lib/core/joins/similarity";
import { commonCrossing, zeroCrossing } from "$lib/core/joins/zeroCrossing";
import { partOf } from "$lib/core/render/soundPart";
import { Document } from "$lib/core/session/document";
import { lanesOf } from "$lib/core/session/lanes";
import { resolveClip, type ResolvedClip } from "$lib/core/session/lookup";
import { ChunkStore } from "./chunkStore";
import type { FromJoins, JoinsAnswers, JoinsQuestion, Pair, ToJoins } from "./joinsProtocol";

/** Two clips cross zero together when they do so within this many frames. */
const SLACK = 2;
/** Edges whose sound is fetched at once. */
const AT_ONCE = 16;

let store: ChunkStore | undefined;
let storeRate = 0;

function say(message: FromJoins): void {
  postMessage(message);
}

/** The sound of a clip as if it went on to both sides. */
async function soundOf(
  from: ChunkStore,
  clip: ResolvedClip,
  sampleRate: number,
  begin: number,
  end: number
): Promise<Stereo> {
  await from.prepare([partOf(clip)], () => true);
  await from.ensure([soundNeeded(clip, sampleRate, begin, end)]);
  return wholeSound(clip, from, sampleRate, begin, end);
}

async function correlations(from: ChunkStore, pairs: readonly Pair[], sampleRate: number): Promise<number[]> {
  const out: number[] = [];
  for (const pair of pairs) {
    const left = await soundOf(from, pair.left, sampleRate, pair.from, pair.to);
    const right = await soundOf(from, pair.right, sampleRate, pair.from, pair.to);
    out.push(correlation(left, right));
  }
  return out;
}

async function check(
  id: number,
  from: ChunkStore,
  json: Extract<JoinsQuestion, { type: "check" }>["document"],
  sampleRate: number
): Promise<readonly Pop[]> {
  const doc = Document.fromJson(json);
  const lanes = lanesOf(
    doc,
    [...doc.values("tracks")].map((track) => track.id)
  );
  const joins = new JoinCheck(doc, lanes, from, sampleRate);
  const pops: Pop[] = [];
  try {
    const edges = edgesToCheck(doc, sampleRate);
    for (let i = 0; i < edges.length; i += AT_ONCE) {
      const some = edges.slice(i, i + AT_ONCE);
      const near = some.flatMap((edge) =>
        joins.around(edge).map((clip) => ({ clip: resolveClip(doc, clip), at: edge.at }))
      );
      await from.prepare(
        near.map(({ clip }) => partOf(clip)),
        () => true
      );
      await from.ensure(
        near.map(({ clip, at }) => soundNeeded(clip, sampleRate, at - joins.reach, at + joins.reach))
      );
      for (const edge of some) {
        const pop = joins.look(edge);
        if (pop) pops.push(pop);
      }
      say({ type: "progress", id, share: Math.min(1, (i + AT_ONCE) / edges.length) });
    }
    return inOrder(pops);
  } finally {
    joins.release();
  }
}

async function answer({ id, sampleRate, question }: ToJoins): Promise<JoinsAnswers[keyof JoinsAnswers]> {
  if (!store || storeRate !== sampleRate) {
    store?.release();
    store = new ChunkStore(sampleRate);
    storeRate = sampleRate;
  }
  const from = store;
  switch (question.type) {
    case "correlations":
      return correlations(from, question.pairs, sampleRate);
    case "best": {
      const { left, right, middle, length, reach } = question;
      const around = reach + length;
      const [begin, end] = [middle - around, middle + around];
      const a = await soundOf(from, left, sampleRate, begin, end);
      const b = await soundOf(from, right, sampleRate, begin, end);
      return bestPlace(a, b, sampleRate, around, length, reach) ?? null;
    }
    case "zero": {
      const { clips, at, reach } = question;
      const [begin, end] = [at - reach - 2, at + reach + 2];
      const sounds: Stereo[] = [];
      for (const clip of clips) sounds.push(await soundOf(from, clip, sampleRate, begin, end));
      const [first, second] = sounds;
      if (!first) return null;
      const found = second
        ? commonCrossing(first, second, at - begin, reach, SLACK)
        : zeroCrossing(first, at - begin, reach);
      return found === undefined ? null : found + begin;
    }
    case "check":
      return check(id, from, question.document, sampleRate);
  }
}

/** One question after the other: they share what is at hand. */
let before: Promise<unknown> = Promise.resolve();

onmessage = ({ data }: MessageEvent<ToJoins>) => {
  before = before.then(() =>
    answer(data).then(
      (found) => say({ type: "answer", id: data.id, answer: found }),
      (error: unknown) =>
        say({ type: "failed", id: data.id, message: error instanceof Error ? error.message : String(error) })
    )
  );
};
