// What is delivered: each item becomes one file.
import { z } from "zod";
import { Plan } from "../render/graph";
import { soundingEnd } from "../render/ringOut";
import { resolveClip, tracksInOrder } from "../session/lookup";
import { Document } from "../session/document";
import { withoutMix } from "../session/owners";
import { newClip } from "../session/make";
import { idSchema, MAX_FRAMES } from "../session/schema";

const frame = z.number().int().min(0).max(MAX_FRAMES);

/** What a page asks for. */
export const wantedSchema = z.discriminatedUnion("what", [
  z.object({ what: z.literal("mix") }),
  z.object({ what: z.literal("range"), from: frame, to: frame }),
  z.object({ what: z.literal("sections"), ids: z.array(idSchema).max(1000) }),
  z.object({ what: z.literal("tracks"), ids: z.array(idSchema).max(1000) }),
  z.object({ what: z.literal("clips"), ids: z.array(idSchema).max(2000) }),
  z.object({ what: z.literal("recordings"), ids: z.array(idSchema).max(2000) }),
  /** The sound of recordings of videos, back in their videos. */
  z.object({ what: z.literal("videos"), ids: z.array(idSchema).max(200) })
]);
export type Wanted = z.infer<typeof wantedSchema>;

/** What sounds in a file, and from where to where on the timeline. */
export const itemSchema = z.object({
  sound: z.enum(["mix", "track", "clip", "recording", "video"]),
  /** Id of the track, clip or recording; of the section where the mix is cut by one; else empty. */
  id: z.string(),
  /** What it is called. */
  name: z.string(),
  from: frame,
  to: frame
});
export type DeliveryItem = z.infer<typeof itemSchema>;

/**
 * The items that are wanted, in the order of the timeline or the list; those that are not there any more are left out.
 * Stems of tracks are all as long as the programme, so that they fit together.
 */
export function itemsOf(document: Document, wanted: Wanted): DeliveryItem[] {
  const end = new Plan(document).end;
  switch (wanted.what) {
    case "mix":
      return end > 0 ? [{ sound: "mix", id: "", name: "mix", from: 0, to: end }] : [];
    case "range":
      return wanted.to > wanted.from
        ? [{ sound: "mix", id: "", name: "range", from: wanted.from, to: wanted.to }]
        : [];
    case "sections":
      return [...document.values("sections")]
        .filter(({ id }) => wanted.ids.includes(id))
        .sort((a, b) => a.start - b.start || (a.id < b.id ? -1 : 1))
        .map(({ id, name, start, length }) => ({ sound: "mix", id, name, from: start, to: start + length }));
    case "tracks":
      return tracksInOrder(document)
        .filter(({ id }) => wanted.ids.includes(id) && end > 0)
        .map(({ id, name }) => ({ sound: "track", id, name, from: 0, to: end }));
    case "clips":
      return (
        wanted.ids
          .flatMap((id) => document.get("clips", id) ?? [])
          .sort((a, b) => a.start - b.start || (a.id < b.id ? -1 : 1))
          // One that rings out is delivered with what rings.
          .map((clip) => ({
            sound: "clip",
            id: clip.id,
            name: clip.name,
            from: clip.start,
            to: soundingEnd(resolveClip(document, clip), document.sampleRate)
          }))
      );
    case "recordings":
      return wanted.ids
        .flatMap((id) => document.get("recordings", id) ?? [])
        .map(({ id, name, frames }) => ({ sound: "recording", id, name, from: 0, to: frames }));
    case "videos":
      return wanted.ids
        .flatMap((id) => document.get("recordings", id) ?? [])
        .filter(({ about }) => (about?.video ?? null) !== null)
        .map(({ id, name, frames }) => ({ sound: "video", id, name, from: 0, to: frames }));
  }
}

/**
 * A document whose mix is what an item sounds like: of a track what it gives to the mix, with its chain, gain and pan; of a clip or a recording what
 * its own steps, gain and fades make of it. The mix's chain and gain are heard in files of the mix alone, so stems add up to what the mix's
 * chain is given.
 */
export function documentOfItem(document: Document, { sound, id }: DeliveryItem): Document {
  if (sound === "mix") return document;
  // A video's sound is that of its recording.
  const json = document.toJson();
  const project = [withoutMix(document.project)];
  const alone = {
    gainDb: 0,
    pan: 0,
    muted: false,
    solo: false,
    chain: null,
    gainLine: null,
    panLine: null
  };
  if (sound === "track") {
    const tracks = [...document.values("tracks")].map((track) => ({
      ...track,
      solo: false,
      muted: track.id !== id
    }));
    return Document.fromJson({ ...json, project, tracks });
  }
  const clip = sound === "clip" ? document.get("clips", id) : undefined;
  const [first] = tracksInOrder(document);
  const trackId = clip?.track ?? first?.id ?? "alone";
  const track = {
    ...(document.get("tracks", trackId) ?? { id: trackId, name: "Alone", order: 1 }),
    ...alone
  };
  const recording = document.get("recordings", id);
  const clips = clip
    ? [{ ...clip, muted: false }]
    : recording
      ? [newClip("alone", trackId, recording, 0)]
      : [];
  return Document.fromJson({ ...json, project, tracks: [track], clips });
}

/** Ids of the recordings that an item's sound is read from. */
export function recordingsOfItem(document: Document, item: DeliveryItem): string[] {
  return new Plan(documentOfItem(document, item)).recordings(item.from, item.to);
}

/** Ending of a video's file; undefined where an item is none. */
export function videoEnding(document: Document, { sound, id }: DeliveryItem): string | undefined {
  return sound === "video" ? document.get("recordings", id)?.about?.video?.container : undefined;
}
