// Finding what a command names, or refusing it.
import { z } from "zod";
import type { Draft } from "../draft";
import { resolveClip, type ResolvedClip } from "../lookup";
import { newChain } from "../make";
import {
  CHAIN_OWNERS,
  chainIdOf,
  ownerFault,
  ownerName,
  stepsOfChain,
  withChain,
  type Owner
} from "../owners";
import { CommandRefused } from "../refused";
import {
  idSchema,
  type Chain,
  type Clip,
  type Entities,
  type Step,
  type TableName,
  type Track
} from "../schema";
import type { Tables } from "../tables";

export const ownerSchema = z.object({ table: z.enum(CHAIN_OWNERS), id: idSchema });

const GONE: Record<TableName, string> = {
  project: "The project is no longer there.",
  tracks: "The track is no longer there.",
  clips: "The clip is no longer there.",
  chains: "The chain is no longer there.",
  recordings: "The recording is no longer in this project.",
  sections: "The section is no longer there."
};

/** @throws CommandRefused */
export function need<T extends TableName>(doc: Tables, table: T, id: string): Entities[T] {
  const found = doc.get(table, id);
  if (!found) throw new CommandRefused(GONE[table]);
  return found;
}

export const needTrack = (doc: Tables, id: string): Track => need(doc, "tracks", id);
export const needClip = (doc: Tables, id: string): ResolvedClip => resolveClip(doc, need(doc, "clips", id));

/** Refuses an id that is already taken. */
export function needNew(doc: Tables, table: TableName, id: string): void {
  if (doc.get(table, id)) throw new CommandRefused(`There is already one of the ${table} with that id.`);
}

/** "Engineer 2", or "3 clips". */
export function clipsNamed(doc: Tables, ids: readonly string[]): string {
  const [first] = ids;
  return ids.length === 1 && first !== undefined
    ? (doc.get("clips", first)?.name ?? "clip")
    : `${ids.length} clips`;
}

/** Frames that the window of a clip may show: those of its recording. */
export function needWindow(doc: Tables, clip: Clip): void {
  const recording = need(doc, "recordings", clip.content.recordingId);
  if (clip.offset + clip.length > recording.frames)
    throw new CommandRefused(`"${clip.name}" would reach beyond the end of its recording.`);
}

/** The chain of an owner, and what the owner is called. `chain` undefined: it has none yet. */
export function chainOf(doc: Tables, owner: Owner): { chain: Chain | undefined; name: string } {
  const id = chainIdOf(owner.table, need(doc, owner.table, owner.id));
  return { chain: id === null ? undefined : doc.get("chains", id), name: ownerName(doc, owner) };
}

export function needStep(
  doc: Tables,
  owner: Owner,
  stepId: string
): { chain: Chain; step: Step; name: string } {
  const { chain, name } = chainOf(doc, owner);
  const step = chain?.steps.find((s) => s.id === stepId);
  if (!chain || !step)
    throw new CommandRefused(
      `${owner.table === "project" ? "The mix" : `"${name}"`} no longer has that step.`
    );
  return { chain, step, name };
}

/** Gives an owner's chain these steps; makes the chain when there is none, and takes it away when it is empty and no one else's. */
export function setSteps(draft: Draft, owner: Owner, steps: readonly Step[], newId: string): void {
  const entity = need(draft, owner.table, owner.id);
  const { chain } = chainOf(draft, owner);
  for (const step of steps) {
    const fault = chain?.steps.includes(step) ? undefined : ownerFault(owner.table, step);
    if (fault) throw new CommandRefused(fault);
  }
  if (chain && (steps.length > 0 || draft.uses("chains", chain.id) > 1)) {
    draft.put("chains", { ...chain, steps: [...steps] });
    return;
  }
  if (steps.length > 0) {
    needNew(draft, "chains", newId);
    draft.put("chains", newChain(newId, steps));
  }
  draft.put(owner.table, withChain(owner.table, entity, steps.length > 0 ? newId : null));
  if (chain) draft.remove("chains", chain.id);
}

/** Puts a copy of steps as a chain of its own; returns its id. */
export function putCopy(
  draft: Draft,
  steps: readonly Step[],
  chainId: string,
  stepIds: readonly string[]
): string {
  needNew(draft, "chains", chainId);
  draft.put(
    "chains",
    newChain(
      chainId,
      steps.map((step, i) => ({ ...step, id: stepIds[i] ?? step.id }))
    )
  );
  return chainId;
}

/** Fields of a clip's window. */
export const WINDOW = ["start", "offset", "length"];

/** Ids of what a command makes anew, the same wherever it is applied. */
export class Ids {
  #count = 0;

  constructor(private readonly seed: string) {}

  next(): string {
    return `${this.seed}-${++this.#count}`;
  }
}

/** A first part of an id: what is made from it must still be one. */
export const seedSchema = z.string().regex(/^[A-Za-z0-9_-]{1,48}$/, "is not an id");

/** Puts a clip that was cut off another under an id of its own, with a copy of the other's chain. */
export function putPart(draft: Draft, part: Clip, ids: Ids): Clip {
  const id = ids.next();
  needNew(draft, "clips", id);
  const steps = stepsOfChain(draft, part.chain);
  const chain =
    steps.length > 0
      ? putCopy(
          draft,
          steps,
          ids.next(),
          steps.map(() => ids.next())
        )
      : null;
  const made = { ...part, id, chain };
  draft.put("clips", made);
  return made;
}

/** Removes the chain of what has gone, when no one else has it. */
export function dropChain(draft: Draft, chain: string | null): void {
  if (chain !== null && draft.uses("chains", chain) === 0) draft.remove("chains", chain);
}

/** Removes a clip, and its chain when no one else has it. */
export function dropClip(draft: Draft, clip: Clip): void {
  draft.remove("clips", clip.id);
  dropChain(draft, clip.chain);
}
