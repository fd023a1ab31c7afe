import { BLOCK, StereoBlock } from "$lib/core/audio/block";
import type { SoundStream } from "$lib/core/audio/soundStream";
import { Examiner } from "$lib/core/measure/examine";
import type { Finding } from "$lib/core/measure/examine/finding";
import { MonoLook, type MonoView } from "$lib/core/measure/monoLook";
import { openBus } from "$lib/core/render/busAnalysis";
import { Plan } from "$lib/core/render/graph";
import { openPart } from "$lib/core/render/partStream";
import { insideOf } from "$lib/core/render/soundPart";
import { Document } from "$lib/core/session/document";
import { FileSource } from "../../media/fileSource";
import type { ExamineTask, HearOnceTask, MonoTask, Tick } from "./task";

/** The sound as it comes to the chain, or as it leaves it. */
function open(
  task: HearOnceTask,
  source: FileSource,
  treated: boolean
): { sound: SoundStream; frames: number } {
  const { what, sampleRate } = task;
  if ("part" in what) {
    const part = treated ? what.part : { ...what.part, steps: [] };
    const { from: start, length } = insideOf(part);
    const { from, to } = what.within ?? { from: 0, to: length };
    return { sound: openPart(part, source, sampleRate, start + from), frames: to - from };
  }
  const plan = new Plan(Document.fromJson(what.document));
  const bus = what.busId === plan.mix.id ? plan.mix : plan.bus(what.busId);
  const steps = treated ? bus.steps : [];
  return { sound: openBus(plan, bus, steps, source, what.from), frames: what.to - what.from };
}

interface Listener {
  push(l: number, r: number, n: number): void;
  release(): void;
}

/** Lets someone hear a sound once, from its beginning to its end. */
function hear<L extends Listener, R>(
  task: HearOnceTask,
  treated: boolean,
  tick: Tick,
  listener: (frames: number) => L,
  finish: (listener: L) => R
): R {
  const source = new FileSource(task.files, task.sampleRate);
  const block = new StereoBlock(BLOCK);
  let sound: SoundStream | undefined;
  let who: L | undefined;
  try {
    const opened = open(task, source, treated);
    sound = opened.sound;
    who = listener(opened.frames);
    for (let at = 0; at < opened.frames; at += BLOCK) {
      const n = Math.min(BLOCK, opened.frames - at);
      sound.read(block.left.ptr, block.right.ptr, n);
      who.push(block.left.ptr, block.right.ptr, n);
      tick(at / opened.frames);
    }
    return finish(who);
  } finally {
    for (const used of [sound, who, block]) used?.release();
    source.close();
  }
}

/** What is wrong with a sound as it comes to the chain. */
export function examine(task: ExamineTask, tick: Tick): { findings: Finding[] } {
  return hear(
    task,
    false,
    tick,
    (frames) => new Examiner(task.sampleRate, frames, task.channels, 2),
    (examiner) => ({ findings: examiner.finish() })
  );
}

/** What becomes of a sound, as it leaves the chain, in mono. */
export function inMono(task: MonoTask, tick: Tick): { mono: MonoView } {
  return hear(
    task,
    true,
    tick,
    () => new MonoLook(task.sampleRate),
    (look) => ({ mono: look.finish() })
  );
}
