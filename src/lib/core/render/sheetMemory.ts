// What is remembered of the last analysis of a part, so that the next begins where something has changed.
import { MemorySpool } from "../audio/spool";
import { alike } from "../session/equal";
import type { ChainAnalysis, SheetStep, StageLevels } from "./chainAnalysis";
import { sheetSteps, type KeptPoint } from "./clipAnalysis";
import type { SoundPart } from "./soundPart";
import { SpoolStream } from "./spoolStream";

/** The frames of a part whose levels are measured; undefined: all. */
export type Within = { readonly from: number; readonly to: number } | undefined;

interface Remembered {
  readonly part: SoundPart;
  readonly within: Within;
  readonly steps: readonly SheetStep[];
  readonly stages: readonly StageLevels[];
  readonly before: Float32Array;
}

interface Point {
  readonly spool: MemorySpool;
  /** How many steps it lies behind. */
  readonly count: number;
}

/** What is to be drawn beside the levels. */
export interface Pictures {
  /** Id of the step of which a trace is wanted. */
  readonly traced?: string | undefined;
  readonly spectra?: boolean | undefined;
}

/** How an analysis is to be run. */
export interface SheetPlan {
  readonly from?: KeptPoint;
  /** What is known at the kept point is not measured again. */
  readonly measures?: (stepId: string | null) => boolean;
  readonly keep?: { readonly after: string; readonly take: (l: number, r: number, n: number) => void };
}

/** Whether two parts are the same sound before their own steps. */
function sameInput(a: SoundPart, b: SoundPart): boolean {
  const { steps: _a, ...x } = a;
  const { steps: _b, ...y } = b;
  return alike(x, y);
}

function sameStep(a: SheetStep, b: SheetStep): boolean {
  return a.id === b.id && a.effect === b.effect && alike(a.params, b.params) && alike(a.span, b.span);
}

/** Remembers the levels of one part and its sound before the step that was changed last. */
export class SheetMemory {
  #last: Remembered | undefined;
  #point: Point | undefined;
  #next: Point | undefined;

  /** How to analyse a part: from which kept sound on, and what to keep this time. */
  plan(part: SoundPart, within: Within, pictures: Pictures = {}): SheetPlan {
    this.#next?.spool.release();
    this.#next = undefined;
    if (part.inside) {
      this.#forget();
      return {};
    }
    const steps = sheetSteps(part).filter((step) => step.on);
    const last = this.#last && sameInput(this.#last.part, part) ? this.#last : undefined;
    if (!last) this.#forget();
    const same = last ? steps.findIndex((step, i) => !last.steps[i] || !sameStep(step, last.steps[i])) : 0;
    // With nothing changed, or only steps taken off the end, the last step is what will be changed.
    const first = same < 0 ? steps.length - 1 : same;
    const known = last && alike(last.within, within) ? first : 0;
    // What is to be drawn has to be heard.
    const traced = steps.findIndex(({ id }) => id === pictures.traced);
    const most = pictures.spectra ? 0 : traced < 0 ? known : Math.min(known, traced);
    const begin = this.#point && this.#point.count <= most ? this.#point : undefined;
    if (this.#point && this.#point.count > first) this.#forgetPoint();
    // What comes before a new step at the end is as good a place as what comes before the last.
    const wanted = Math.max(0, last ? first : steps.length - 1);
    const after = steps[wanted - 1];
    const keeps = after !== undefined && begin?.count !== wanted;
    if (keeps) this.#next = { spool: new MemorySpool(), count: wanted };
    const spool = this.#next?.spool;
    const behind = begin && steps[begin.count - 1];
    return {
      ...(begin && behind
        ? {
            from: { input: new SpoolStream(begin.spool), after: behind.id },
            measures: (stepId: string | null) => stepId !== null
          }
        : {}),
      ...(after && spool ? { keep: { after: after.id, take: (l, r, n) => spool.append(l, r, n) } } : {})
    };
  }

  /** Completes an analysis that was run by the plan with what was known before, and remembers it. */
  complete(part: SoundPart, within: Within, plan: SheetPlan, fresh: ChainAnalysis): ChainAnalysis {
    const steps = sheetSteps(part).filter((step) => step.on);
    const begun = plan.from ? steps.findIndex(({ id }) => id === plan.from?.after) + 1 : 0;
    const stages =
      begun > 0 ? [...(this.#last?.stages.slice(0, begun + 1) ?? []), ...fresh.stages] : fresh.stages;
    const before = begun > 0 && this.#last ? this.#last.before : fresh.before;
    if (this.#next) {
      this.#forgetPoint();
      this.#point = this.#next;
      this.#next = undefined;
    }
    this.#last = { part, within, steps, stages, before };
    return { ...fresh, stages, before };
  }

  #forgetPoint(): void {
    this.#point?.spool.release();
    this.#point = undefined;
  }

  #forget(): void {
    this.#forgetPoint();
    this.#last = undefined;
  }

  release(): void {
    this.#forget();
    this.#next?.spool.release();
    this.#next = undefined;
  }
}
