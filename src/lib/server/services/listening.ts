// Learning and levels of what is long, heard where the sound lies: on a worker thread, by the same core as in the page.
import type { AnalysisJson, LessonJson, ListenLine, ListenWish, StageJson } from "$lib/api/listening";
import { ENGINE_VERSION } from "$lib/core/engineVersion";
import type { MeasurementJson } from "$lib/core/measure/json";
import type { SheetStep } from "$lib/core/render/chainAnalysis";
import { sheetSteps, type Shape } from "$lib/core/render/clipAnalysis";
import { partsToLearn, prePassKey } from "$lib/core/render/prePass";
import type { SoundPart } from "$lib/core/render/soundPart";
import type { Document } from "$lib/core/session/document";
import type { AnalyseTask } from "../jobs/tasks/task";
import { heard, keepHeard, keyOf, pointOf, roomForPoint } from "../media/heard";
import { analyseBus } from "./listenBus";
import { examine, inMono, together } from "./listenOnce";
import { filesOfPart, needPart, run, type Tell } from "./listenTask";
import { loadProject } from "./projects";

/** Longer parts keep their sound before the last step, so that a change of that begins there. */
const POINT_SECONDS = 60;

interface Learning {
  readonly work: Promise<LessonJson>;
  readonly listeners: Set<Tell>;
  readonly stop: AbortController;
}

const learning = new Map<string, Learning>();

/** What the steps of a part learn: kept, or being learnt for someone else already, or learnt now. It goes on as long as anyone listens. */
async function learn(
  document: Document,
  part: SoundPart,
  signal: AbortSignal,
  tell: Tell
): Promise<LessonJson> {
  const key = prePassKey(part, document.sampleRate);
  if (key === undefined) return { learnt: part.steps.map(() => null), sound: false };
  const kept = heard<LessonJson>(keyOf("lesson", key));
  if (kept) return kept;
  let now = learning.get(key);
  if (!now) {
    const listeners = new Set<Tell>();
    const stop = new AbortController();
    const work = filesOfPart(document, part)
      .then((files) =>
        run({ kind: "learn", part, sampleRate: document.sampleRate, files }, stop.signal, (share) =>
          listeners.forEach((listener) => listener(share))
        )
      )
      .then((result) => {
        keepHeard(keyOf("lesson", key), result);
        return result as LessonJson;
      })
      .finally(() => learning.delete(key));
    // Who listens hears of it; when nobody does any more, it is no one's fault.
    work.catch(() => undefined);
    learning.set(key, (now = { work, listeners, stop }));
  }
  const { listeners, stop, work } = now;
  listeners.add(tell);
  const leave = () => {
    listeners.delete(tell);
    if (listeners.size > 0) return;
    learning.delete(key);
    stop.abort();
  };
  signal.addEventListener("abort", leave);
  try {
    return await work;
  } finally {
    signal.removeEventListener("abort", leave);
    listeners.delete(tell);
  }
}

interface Output {
  readonly output: MeasurementJson | null;
  readonly after: readonly number[];
}

/** Keys of what is measured of a part: at its beginning, behind each step that is heard, at the end. */
function keysOf(
  part: SoundPart,
  shape: Shape,
  sampleRate: number,
  bins: number,
  steps: readonly SheetStep[],
  within: PartWish["within"]
) {
  const { recordingId, offset, length, origin, under, inside } = part;
  const recipe = (list: readonly SheetStep[]) =>
    list.map(({ effect, params, span }) => [effect, params, span ?? null]);
  const below = under ? recipe(under.steps.filter((s) => s.on) as SheetStep[]) : [];
  const sound = [ENGINE_VERSION, sampleRate, recordingId, offset, length, origin, below];
  const behind = (count: number) => keyOf("behind", sound, recipe(steps.slice(0, count)));
  const measured = [...(within ? [within.from, within.to] : []), ...(inside ? [inside] : [])];
  return {
    begin: keyOf("begin", sound, bins, ...measured),
    /** Of the sound behind a step, and of its levels. */
    behind,
    levels: (count: number) =>
      measured.length > 0 ? keyOf("levels", behind(count), ...measured) : behind(count),
    output: keyOf(
      "output",
      behind(steps.length),
      shape && [shape.gainDb, shape.fadeIn, shape.fadeOut, ...(shape.line ? [shape.line, shape.offset] : [])],
      bins,
      ...measured
    )
  };
}

type PartWish = Extract<ListenWish, { kind: "part" }>;

interface Begin {
  readonly stage: StageJson;
  readonly before: readonly number[];
}

