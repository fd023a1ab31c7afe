// The chains of several owners seen as one: which steps they have in common, and where they differ.
import type { ParamValue } from "../effects/description";
import { completeParams, effectOf } from "../effects/registry";
import { alignSteps } from "./alignment";
import { alike } from "./equal";
import { chainOfOwner, type Owner } from "./owners";
import type { Step } from "./schema";
import type { Tables } from "./tables";

/** One step in the chain of one owner. */
export interface Place {
  readonly owner: Owner;
  readonly step: Step;
}

/** The same step in the chains of several owners. */
export interface Row {
  /** That of the first owner that has it. */
  readonly step: Step;
  /** Once for every chain: owners that share one are one. */
  readonly places: readonly [Place, ...Place[]];
  /** Chains that do not have it. */
  readonly missing: number;
}

/**
 * The steps of all owners as rows: in the order of the first owner's chain, then those that only others have.
 * Each chain is laid beside the rows so far (`alignSteps`).
 */
export function rowsTogether(doc: Tables, owners: readonly Owner[]): Row[] {
  const rows: [Place, ...Place[]][] = [];
  const chains = new Set<string>();
  let count = 0;
  for (const owner of owners) {
    const chain = chainOfOwner(doc, owner);
    if (chain && chains.has(chain.id)) continue;
    if (chain) chains.add(chain.id);
    count++;
    const steps = chain?.steps ?? [];
    const places = alignSteps(
      rows.map(([{ step }]) => step),
      steps
    );
    for (const [i, step] of steps.entries()) {
      const row = rows[places[i] ?? -1];
      if (row) row.push({ owner, step });
      else rows.push([{ owner, step }]);
    }
  }
  return rows.map((places) => ({
    step: places[0].step,
    places,
    missing: count - places.length
  }));
}

/** Whether a row is on; "mixed" when it is on in some chains only. */
export function rowOn({ step, places }: Row): boolean | "mixed" {
  return places.every((place) => place.step.on === step.on) ? step.on : "mixed";
}

/** Whether the steps of a row treat different parts. */
export function spansDiffer({ step, places }: Row): boolean {
  return !places.every((place) => alike(place.step.span, step.span));
}

/** Ids of the parameters in which the steps of a row differ. */
export function mixedParams({ step, places }: Row): ReadonlySet<string> {
  const mixed = new Set<string>();
  if (places.length < 2) return mixed;
  const effect = effectOf(step.effect);
  const first: Readonly<Record<string, ParamValue>> = completeParams(effect, step.params);
  for (const place of places.slice(1)) {
    const params: Readonly<Record<string, ParamValue>> = completeParams(effect, place.step.params);
    for (const id of Object.keys(first)) if (params[id] !== first[id]) mixed.add(id);
  }
  return mixed;
}

/**
 * Before which step of an owner's chain one must come to stand before a row: that of the row, or of the next row that the chain has.
 * null: at the end.
 */
export function stepBefore(rows: readonly Row[], index: number, owner: Owner): string | null {
  for (const row of rows.slice(Math.max(0, index))) {
    const place = row.places.find((p) => p.owner.id === owner.id && p.owner.table === owner.table);
    if (place) return place.step.id;
  }
  return null;
}
