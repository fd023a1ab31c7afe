// Renders the mix ahead of the output, a little at a time, so that a change is heard at once.
import { BLOCK, StereoBlock } from "$lib/core/audio/block";
import { Meter } from "$lib/core/measure/meter";
import { Monitor } from "$lib/core/monitor/monitor";
import { Plan } from "$lib/core/render/graph";
import type { SoundPart } from "$lib/core/render/soundPart";
import { Document } from "$lib/core/session/document";
import { Ahead } from "./ahead";
import { Background } from "./background";
import { AbsentSound, ChunkStore } from "./chunkStore";
import { getBeside } from "./getBeside";
import { learnElsewhere } from "./learnBeside";
import { farLearner } from "./listen";
import { TrackPeaks } from "$lib/core/render/trackPeaks";
import { Producer, type Loop } from "./producer";
import type { FromEngine, ToEngine } from "./protocol";
import { Ring, State } from "./ring";

const PUMP_MS = 4;
// So much lies ready before it starts: what runs for the first time is slow.
const FIRST_SECONDS = 0.06;
// With less ready than this share of what is to be ready nothing is done that can wait.
const SPARING = 0.7;
// So long in a row things are done that can wait: messages come in between.
const SPARE_MS = 10;
// Frames of what can wait that are made at once, and beside each piece however busy it is.
const SPARE_FRAMES = 2 * BLOCK;
const LEAST_SPARE_FRAMES = BLOCK;
// Clips that begin within this time are run in, if they need it.
const RUN_IN_AHEAD_SECONDS = 1.5;
// Frames that are made at once: fewer, and less lies ready that no longer can be changed. The ear guard listens in pieces of this length.
const PIECE = BLOCK / 2;
// Frames that are checked for presence at once, and frames that are fetched before they are needed.
const CHECK_FRAMES = 16 * BLOCK;
const PREFETCH_SECONDS = 6;
// Clips that begin within this time are made ready to sound before playing starts; later ones while it plays.
const PREPARED_SECONDS = 2;
const PREPARED_AHEAD_SECONDS = 30;
// So long a start waits for clips that are being computed before they play as they were.
const PATIENCE_MS = 150;

let ring: Ring;
let store: ChunkStore;
let background: Background;
/** Where it would play from. */
let rest = 0;
let sampleRate = 48000;
let plan: Plan | undefined;
let loop: Loop | null = null;
/** Levels of the tracks, while it plays. */
const peaks = new TrackPeaks();
let producer: Producer | undefined;
let meter: Meter | undefined;
/** What lies between the mix and the ears; it goes on from one play to the next. */
let monitor: Monitor | undefined;
/** Whether something was changed while nothing sounded. */
let changedAtRest = false;
/** Whether the plan has changed and what changed can sound. */
let pending = false;
let epoch = 0;
let safe = 0;
let busy = false;
let over = false;
/** Frames within which what begins can be run in: its sound is at hand. */
let reach = 0;
const ahead = new Ahead();
const block = new StereoBlock(BLOCK);

function send(message: FromEngine): void {
  postMessage(message);
}

function stop(): void {
  producer?.release();
  producer = undefined;
  meter?.release();
  meter = undefined;
  pending = false;
}

function sentence(error: unknown): string {
  return error instanceof Error ? error.message : String(error);
}

/** What sounds somewhere within [from, from + seconds), and at the loop's start if the loop's end comes before. */
function sounding(now: Plan, from: number, seconds: number): SoundPart[] {
  const to = from + seconds * sampleRate;
  const parts = now.parts(from, to);
  if (!loop || from >= loop.to || to < loop.to) return parts;
  return [...parts, ...now.parts(loop.from, loop.from + (to - loop.to) + 1)];
}

/** Makes sure that the producer's next frames are at hand. Returns false when playing was stopped or restarted meanwhile. */
async function ready(now: Producer, what: Plan): Promise<boolean> {
  if (safe >= BLOCK) return true;
  const { position } = now;
  const current = () => producer === now;
  // A clip whose change still has something to learn sounds on as it was: only what begins is waited for.
  if (!(await prepareParts(what, now.parts(CHECK_FRAMES), current, []))) return false;
  const needs = now.needed(CHECK_FRAMES);
  if (!store.hasAll(needs)) await store.ensure(needs);
  if (!current()) return false;
  safe = CHECK_FRAMES;
  const far = RUN_IN_AHEAD_SECONDS * sampleRate;
  reach = store.hasAll(now.needed(far)) && store.prepared(now.parts(far), what.asked()) ? far : 0;
  // What fails here is asked for again when it is needed, and said then.
  store.ensure(now.needed(PREFETCH_SECONDS * sampleRate)).catch(() => undefined);
  prepareAhead(what, position).catch(() => undefined);
  return true;
}

let preparingAhead = false;