async function analysePart(
  document: Document,
  { part, shape, bins, within, pictures = {} }: PartWish,
  signal: AbortSignal,
  tell: Tell
): Promise<AnalysisJson> {
  const { sampleRate } = document;
  const steps = sheetSteps(part).filter((step) => step.on);
  const keys = keysOf(part, shape, sampleRate, bins, steps, within);
  const begin = heard<Begin>(keys.begin);
  const stages = steps.map((step, i) => {
    const stage = heard<StageJson>(keys.levels(i + 1));
    return stage && { ...stage, stepId: step.id };
  });
  const end = heard<Output>(keys.output);
  const known = [...(begin ? [begin.stage] : []), ...stages.filter((stage) => stage !== undefined)];
  const all = (fresh: AnalysisJson): AnalysisJson => ({
    stages: [
      begin?.stage ?? fresh.stages.find((s) => s.stepId === null),
      ...steps.map((step, i) => stages[i] ?? fresh.stages.find((s) => s.stepId === step.id))
    ].filter((stage) => stage !== undefined),
    output: fresh.output,
    before: begin?.before ?? fresh.before,
    after: fresh.after,
    ...(fresh.trace ? { trace: fresh.trace } : {}),
    ...(fresh.spectra ? { spectra: fresh.spectra } : {})
  });
  // What is to be drawn has to be heard anew.
  const traced = steps.findIndex((step) => step.id === pictures.traced);
  const drawn = pictures.spectra === true || traced >= 0;
  if (!drawn && begin && end && stages.every((stage) => stage !== undefined))
    return all({ stages: [], output: end.output, before: begin.before, after: end.after });

  const lessons: Record<string, LessonJson["learnt"]> = {};
  const toLearn = partsToLearn(part, sampleRate);
  for (const one of toLearn) {
    const lesson = await learn(document, one, signal, (share) => tell(share / 2));
    const key = prePassKey(one, sampleRate);
    if (key !== undefined && !lesson.sound) lessons[key] = lesson.learnt;
  }
  const long = !part.inside && part.length > POINT_SECONDS * sampleRate;
  // Only what lies behind the first place whose levels are not known can begin at a kept point.
  const firstNew = begin ? stages.findIndex((stage) => stage === undefined) : 0;
  const heardFrom = pictures.spectra ? 0 : traced >= 0 ? traced : steps.length;
  const most = Math.min(firstNew < 0 ? steps.length : firstNew, heardFrom);
  let from: AnalyseTask["from"];
  for (let i = most; long && i > 0 && !from; i--) {
    const file = pointOf(keys.behind(i));
    if (file) from = { file, after: steps[i - 1]?.id ?? "" };
  }
  const last = steps[steps.length - 2];
  const pointKey = keys.behind(steps.length - 1);
  const file = long && last && from?.after !== last.id ? roomForPoint(pointKey, part.length * 8) : undefined;
  const keep = file && last ? { file, after: last.id } : undefined;
  const half = toLearn.length > 0 ? 0.5 : 0;
  const fresh = (await run(
    {
      kind: "analyse",
      what: { part, shape, within },
      sampleRate,
      bins,
      files: await filesOfPart(document, part),
      known: known.map((stage) => stage.stepId),
      lessons,
      pictures,
      from,
      keep
    },
    signal,
    (share, soFar) => tell(half + share * (1 - half), soFar && all(soFar))
  )) as AnalysisJson;
  const result = all(fresh);
  const [first] = result.stages;
  if (!begin && first) keepHeard(keys.begin, { stage: first, before: fresh.before } satisfies Begin);
  steps.forEach((step, i) => {
    const stage = fresh.stages.find((s) => s.stepId === step.id);
    if (stage && !stages[i]) keepHeard(keys.levels(i + 1), stage);
  });
  keepHeard(keys.output, { output: fresh.output, after: fresh.after } satisfies Output);
  return result;
}

/** Does what a page wishes, telling how far it is. @throws UserFault */
export async function listen(
  projectId: string,
  wish: ListenWish,
  signal: AbortSignal,
  tell: Tell
): Promise<ListenLine> {
  const { document } = await loadProject(projectId);
  if ("part" in wish) needPart(document, wish.part);
  switch (wish.kind) {
    case "learn":
      return { type: "lesson", lesson: await learn(document, wish.part, signal, tell) };
    case "part":
      return { type: "analysis", analysis: await analysePart(document, wish, signal, tell) };
    case "examine":
      return examine(document, wish.sound, signal, tell);
    case "mono":
      return inMono(document, wish.sound, signal, tell);
    case "ring": {
      const { sampleRate } = document;
      const files = await filesOfPart(document, wish.part);
      const result = await run({ kind: "ring", part: wish.part, sampleRate, files }, signal, tell);
      return { type: "ring", frames: (result as { frames: number }).frames };
    }
    case "together":
      return together(document, wish.clips, signal, tell);
    case "bus":
      return { type: "analysis", analysis: await analyseBus(document, wish, signal, tell) };
  }
}
