// Clips that share one chain: what is done to it is heard in all of them.
import { z } from "zod";
import type { Draft } from "../draft";
import { CommandRefused } from "../refused";
import { idSchema } from "../schema";
import { kind } from "./command";
import { clipsNamed, need, putCopy } from "./lookup";

const id = idSchema;

function giveChain(draft: Draft, clipId: string, chain: string): void {
  const clip = need(draft, "clips", clipId);
  const old = clip.chain;
  if (old === chain) return;
  draft.put("clips", { ...clip, chain });
  if (old !== null && draft.uses("chains", old) === 0) draft.remove("chains", old);
}

/** Clips take another clip's chain, and from then on share it. */
export const chainLink = kind({
  schema: z.object({
    type: z.literal("chain.link"),
    /** The clip whose chain it is. */
    from: id,
    clipIds: z.array(id).min(1)
  }),
  label: (c, doc) => `link the chain of ${clipsNamed(doc, [c.from])} with ${clipsNamed(doc, c.clipIds)}`,
  apply(draft, { from, clipIds }) {
    const { chain, name } = need(draft, "clips", from);
    if (chain === null) throw new CommandRefused(`"${name}" has no chain that could be shared.`);
    for (const clipId of clipIds) giveChain(draft, clipId, chain);
  },
  touches: (c) => c.clipIds.map((clipId) => ({ table: "clips" as const, id: clipId, fields: ["chain"] }))
});

/** A clip gets a copy of the chain that it shared. */
export const chainUnlink = kind({
  schema: z.object({
    type: z.literal("chain.unlink"),
    clipId: id,
    chainId: id,
    /** Ids of the copy's steps. */
    stepIds: z.array(id)
  }),
  label: (c, doc) => `give ${clipsNamed(doc, [c.clipId])} a chain of its own`,
  apply(draft, { clipId, chainId, stepIds }) {
    const { chain: shared, name } = need(draft, "clips", clipId);
    if (shared === null || draft.uses("chains", shared) < 2)
      throw new CommandRefused(`"${name}" shares its chain with no other clip.`);
    const { steps } = need(draft, "chains", shared);
    if (stepIds.length !== steps.length) throw new CommandRefused(`"${name}" has changed meanwhile.`);
    putCopy(draft, steps, chainId, stepIds);
    giveChain(draft, clipId, chainId);
  },
  touches(c, doc) {
    const chain = doc.get("clips", c.clipId)?.chain ?? null;
    return [
      { table: "clips", id: c.clipId, fields: ["chain"] },
      ...(chain === null ? [] : [{ table: "chains" as const, id: chain }])
    ];
  }
});
