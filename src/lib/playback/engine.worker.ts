// Renders the mix ahead of the output, a little at a time, so that a change is heard at once.
import { BLOCK, StereoBlock } from "$lib/core/audio/block";
import { Meter } from "$lib/core/measure/meter";
import { heard } from "$lib/core/render/mix";
import type { Document } from "$lib/core/session/schema";
import { ChunkStore } from "./chunkStore";
import { Producer, type Loop } from "./producer";
import type { FromEngine, ToEngine } from "./protocol";
import { Ring, State } from "./ring";

// Sound that lies ready: long enough for a busy machine, short enough that a change is heard within 100 ms.
const AHEAD_SECONDS = 0.05;
const PUMP_MS = 6;
// Frames that are checked for presence at once, and frames that are fetched before they are needed.
const CHECK_FRAMES = 16 * BLOCK;
const PREFETCH_SECONDS = 6;

let ring: Ring;
let store: ChunkStore;
let sampleRate = 48000;
let document: Document | undefined;
let loop: Loop | null = null;
let producer: Producer | undefined;
let meter: Meter | undefined;
let pending: Document | undefined;
let epoch = 0;
let safe = 0;
let busy = false;
let over = false;
const block = new StereoBlock(BLOCK);

function send(message: FromEngine): void {
  postMessage(message);
}

function stop(): void {
  producer?.release();
  producer = undefined;
  meter?.release();
  meter = undefined;
  pending = undefined;
}

/** Makes sure that the producer's next frames are at hand. Returns false when playing was stopped or restarted meanwhile. */
async function ready(now: Producer): Promise<boolean> {
  if (safe >= BLOCK) return true;
  const needs = now.needed(CHECK_FRAMES);
  if (!store.hasAll(needs)) await store.ensure(needs);
  if (producer !== now) return false;
  safe = CHECK_FRAMES;
  void store.ensure(now.needed(PREFETCH_SECONDS * sampleRate)).catch(() => undefined);
  return true;
}

/** Brings about what the steps of a document's clips need before they can sound. False when it is no longer wanted. */
async function prepareClips(doc: Document, wanted: () => boolean): Promise<boolean> {
  const clips = heard(doc).map(({ clip }) => clip);
  if (store.prepared(clips)) return wanted();
  try {
    return await store.prepare(clips, wanted, (share) => send({ type: "preparing", share }));
  } finally {
    send({ type: "preparing", share: null });
  }
}

/** Takes a changed document over once its clips can sound; until then the old one plays on. */
async function offer(doc: Document): Promise<void> {
  try {
    if (!(await prepareClips(doc, () => document === doc)) || !producer) return;
    pending = doc;
    over = false;
  } catch (error) {
    send({ type: "failed", message: error instanceof Error ? error.message : String(error) });
  }
}

async function takeChange(now: Producer): Promise<void> {
  const next = pending;
  if (!next) return;
  const trial = new Producer(next, store, now.position, loop);
  const needs = trial.needed(CHECK_FRAMES);
  trial.release();
  if (!store.hasAll(needs)) await store.ensure(needs);
  if (producer !== now) return;
  if (pending === next) pending = undefined;
  now.update(next);
  safe = 0;
}

function one(now: Producer, gauge: Meter): void {
  const position = now.position;
  const frame = ring.written;
  const n = now.next(block.left.ptr, block.right.ptr, BLOCK);
  const tenths = gauge.tenths;
  gauge.push(block.left.ptr, block.right.ptr, n);
  ring.write(block.left.f32, block.right.f32, n);
  safe -= n;
  if (now.position !== position + n)
    send({ type: "mark", epoch, frame: (frame + n) | 0, position: now.position });
  if (gauge.tenths !== tenths) send({ type: "levels", epoch, levels: gauge.live() });
}

async function pump(): Promise<void> {
  if (busy || !producer || !meter || over) return;
  busy = true;
  const now = producer;
  try {
    while (producer === now && ring.filled < AHEAD_SECONDS * sampleRate) {
      if (pending) await takeChange(now);
      if (!(await ready(now)) || producer !== now || !meter) break;
      if (now.ended) {
        over = true;
        send({ type: "ended", epoch, frame: ring.written });
        break;
      }
      one(now, meter);
    }
  } catch (error) {
    stop();
    ring.state = State.stopping;
    send({ type: "failed", message: error instanceof Error ? error.message : String(error) });
  } finally {
    busy = false;
  }
}

async function play(from: number, wanted: number): Promise<void> {
  stop();
  epoch = wanted;
  if (!document) return;
  // The worklet lets the old sound go within 3 ms, then the ring is empty.
  while (ring.state !== State.stopped) {
    await new Promise((resolve) => setTimeout(resolve, 1));
    if (epoch !== wanted) return;
  }
  const doc = document;
  if (!(await prepareClips(doc, () => epoch === wanted))) return;
  over = false;
  safe = 0;
  meter = new Meter(sampleRate);
  producer = new Producer(doc, store, from, loop);
  if (document !== doc) pending = document;
  send({ type: "mark", epoch, frame: ring.written, position: from });
  await pump();
  if (epoch !== wanted || !producer) return;
  ring.state = State.playing;
  send({ type: "started", epoch });
}

async function prepare(from: number): Promise<void> {
  const doc = document;
  if (!doc) return;
  if (!(await prepareClips(doc, () => document === doc && !producer).catch(() => false))) return;
  const trial = new Producer(doc, store, from, loop);
  const needs = trial.needed(sampleRate);
  trial.release();
  await store.ensure(needs).catch(() => undefined);
}

onmessage = ({ data }: MessageEvent<ToEngine>) => {
  switch (data.type) {
    case "init":
      ring = new Ring(data.ring);
      sampleRate = data.sampleRate;
      store = new ChunkStore(sampleRate);
      setInterval(() => void pump(), PUMP_MS);
      break;
    case "document":
      document = data.document;
      void offer(data.document);
      break;
    case "loop":
      loop = data.loop;
      producer?.setLoop(loop);
      safe = 0;
      break;
    case "prepare":
      void prepare(data.from);
      break;
    case "play":
      void play(data.from, data.epoch);
      break;
    case "stop":
      epoch = -1;
      stop();
      break;
  }
};
