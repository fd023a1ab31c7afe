// Renders the mix ahead of the output, a little at a time, so that a change is heard at once.
import { BLOCK, StereoBlock } from "$lib/core/audio/block";
import { Meter } from "$lib/core/measure/meter";
import { audible } from "$lib/core/render/mix";
import { Document } from "$lib/core/session/document";
import type { ResolvedClip } from "$lib/core/session/lookup";
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
// Clips that begin within this time are made ready to sound before playing starts; later ones while it plays.
const PREPARED_SECONDS = 2;
const PREPARED_AHEAD_SECONDS = 30;

let ring: Ring;
let store: ChunkStore;
let sampleRate = 48000;
let document: Document | undefined;
let loop: Loop | null = null;
let producer: Producer | undefined;
let meter: Meter | undefined;
let pending: Document | undefined;
/** The document that the producer plays. */
let playing: Document | undefined;
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
  playing = undefined;
}

function sentence(error: unknown): string {
  return error instanceof Error ? error.message : String(error);
}

/** The audible clips that sound somewhere within [from, from + seconds), and at the loop's start if that comes before its end. */
function sounding(doc: Document, from: number, seconds: number): ResolvedClip[] {
  const to = from + seconds * sampleRate;
  const again = loop !== null && from < loop.to && to >= loop.to ? loop : null;
  const within = (clip: ResolvedClip, begin: number, end: number) =>
    clip.start < end && clip.start + clip.length > begin;
  return audible(doc)
    .map(({ clip }) => clip)
    .filter(
      (clip) =>
        within(clip, from, to) ||
        (again !== null && within(clip, again.from, again.from + (to - again.to) + 1))
    );
}

/** Makes sure that the producer's next frames are at hand. Returns false when playing was stopped or restarted meanwhile. */
async function ready(now: Producer, doc: Document): Promise<boolean> {
  if (safe >= BLOCK) return true;
  const { position } = now;
  const current = () => producer === now;
  if (!(await prepareClips(sounding(doc, position, CHECK_FRAMES / sampleRate), current))) return false;
  const needs = now.needed(CHECK_FRAMES);
  if (!store.hasAll(needs)) await store.ensure(needs);
  if (!current()) return false;
  safe = CHECK_FRAMES;
  // What fails here is asked for again when it is needed, and said then.
  store.ensure(now.needed(PREFETCH_SECONDS * sampleRate)).catch(() => undefined);
  prepareAhead(doc, position).catch(() => undefined);
  return true;
}

let preparingAhead = false;

/** Makes later clips ready while earlier ones sound. */
async function prepareAhead(doc: Document, position: number): Promise<void> {
  if (preparingAhead) return;
  preparingAhead = true;
  try {
    await store.prepare(
      sounding(doc, position, PREPARED_AHEAD_SECONDS),
      () => document === doc && producer !== undefined
    );
  } finally {
    preparingAhead = false;
  }
}

/** Brings about what the steps of clips need before they can sound. False when it is no longer wanted. */
async function prepareClips(clips: readonly ResolvedClip[], wanted: () => boolean): Promise<boolean> {
  if (store.prepared(clips)) return wanted();
  try {
    return await store.prepare(clips, wanted, (share) => send({ type: "preparing", share }));
  } finally {
    send({ type: "preparing", share: null });
  }
}

/** Takes a changed document over once those of its clips that are about to sound can; until then the old one plays on. */
async function offer(doc: Document): Promise<void> {
  store.retain(audible(doc).map(({ clip }) => clip));
  if (!producer) return;
  try {
    const clips = sounding(doc, producer.position, PREPARED_SECONDS);
    if (!(await prepareClips(clips, () => document === doc)) || !producer) return;
    pending = doc;
    over = false;
  } catch (error) {
    refuse(error);
  }
}

async function takeChange(now: Producer, next: Document): Promise<void> {
  const trial = new Producer(next, store, now.position, loop);
  const needs = trial.needed(CHECK_FRAMES);
  trial.release();
  if (!store.hasAll(needs)) await store.ensure(needs);
  if (producer !== now) return;
  if (pending === next) pending = undefined;
  now.update(next);
  playing = next;
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

/** Says that something could not be done; what plays plays on. */
function refuse(error: unknown): void {
  send({ type: "refused", message: sentence(error) });
}

/** Ends playing with a sentence. */
function fail(error: unknown): void {
  const failed = epoch;
  stop();
  if (ring.state === State.playing) ring.state = State.stopping;
  send({ type: "failed", epoch: failed, message: sentence(error) });
}

async function pump(): Promise<void> {
  if (busy || !producer || !meter || over) return;
  busy = true;
  const now = producer;
  try {
    while (producer === now && ring.filled < AHEAD_SECONDS * sampleRate) {
      if (pending) await takeChange(now, pending);
      if (!playing || !(await ready(now, playing)) || producer !== now || !meter) break;
      if (now.ended) {
        over = true;
        send({ type: "ended", epoch, frame: ring.written });
        break;
      }
      one(now, meter);
    }
  } catch (error) {
    fail(error);
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
  const clips = sounding(doc, from, PREPARED_SECONDS);
  try {
    if (!(await prepareClips(clips, () => epoch === wanted))) return;
  } catch (error) {
    if (epoch === wanted) fail(error);
    return;
  }
  over = false;
  safe = 0;
  meter = new Meter(sampleRate);
  producer = new Producer(doc, store, from, loop);
  playing = doc;
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
  const clips = sounding(doc, from, PREPARED_SECONDS);
  // What fails here is asked for again when playing starts, and said then.
  if (!(await store.prepare(clips, () => document === doc && !producer).catch(() => false))) return;
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
      setInterval(() => {
        pump().catch(fail);
      }, PUMP_MS);
      break;
    case "document":
      document = Document.fromJson(data.document);
      offer(document).catch(refuse);
      break;
    case "changes":
      document = document?.with(data.changes);
      if (document) offer(document).catch(refuse);
      break;
    case "loop":
      loop = data.loop;
      producer?.setLoop(loop);
      safe = 0;
      break;
    case "prepare":
      prepare(data.from).catch(refuse);
      break;
    case "play":
      play(data.from, data.epoch).catch(fail);
      break;
    case "stop":
      epoch = -1;
      stop();
      break;
  }
};