/** Makes later clips ready while earlier ones sound. */
async function prepareAhead(what: Plan, position: number): Promise<void> {
  if (preparingAhead) return;
  preparingAhead = true;
  try {
    const doc = what.document;
    await store.prepare(
      sounding(what, position, PREPARED_AHEAD_SECONDS),
      () => what.document === doc && producer !== undefined
    );
  } finally {
    preparingAhead = false;
  }
}

/** Brings about what steps need before they can sound. False when it is no longer wanted. */
async function prepareParts(
  what: Plan,
  parts: readonly SoundPart[],
  wanted: () => boolean,
  asked: readonly string[] = what.asked()
): Promise<boolean> {
  if (store.prepared(parts, asked)) return wanted();
  try {
    return await store.prepare(parts, wanted, (share) => send({ type: "preparing", share }), asked);
  } finally {
    send({ type: "preparing", share: null });
  }
}

/** Takes a change over once what is about to sound can; until then what played plays on. */
async function offer(what: Plan): Promise<void> {
  if (!producer) return;
  const doc = what.document;
  try {
    const parts = sounding(what, producer.position, PREPARED_SECONDS);
    if (!(await prepareParts(what, parts, () => what.document === doc)) || !producer) return;
    // With what will have been read by the time that it is here.
    const at = producer.position;
    const needs = what.needed(at, at + 4 * CHECK_FRAMES);
    if (!store.hasAll(needs)) await store.ensure(needs);
    if (what.document !== doc) return;
    pending = true;
    over = false;
    ring.over = false;
    await pump();
  } catch (error) {
    if (silenced(what, error)) await offer(what);
    else refuse(error);
  }
}

/** Goes over to the plan, or offers it anew: nothing is waited for here, since what lies ready runs out. */
function takeChange(now: Producer, what: Plan): void {
  pending = false;
  // Changed once more meanwhile, or further on: what sounds now may have something to learn, or not be here.
  const prepared = store.prepared(sounding(what, now.position, CHECK_FRAMES / sampleRate), what.asked());
  if (!prepared || !store.hasAll(what.needed(now.position, now.position + CHECK_FRAMES))) {
    offer(what).catch(refuse);
    return;
  }
  now.update();
  monitor?.changed();
  safe = 0;
  reach = 0;
}

/** Milliseconds spent on the mix, and frames that came of it, since it was told last. */
const work = { spent: 0, frames: 0 };

/** Share of one core that the mix takes. */
function takeLoad(): number {
  const load = work.frames > 0 ? work.spent / ((work.frames / sampleRate) * 1000) : 0;
  work.spent = work.frames = 0;
  return load;
}

function one(now: Producer, gauge: Meter): void {
  const position = now.position;
  const frame = ring.written;
  const begin = performance.now();
  const n = now.next(block.left.ptr, block.right.ptr, PIECE);
  work.spent += performance.now() - begin;
  work.frames += n;
  const tenths = gauge.tenths;
  gauge.push(block.left.ptr, block.right.ptr, n);
  monitor?.process(block.left.ptr, block.right.ptr, n);
  ring.write(block.left.f32, block.right.f32, n);
  safe -= n;
  if (now.position !== position + n)
    send({ type: "mark", epoch, frame: (frame + n) | 0, position: now.position });
  now.advance(LEAST_SPARE_FRAMES, reach);
  if (gauge.tenths === tenths) return;
  const load = takeLoad();
  ahead.look(ring.takeLeast() / sampleRate, load);
  send({
    type: "levels",
    epoch,
    levels: gauge.live(),
    tracks: peaks.take(),
    easedDb: monitor?.easedDb ?? 0,
    load
  });
}

/** Does what can wait while enough lies ready. */
function useSpareTime(now: Producer): void {
  const end = performance.now() + SPARE_MS;
  while (ring.filled > SPARING * ahead.seconds * sampleRate && performance.now() < end)
    if (now.advance(SPARE_FRAMES, reach)) return;
}

/** Says that something could not be done; what plays plays on. */
function refuse(error: unknown): void {
  send({ type: "refused", message: sentence(error) });
}

/** Lets the clips of a recording be silent whose audio cannot be had, and says so. False when that is not what is wrong. */
function silenced(what: Plan, error: unknown): boolean {
  if (!(error instanceof AbsentSound) || !what.leaveOut(error.recordingId)) return false;
  refuse(`${error.message} Its clips are silent.`);
  return true;
}

/** Ends playing with a sentence. */
function fail(error: unknown): void {
  const failed = epoch;
  stop();
  if (ring.state === State.playing) ring.state = State.stopping;
  send({ type: "failed", epoch: failed, message: sentence(error) });
}

