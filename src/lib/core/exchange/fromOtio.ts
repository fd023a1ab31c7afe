// An OpenTimelineIO timeline as a document.
import { z } from "zod";
import { documentOf, newClip, newProject, newSection, newTrack } from "../session/make";
import type { Document } from "../session/document";
import {
  clipSchema,
  fadeSchema,
  PROJECT_RATES,
  trackSchema,
  type Clip,
  type Project,
  type Recording,
  type Section,
  type Track
} from "../session/schema";
import { timelineSchema, type OtioItem, type OtioTimeline, type RationalTime } from "./otioSchema";
import { OWN } from "./toOtio";

const ownClip = z.object({
  gainDb: z.number().min(-96).max(48).catch(0),
  muted: z.boolean().catch(false),
  fadeIn: fadeSchema.optional().catch(undefined),
  fadeOut: fadeSchema.optional().catch(undefined),
  line: clipSchema.shape.line.catch(undefined)
});
const ownTrack = z.object({
  track: z.string().optional().catch(undefined),
  gainDb: z.number().min(-96).max(48).catch(0),
  pan: z.number().min(-1).max(1).catch(0),
  muted: z.boolean().catch(false),
  solo: z.boolean().catch(false),
  role: trackSchema.shape.role.catch(undefined),
  gainLine: trackSchema.shape.gainLine.catch(undefined),
  panLine: trackSchema.shape.panLine.catch(undefined)
});

type SampleRate = Project["sampleRate"];

/** What a timeline becomes. */
export interface FromOtio {
  readonly document: Document;
  /** What could not be carried over, in words for people. */
  readonly missing: readonly string[];
}

/** @throws Error with the end of a sentence when it is no timeline */
export function parseOtio(text: string): OtioTimeline {
  let json: unknown;
  try {
    json = JSON.parse(text);
  } catch {
    throw new Error("its timeline is not JSON");
  }
  const parsed = timelineSchema.safeParse(json);
  if (parsed.success) return parsed.data;
  const [issue] = parsed.error.issues;
  throw new Error(`its timeline is not right: ${issue?.path.join(".") ?? ""} ${issue?.message ?? ""}`.trim());
}

/** The media that a clip plays: the active one of several. */
function referenceOf({
  media_reference: one,
  media_references: several,
  active_media_reference_key: key
}: OtioItem) {
  return several ? several[key ?? "DEFAULT_MEDIA"] : one;
}

/** Where the audio of a timeline lies: each place once. */
export function mediaOf(timeline: OtioTimeline): string[] {
  const urls = timeline.tracks.children
    .filter(({ kind }) => kind === "Audio")
    .flatMap(({ children }) => children.flatMap((item) => referenceOf(item)?.target_url ?? []));
  return [...new Set(urls)];
}

/** The rate of the project that a timeline becomes: its own where it says one, else that of its first clip, else 48 kHz. */
export function rateOfTimeline(timeline: OtioTimeline): SampleRate {
  const own = (timeline.metadata?.[OWN] as { sampleRate?: unknown } | undefined)?.sampleRate;
  const first = timeline.tracks.children
    .flatMap(({ children }) => children)
    .find((item) => item.source_range);
  const wanted = [own, first?.source_range?.duration.rate];
  return PROJECT_RATES.find((rate) => wanted.includes(rate)) ?? 48000;
}

/**
 * The document of a timeline.
 * @param recordingOf the recording of a place, as it was imported; undefined where its audio is not there
 */
export function fromOtio(
  timeline: OtioTimeline,
  recordingOf: (url: string) => Recording | undefined
): FromOtio {
  const rate = rateOfTimeline(timeline);
  const frames = ({ value, rate: own }: RationalTime) => Math.round((value * rate) / own);
  const missing: string[] = [];
  const tracks = new Map<string, Track>();
  const clips: Clip[] = [];
  const recordings = new Map<string, Recording>();

  const place = (item: OtioItem, trackId: string, at: number, length: number) => {
    const url = referenceOf(item)?.target_url;
    const recording = url === undefined ? undefined : recordingOf(url);
    const name = item.name?.trim() || recording?.name || "Clip";
    if (!recording) {
      missing.push(`"${name}": its audio is not there`);
      return;
    }
    const offset = Math.max(0, item.source_range ? frames(item.source_range.start_time) : 0);
    const whole = Math.min(length, recording.frames - offset);
    if (whole < 1) {
      missing.push(`"${name}" lies outside its audio`);
      return;
    }
    if (whole < length) missing.push(`"${name}" is longer than its audio and was cut`);
    const own = ownClip.safeParse(item.metadata?.[OWN] ?? {});
    const { gainDb = 0, muted = item.enabled === false, fadeIn, fadeOut, line } = own.success ? own.data : {};
    recordings.set(recording.id, recording);
    clips.push(
      newClip(`clip-${clips.length + 1}`, trackId, recording, at, {
        name: name.slice(0, 120),
        offset,
        length: whole,
        gainDb,
        muted,
        ...(fadeIn ? { fadeIn } : {}),
        ...(fadeOut ? { fadeOut } : {}),
        ...(line ? { line } : {})
      })
    );
  };

  timeline.tracks.children.forEach((track, i) => {
    if (track.kind !== "Audio") {
      missing.push(`the track "${track.name ?? i + 1}" holds no sound (${track.kind})`);
      return;
    }
    const own = ownTrack.parse(track.metadata?.[OWN] ?? {});
    const key = own.track ?? `row-${i}`;
    const known = tracks.get(key);
    const { track: _row, ...facts } = own;
    const told = Object.fromEntries(Object.entries(facts).filter(([, value]) => value !== undefined));
    const name = (track.name?.trim() || `Track ${tracks.size + 1}`).slice(0, 120);
    const row = known ?? newTrack(`track-${tracks.size + 1}`, name, tracks.size + 1, told);
    tracks.set(key, row);
    let at = 0;
    for (const item of track.children) {
      const schema = item.OTIO_SCHEMA.split(".")[0];
      if (schema === "Transition") {
        missing.push(`a transition at ${(at / rate).toFixed(3)} s`);
        continue;
      }
      const available = referenceOf(item)?.available_range?.duration;
      const duration = item.source_range?.duration ?? available;
      if (!duration) {
        missing.push(`"${item.name ?? schema}" has no length`);
        continue;
      }
      const length = frames(duration);
      if (schema === "Clip") place(item, row.id, at, length);
      else if (schema !== "Gap") missing.push(`"${item.name ?? ""}" (${item.OTIO_SCHEMA})`);
      at += length;
    }
  });

  const sections: Section[] = timeline.tracks.markers.map(({ name, marked_range: range }, i) =>
    newSection(
      `section-${i + 1}`,
      name.trim().slice(0, 120) || `Marker ${i + 1}`,
      Math.max(0, frames(range.start_time)),
      Math.max(1, frames(range.duration))
    )
  );
  const gain = z.object({ mixGainDb: z.number().min(-96).max(48) }).safeParse(timeline.metadata?.[OWN]);
  const project = newProject(timeline.name?.trim().slice(0, 120) || "Timeline", rate);
  const mix = { ...project.mix, gainDb: gain.success ? gain.data.mixGainDb : 0 };
  const document = documentOf(
    { ...project, mix },
    { tracks: [...tracks.values()], clips, recordings: [...recordings.values()], sections }
  );
  return { document, missing };
}
