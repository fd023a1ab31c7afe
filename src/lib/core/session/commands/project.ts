import { z } from "zod";
import { recordingsOf } from "../../effects/registry";
import { findRecording } from "../document";
import { documentSchema, recordingSchema, sectionSchema, trackSchema } from "../schema";
import { CommandRefused, kind } from "./command";
import { needNew, needRecording, needTrack } from "./lookup";

const id = z.string();

export const projectRename = kind({
  schema: z.object({ type: z.literal("project.rename"), name: documentSchema.shape.name }),
  label: () => "rename project",
  apply(doc, c) {
    doc.name = c.name;
  }
});

export const recordingAdd = kind({
  schema: z.object({ type: z.literal("recording.add"), recording: recordingSchema }),
  label: (c) => `import ${c.recording.name}`,
  apply(doc, c) {
    if (findRecording(doc, c.recording.id))
      throw new CommandRefused(`"${c.recording.name}" is already in this project.`);
    doc.recordings.push(c.recording);
  }
});

export const recordingRemove = kind({
  schema: z.object({ type: z.literal("recording.remove"), recordingId: id }),
  label: (c, doc) => `take ${findRecording(doc, c.recordingId)?.name ?? "recording"} off the shelf`,
  apply(doc, c) {
    const recording = needRecording(doc, c.recordingId);
    const users = doc.tracks
      .flatMap((t) => t.clips)
      .filter(
        (clip) =>
          clip.recordingId === recording.id ||
          clip.render?.recordingId === recording.id ||
          clip.steps.some((step) => recordingsOf(step).includes(recording.id))
      );
    if (users.length > 0)
      throw new CommandRefused(
        `"${recording.name}" is used by ${users.map((u) => `"${u.name}"`).join(", ")}.`
      );
    doc.recordings.splice(doc.recordings.indexOf(recording), 1);
  }
});

export const trackAdd = kind({
  schema: z.object({
    type: z.literal("track.add"),
    trackId: trackSchema.shape.id,
    name: trackSchema.shape.name
  }),
  label: (c) => `add track ${c.name}`,
  apply(doc, c) {
    needNew(doc.tracks, c.trackId, "track");
    doc.tracks.push({ id: c.trackId, name: c.name, gainDb: 0, pan: 0, muted: false, solo: false, clips: [] });
  }
});

export const trackRemove = kind({
  schema: z.object({ type: z.literal("track.remove"), trackId: id }),
  label: (c, doc) => `remove track ${needTrack(doc, c.trackId).name}`,
  apply(doc, c) {
    doc.tracks.splice(doc.tracks.indexOf(needTrack(doc, c.trackId)), 1);
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
    solo: z.boolean().optional()
  }),
  label(c, doc) {
    const track = needTrack(doc, c.trackId);
    if (c.gainDb !== undefined) return `gain of ${track.name}`;
    if (c.pan !== undefined) return `pan of ${track.name}`;
    if (c.muted !== undefined) return `${c.muted ? "mute" : "unmute"} ${track.name}`;
    if (c.solo !== undefined) return `solo ${track.name} ${c.solo ? "on" : "off"}`;
    return `rename ${track.name}`;
  },
  apply(doc, c) {
    const track = needTrack(doc, c.trackId);
    if (c.name !== undefined) track.name = c.name;
    if (c.gainDb !== undefined) track.gainDb = c.gainDb;
    if (c.pan !== undefined) track.pan = c.pan;
    if (c.muted !== undefined) track.muted = c.muted;
    if (c.solo !== undefined) track.solo = c.solo;
  }
});

export const sectionAdd = kind({
  schema: z.object({ type: z.literal("section.add"), section: sectionSchema }),
  label: (c) => `add section ${c.section.name}`,
  apply(doc, c) {
    needNew(doc.sections, c.section.id, "section");
    doc.sections.push(c.section);
    doc.sections.sort((a, b) => a.start - b.start);
  }
});

export const sectionRemove = kind({
  schema: z.object({ type: z.literal("section.remove"), sectionId: id }),
  label: () => "remove section",
  apply(doc, c) {
    const index = doc.sections.findIndex((s) => s.id === c.sectionId);
    if (index < 0) throw new CommandRefused("The section is no longer there.");
    doc.sections.splice(index, 1);
  }
});