/** @param least seconds that are made ready at least */
async function pump(least = 0): Promise<void> {
  if (busy || !producer || !meter || over) return;
  busy = true;
  const now = producer;
  try {
    // What is to be heard differently begins behind what lies ready: it is not let grow first.
    if (pending && plan && now.settled) takeChange(now, plan);
    while (producer === now && ring.filled < Math.max(least, ahead.seconds) * sampleRate) {
      if (!plan) break;
      if (pending && now.settled) takeChange(now, plan);
      if (!(await ready(now, plan)) || producer !== now || !meter) break;
      if (now.ended) {
        over = true;
        ring.over = true;
        send({ type: "ended", epoch, frame: ring.written });
        break;
      }
      one(now, meter);
    }
    if (producer === now && !over) useSpareTime(now);
  } catch (error) {
    if (plan && producer === now && silenced(plan, error)) {
      now.update();
      safe = reach = 0;
    } else fail(error);
  } finally {
    busy = false;
  }
}

/** Fetches and learns what a start needs: "again" without a recording that cannot be had, "no" when it is no longer wanted or has failed. */
async function fetchStart(what: Plan, from: number, wanted: number): Promise<"ready" | "again" | "no"> {
  try {
    const parts = sounding(what, from, PREPARED_SECONDS);
    if (!(await prepareParts(what, parts, () => epoch === wanted))) return "no";
    const needs = what.needed(from, from + CHECK_FRAMES);
    if (!store.hasAll(needs)) await store.ensure(needs);
    return epoch === wanted ? "ready" : "no";
  } catch (error) {
    if (epoch !== wanted) return "no";
    if (silenced(what, error)) return "again";
    fail(error);
    return "no";
  }
}

async function play(from: number, wanted: number, until: number | null): Promise<void> {
  stop();
  epoch = wanted;
  const what = plan;
  if (!what) return;
  // The worklet lets the old sound go within 3 ms, then the ring is empty.
  while (ring.state !== State.stopped) {
    await new Promise((resolve) => setTimeout(resolve, 1));
    if (epoch !== wanted) return;
  }
  rest = from;
  await Promise.race([background.idle, new Promise((resolve) => setTimeout(resolve, PATIENCE_MS))]);
  if (epoch !== wanted) return;
  // What could not be had may be there again.
  what.takeBack();
  let state = await fetchStart(what, from, wanted);
  while (state === "again") state = await fetchStart(what, from, wanted);
  if (state === "no") return;
  over = false;
  ring.over = false;
  ring.takeLeast();
  safe = reach = 0;
  try {
    meter = new Meter(sampleRate);
    producer = new Producer(what, store, from, loop, until, peaks);
    if (changedAtRest) monitor?.changed();
    changedAtRest = false;
  } catch (error) {
    fail(error);
    return;
  }
  send({ type: "mark", epoch, frame: ring.written, position: from });
  await pump(FIRST_SECONDS);
  if (epoch !== wanted || !producer) return;
  ring.state = State.playing;
  send({ type: "started", epoch });
}

async function prepare(from: number): Promise<void> {
  rest = from;
  const what = plan;
  if (!what) return;
  const doc = what.document;
  const parts = sounding(what, from, PREPARED_SECONDS);
  // What fails here is asked for again when playing starts, and said then.
  if (!(await store.prepare(parts, () => what.document === doc && !producer).catch(() => false))) return;
  await store.ensure(what.needed(from, from + sampleRate)).catch(() => undefined);
}

onmessage = ({ data }: MessageEvent<ToEngine>) => {
  switch (data.type) {
    case "init":
      ring = new Ring(data.ring);
      sampleRate = data.sampleRate;
      store = new ChunkStore(sampleRate, learnElsewhere(sampleRate, farLearner(data.projectId)), getBeside());
      background = new Background(
        () => plan,
        store,
        () => producer?.position ?? rest,
        {
          oncomputing: (clipIds, share) => send({ type: "computing", clipIds, share }),
          onready: () => {
            if (plan) offer(plan).catch(refuse);
          }
        }
      );
      monitor = new Monitor(sampleRate);
      setInterval(() => {
        pump().catch(fail);
      }, PUMP_MS);
      break;
    case "document":
      plan = new Plan(Document.fromJson(data.document));
      break;
    case "changes": {
      if (!plan) break;
      const before = plan.document;
      plan.update(before.with(data.changes), data.changes);
      background.changed(before, data.changes);
      if (!producer) changedAtRest = true;
      offer(plan).catch(refuse);
      break;
    }
    case "background":
      background.on = data.on;
      break;
    case "loop":
      loop = data.loop;
      producer?.setLoop(loop);
      safe = reach = 0;
      break;
    case "monitor":
      monitor?.set(data.setting);
      break;
    case "prepare":
      prepare(data.from).catch(refuse);
      break;
    case "play":
      play(data.from, data.epoch, data.until).catch(fail);
      break;
    case "stop":
      epoch = -1;
      stop();
      break;
  }
};
