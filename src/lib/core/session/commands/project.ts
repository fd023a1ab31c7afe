import { z } from "zod";
import { recordingsOf } from "../../effects/registry";
import { CommandRefused } from "../refused";
import { idSchema, projectSchema, recordingSchema, sectionSchema, trackSchema } from "../schema";
import { tracksInOrder } from "../lookup";
import { recordingsOfVersion } from "../references";
import type { Tables } from "../tables";
import { kind } from "./command";
import { dropChain, dropClip, need, needNew, needTrack } from "./lookup";

const id = idSchema;

export const projectRename = kind({
  schema: z.object({ type: z.literal("project.rename"), name: projectSchema.shape.name }),
  label: () => "rename project",
  apply(draft, c) {
    draft.put("project", { ...need(draft, "project", "project"), name: c.name });
  }
});

export const mixSet = kind({
  schema: z.object({ type: z.literal("mix.set"), gainDb: projectSchema.shape.mix.shape.gainDb }),
  label: () => "gain of the mix",
  apply(draft, { gainDb }) {
    const project = need(draft, "project", "project");
    draft.put("project", { ...project, mix: { ...project.mix, gainDb } });
  }
});

export const recordingAdd = kind({
  schema: z.object({ type: z.literal("recording.add"), recording: recordingSchema }),
  label: (c) => `import ${c.recording.name}`,
  apply(draft, c) {
    if (draft.get("recordings", c.recording.id))
      throw new CommandRefused(`"${c.recording.name}" is already in this project.`);
    draft.put("recordings", c.recording);
  }
});

export const recordingSet = kind({
  schema: z.object({
    type: z.literal("recording.set"),
    recordingIds: z.array(id).min(1).max(2000),
    name: recordingSchema.shape.name.optional(),
    folder: z.string().max(400).optional(),
    labels: recordingSchema.shape.labels
  }),
  label(c, doc) {
    const [first] = c.recordingIds;
    const what =
      c.recordingIds.length === 1
        ? (doc.get("recordings", first ?? "")?.name ?? "recording")
        : `${c.recordingIds.length} recordings`;
    if (c.name !== undefined) return `rename ${what}`;
    return c.folder !== undefined ? `move ${what} on the shelf` : `label ${what}`;
  },
  apply(draft, { recordingIds, name, folder, labels }) {
    for (const recordingId of recordingIds) {
      const recording = need(draft, "recordings", recordingId);
      draft.put("recordings", {
        ...recording,
        name: name ?? recording.name,
        ...(folder === undefined ? {} : { folder }),
        ...(labels === undefined ? {} : { labels: [...new Set(labels)] })
      });
    }
  }
});

/** Names of the clips that show a recording, play its render, or treat with it, and of whatever else treats with it. */
function usersOf(doc: Tables, recordingId: string): string[] {
  const chains = new Set<string>();
  for (const chain of doc.values("chains"))
    if (chain.steps.some((step) => recordingsOf(step).includes(recordingId))) chains.add(chain.id);
  const has = (chain: string | null) => chain !== null && chains.has(chain);
  const clips = [...doc.values("clips")].filter(
    (clip) =>
      clip.content.recordingId === recordingId ||
      clip.render?.recordingId === recordingId ||
      has(clip.chain) ||
      clip.versions?.some((version) => recordingsOfVersion(version).includes(recordingId))
  );
  const tracks = [...doc.values("tracks")].filter((track) => has(track.chain));
  const recordings = [...doc.values("recordings")].filter((one) => has(one.chain));
  const mix = has(doc.get("project", "project")?.mix.chain ?? null) ? ["the mix"] : [];
  return [...[...clips, ...tracks, ...recordings].map(({ name }) => `"${name}"`).sort(), ...mix];
}

const MOST_NAMES = 5;

/** @throws CommandRefused when something needs the recording */
function needUnused(doc: Tables, { id: recordingId, name }: { id: string; name: string }): void {
  if (doc.uses("recordings", recordingId) === 0) return;
  const users = usersOf(doc, recordingId);
  const more = users.length > MOST_NAMES ? ` and ${users.length - MOST_NAMES} more` : "";
  throw new CommandRefused(`"${name}" is used by ${users.slice(0, MOST_NAMES).join(", ")}${more}.`);
}

/** Recordings that nothing uses go into the bin, where they lie for 30 days, or come back out of it. */
export const recordingBin = kind({
  schema: z.object({
    type: z.literal("recording.bin"),
    recordingIds: z.array(id).min(1).max(5000),
    /** When, in milliseconds since 1970; null: out of the bin. */
    at: z.number().int().min(0).nullable()
  }),
  label(c, doc) {
    const [first = ""] = c.recordingIds;
    const what =
      c.recordingIds.length === 1
        ? (doc.get("recordings", first)?.name ?? "recording")
        : `${c.recordingIds.length} recordings`;
    return c.at === null ? `put ${what} back on the shelf` : `move ${what} to the bin`;
  },
  apply(draft, { recordingIds, at }) {
    for (const recordingId of recordingIds) {
      const recording = need(draft, "recordings", recordingId);
      if (at !== null) needUnused(draft, recording);
      const { binned: _binned, ...rest } = recording;
      draft.put("recordings", at === null ? rest : { ...rest, binned: at });
    }
  }
});

