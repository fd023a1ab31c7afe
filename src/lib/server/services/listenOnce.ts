// What is heard once from its beginning to its end: what is wrong with a sound, and what becomes of it in mono.
import type { ListenLine, SoundWish } from "$lib/api/listening";
import type { Finding } from "$lib/core/measure/examine/finding";
import type { MonoView } from "$lib/core/measure/monoLook";
import type { Document } from "$lib/core/session/document";
import { Plan } from "$lib/core/render/graph";
import { sideBySide } from "$lib/core/render/sideBySide";
import { MIX } from "$lib/core/session/owners";
import { UserFault } from "../faults";
import type { HearOnceTask } from "../jobs/tasks/task";
import { busWork, stretchOf } from "./listenBus";
import { filesOfPart, needPart, run, type Bare, type Tell } from "./listenTask";

/** What a task that hears a sound once is given; undefined when there is nothing to hear. */
async function onceWork(document: Document, sound: SoundWish): Promise<Bare<HearOnceTask> | undefined> {
  if ("part" in sound) {
    needPart(document, sound.part);
    const files = await filesOfPart(document, sound.part);
    return { what: sound, sampleRate: document.sampleRate, files };
  }
  const stretch = stretchOf(document, sound);
  return stretch.to > stretch.from ? busWork(document, sound.owner, stretch) : undefined;
}

/** Whether a sound has one channel: the recording that a part shows. */
function channelsOf(document: Document, sound: SoundWish): 1 | 2 {
  if (!("part" in sound)) return 2;
  return document.get("recordings", sound.part.recordingId)?.channels === 1 ? 1 : 2;
}

export async function examine(
  document: Document,
  sound: SoundWish,
  signal: AbortSignal,
  tell: Tell
): Promise<ListenLine> {
  const work = await onceWork(document, sound);
  if (!work) return { type: "findings", findings: [] };
  const channels = channelsOf(document, sound);
  const result = (await run({ kind: "examine", ...work, channels }, signal, tell)) as {
    findings: readonly Finding[];
  };
  return { type: "findings", findings: result.findings };
}

const monoLine = (mono: MonoView): ListenLine => ({
  type: "mono",
  mono: { ...mono, lossLu: Number.isFinite(mono.lossLu) ? mono.lossLu : null }
});

/** Two clips side by side. */
export async function together(
  document: Document,
  [first, second]: readonly [string, string],
  signal: AbortSignal,
  tell: Tell
): Promise<ListenLine> {
  const pair = sideBySide(document, first, second);
  if (!pair) throw new UserFault(422, "These clips do not sound at the same time.");
  const work = await busWork(pair.document, MIX, { plan: new Plan(pair.document), ...pair });
  const { mono } = (await run({ kind: "mono", ...work }, signal, tell)) as { mono: MonoView };
  return monoLine(mono);
}

export async function inMono(
  document: Document,
  sound: SoundWish,
  signal: AbortSignal,
  tell: Tell
): Promise<ListenLine> {
  const work = await onceWork(document, sound);
  if (!work) throw new UserFault(422, "There is nothing to hear yet.");
  const { mono } = (await run({ kind: "mono", ...work }, signal, tell)) as { mono: MonoView };
  return monoLine(mono);
}
