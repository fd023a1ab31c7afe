// Renders as pages order them: one job for each recording that is made.
import { z } from "zod";
import { idSchema, MAX_STEPS } from "$lib/core/session/schema";

const tail = z.union([z.literal("auto"), z.number().min(0).max(60)]);

export const newRendersSchema = z.discriminatedUnion("into", [
  /** Each clip's chain becomes a recording. */
  z.object({
    into: z.literal("each"),
    clipIds: z.array(idSchema).min(1).max(2000),
    /** How many of the first steps; null: all. */
    upTo: z.number().int().min(1).max(MAX_STEPS).nullable(),
    /** Seconds kept on both sides; "all": the whole recording. */
    handles: z.union([z.literal("all"), z.number().min(0).max(3600)]),
    /** Seconds after that with the chain ringing; "auto": until it is 60 dB down. */
    tail,
    /** Whether clips that show the same stretch, treated alike, get one recording together. */
    shared: z.boolean(),
    /** What the recordings are called; null: after their source and their steps. */
    name: z.string().trim().min(1).max(100).nullable()
  }),
  /** The clips together, as their tracks play them, become one recording on a track of its own. */
  z.object({
    into: z.literal("one"),
    clipIds: z.array(idSchema).min(1).max(2000),
    name: z.string().trim().min(1).max(100).nullable()
  })
]);
export type NewRenders = z.infer<typeof newRendersSchema>;