export const recordingRemove = kind({
  schema: z.object({ type: z.literal("recording.remove"), recordingId: id }),
  label: (c, doc) => `take ${doc.get("recordings", c.recordingId)?.name ?? "recording"} off the shelf`,
  apply(draft, c) {
    const recording = need(draft, "recordings", c.recordingId);
    needUnused(draft, recording);
    draft.remove("recordings", recording.id);
    dropChain(draft, recording.chain);
  }
});

export const trackAdd = kind({
  schema: z.object({ type: z.literal("track.add"), track: trackSchema }),
  label: (c) => `add track ${c.track.name}`,
  apply(draft, c) {
    needNew(draft, "tracks", c.track.id);
    if (c.track.chain !== null) throw new CommandRefused("A new track begins without a chain.");
    draft.put("tracks", c.track);
  }
});

export const trackRemove = kind({
  schema: z.object({ type: z.literal("track.remove"), trackId: id }),
  label: (c, doc) => `remove track ${needTrack(doc, c.trackId).name}`,
  apply(draft, c) {
    const track = needTrack(draft, c.trackId);
    if (draft.uses("tracks", track.id) > 0)
      for (const clip of [...draft.values("clips")]) if (clip.track === track.id) dropClip(draft, clip);
    draft.remove("tracks", track.id);
    dropChain(draft, track.chain);
  }
});

/** Gives a track another place among the tracks. */
export const trackMove = kind({
  schema: z.object({
    type: z.literal("track.move"),
    trackId: id,
    /** The track that it comes to lie above; null: below all. */
    before: id.nullable()
  }),
  label: (c, doc) => `move track ${needTrack(doc, c.trackId).name}`,
  apply(draft, c) {
    const track = needTrack(draft, c.trackId);
    const others = tracksInOrder(draft).filter(({ id: other }) => other !== track.id);
    const at = c.before === null ? others.length : others.findIndex(({ id: other }) => other === c.before);
    if (at < 0) throw new CommandRefused("The track that it was to lie above is no longer there.");
    const [above, below] = [others[at - 1]?.order, others[at]?.order];
    const order =
      above === undefined ? (below ?? 1) - 1 : below === undefined ? above + 1 : (above + below) / 2;
    if (order !== above && order !== below) {
      draft.put("tracks", { ...track, order });
      return;
    }
    // No number lies between: all get new ones.
    [...others.slice(0, at), track, ...others.slice(at)].forEach((one, i) =>
      draft.put("tracks", { ...one, order: i + 1 })
    );
  }
});

export const trackSet = kind({
  schema: z.object({
    type: z.literal("track.set"),
    trackId: id,
    name: trackSchema.shape.name.optional(),
    gainDb: trackSchema.shape.gainDb.optional(),
    pan: trackSchema.shape.pan.optional(),
    muted: z.boolean().optional(),
    solo: z.boolean().optional(),
    role: trackSchema.shape.role,
    gainLine: trackSchema.shape.gainLine,
    panLine: trackSchema.shape.panLine
  }),
  label(c, doc) {
    const track = needTrack(doc, c.trackId);
    if (c.role !== undefined) return `role of ${track.name}`;
    if (c.gainLine !== undefined) return `gain line of ${track.name}`;
    if (c.panLine !== undefined) return `pan line of ${track.name}`;
    if (c.gainDb !== undefined) return `gain of ${track.name}`;
    if (c.pan !== undefined) return `pan of ${track.name}`;
    if (c.muted !== undefined) return `${c.muted ? "mute" : "unmute"} ${track.name}`;
    if (c.solo !== undefined) return `solo ${track.name} ${c.solo ? "on" : "off"}`;
    return `rename ${track.name}`;
  },
  apply(draft, { trackId, name, gainDb, pan, muted, solo, role, gainLine, panLine }) {
    const track = needTrack(draft, trackId);
    draft.put("tracks", {
      ...track,
      name: name ?? track.name,
      gainDb: gainDb ?? track.gainDb,
      pan: pan ?? track.pan,
      muted: muted ?? track.muted,
      solo: solo ?? track.solo,
      ...(role === undefined ? {} : { role }),
      ...(gainLine === undefined ? {} : { gainLine }),
      ...(panLine === undefined ? {} : { panLine })
    });
  }
});

export const sectionAdd = kind({
  schema: z.object({ type: z.literal("section.add"), section: sectionSchema }),
  label: (c) => `add section ${c.section.name}`,
  apply(draft, c) {
    needNew(draft, "sections", c.section.id);
    draft.put("sections", c.section);
  }
});

export const sectionSet = kind({
  schema: z.object({
    type: z.literal("section.set"),
    sectionId: id,
    name: sectionSchema.shape.name.optional(),
    start: sectionSchema.shape.start.optional(),
    length: sectionSchema.shape.length.optional()
  }),
  label: (c, doc) =>
    `${c.name === undefined ? "move" : "rename"} section ${need(doc, "sections", c.sectionId).name}`,
  apply(draft, { sectionId, name, start, length }) {
    const section = need(draft, "sections", sectionId);
    draft.put("sections", {
      ...section,
      name: name ?? section.name,
      start: start ?? section.start,
      length: length ?? section.length
    });
  }
});

export const sectionRemove = kind({
  schema: z.object({ type: z.literal("section.remove"), sectionId: id }),
  label: (c, doc) => `remove section ${doc.get("sections", c.sectionId)?.name ?? ""}`.trim(),
  apply(draft, c) {
    draft.remove("sections", need(draft, "sections", c.sectionId).id);
  }
});
