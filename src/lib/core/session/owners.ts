// Whom a chain belongs to: a recording, a clip, a track, or the mix.
import { effectOf, needsItsEnds, streams } from "../effects/registry";
import type { Chain, Clip, Entities, Project, Recording, RecipeStep, Step, Track } from "./schema";
import type { Tables } from "./tables";

/** Tables whose entities have a chain. */
export const CHAIN_OWNERS = ["clips", "tracks", "recordings", "project"] as const;
export type OwnerTable = (typeof CHAIN_OWNERS)[number];

/** Who a chain belongs to. */
export interface Owner {
  readonly table: OwnerTable;
  readonly id: string;
}

/** The mix: its chain is a field of the project. */
export const MIX: Owner = { table: "project", id: "project" };

const NO_STEPS: readonly Step[] = [];

/** The steps of a chain; none when it is null or gone. */
export function stepsOfChain(doc: Tables, chain: string | null): readonly Step[] {
  return chain === null ? NO_STEPS : (doc.get("chains", chain)?.steps ?? NO_STEPS);
}

/** Id of the chain that an entity has. */
export function chainIdOf<T extends OwnerTable>(table: T, entity: Entities[T]): string | null {
  return table === "project" ? (entity as Project).mix.chain : (entity as Clip | Track | Recording).chain;
}

/** The entity with another chain. */
export function withChain<T extends OwnerTable>(
  table: T,
  entity: Entities[T],
  chain: string | null
): Entities[T] {
  if (table !== "project") return { ...entity, chain } as Entities[T];
  const project = entity as Project;
  return { ...project, mix: { ...project.mix, chain } } as Entities[T];
}

/** A project whose mix adds nothing of its own: no chain, no gain. */
export function withoutMix(project: Project): Project {
  return { ...project, mix: { ...project.mix, chain: null, gainDb: 0 } };
}

/** The chain of an owner, undefined when it has none. */
export function chainOfOwner(doc: Tables, owner: Owner): Chain | undefined {
  const entity = doc.get(owner.table, owner.id);
  const id = entity && chainIdOf(owner.table, entity);
  return id ? doc.get("chains", id) : undefined;
}

/** The steps of an owner. */
export function stepsOfOwner(doc: Tables, owner: Owner): readonly Step[] {
  return chainOfOwner(doc, owner)?.steps ?? NO_STEPS;
}

/** What an owner is called, as in "add Limiter to …". */
export function ownerName(doc: Tables, owner: Owner): string {
  if (owner.table === "project") return "the mix";
  return doc.get(owner.table, owner.id)?.name ?? "what is gone";
}

/** Why a step cannot be in the chain of such an owner, as a sentence; undefined when it can. */
export function ownerFault(
  table: OwnerTable,
  step: Pick<RecipeStep, "effect" | "params" | "span">
): string | undefined {
  const { name, streamsWith, clipOnly } = effectOf(step.effect);
  if (table === "recordings" && clipOnly)
    return `${name} is for one clip: on a recording it would turn every clip that shows it. Put it on the clip.`;
  if (table === "clips" || table === "recordings") return undefined;
  const where = table === "tracks" ? "a track" : "the mix";
  if (!streams(step)) {
    const way = streamsWith ? ` unless ${streamsWith.why}` : "";
    return `${name} has to hear all of its sound first, so it cannot be on ${where}${way}. It can be on clips${clipOnly ? "" : " and on recordings"}.`;
  }
  if (needsItsEnds(step) && !step.span)
    return `${name} counts from where its sound begins and ends: on ${where} it needs a span. Select a range first.`;
  return undefined;
}
