import path from "node:path";
import { z } from "zod";
import { programmeOver } from "$lib/core/render/graph";
import { asOne, type SingleCommand } from "$lib/core/session/commands";
import { Document, type DocumentJson } from "$lib/core/session/document";
import { byPlace, orderBelow, tracksInOrder } from "$lib/core/session/lookup";
import { newClip, newRecording, newTrack } from "$lib/core/session/make";
import { withoutMix } from "$lib/core/session/owners";
import { numbered } from "$lib/core/session/renderNames";
import { Plan } from "$lib/core/render/graph";
import { config } from "../../config";
import { UserFault } from "../../faults";
import { recordingIdOf } from "../../media/paths";
import { MediaStore } from "../../media/store";
import { filesOf, recordingName } from "../../services/recordings";
import { loadProject } from "../../services/projects";
import type { BounceResult } from "../tasks/task";
import { jobKind } from "./kind";

const order = z.object({
  kind: z.literal("bounce"),
  document: z.custom<DocumentJson>((value) => typeof value === "object" && value !== null),
  clipIds: z.array(z.string()).min(1),
  name: z.string().nullable()
});
type Order = z.infer<typeof order>;

/** The clips alone, as their tracks play them; the mix's own chain and gain come later. */
function soundOf({ document: json, clipIds }: Order): { document: Document; from: number; to: number } {
  const whole = Document.fromJson(json);
  const chosen = new Set(clipIds);
  const clips = [...whole.values("clips")];
  const own = clips.filter((clip) => chosen.has(clip.id));
  const mix = withoutMix(whole.project);
  const document = whole.with([
    { table: "project", id: "project", before: whole.project, after: mix },
    ...clips
      .filter((clip) => chosen.has(clip.id) === clip.muted)
      .map((clip) => ({
        table: "clips" as const,
        id: clip.id,
        before: clip,
        after: { ...clip, muted: !chosen.has(clip.id) }
      })),
    ...[...whole.values("tracks")]
      .filter((track) => track.muted || track.solo)
      .map((track) => ({
        table: "tracks" as const,
        id: track.id,
        before: track,
        after: { ...track, muted: false, solo: false }
      }))
  ]);
  const from = Math.min(...own.map((clip) => clip.start));
  return { document, from, to: Math.max(from + 1, programmeOver(document)) };
}

/** Names of the clips, in the order in which they sound. */
const describe = (wanted: Order) => {
  const names = wanted.document.clips
    .filter(({ id }) => wanted.clipIds.includes(id))
    .sort(byPlace)
    .map(({ name }) => name);
  return names.length <= 3
    ? names.join(", ")
    : `${names.slice(0, 3).join(", ")} and ${names.length - 3} more`;
};

/** Several clips together become one recording, on a track of its own; the clips are muted. */
export const bouncing = jobKind({
  kind: "bounce",
  order,
  resumes: true,
  fault: (wanted, fault) => `${describe(wanted)} were not rendered: ${fault}.`,
  room(wanted) {
    const { from, to } = soundOf(wanted);
    return Promise.resolve({ bytes: (to - from) * 8, what: `${describe(wanted)} were not rendered` });
  },
  async prepare(wanted, { scratch }) {
    const { document, from, to } = soundOf(wanted);
    const ids = new Plan(document).recordings(from, to);
    return {
      kind: "bounce",
      dataFolder: config.dataFolder,
      scratch,
      document: document.toJson(),
      from,
      to,
      files: await filesOf(ids, document.sampleRate, (id) => recordingName(document, id))
    };
  },
  async complete(wanted, result, { projectId, scratch, jobId }) {
    const { hash, file, frames } = result as BounceResult;
    const { document } = await loadProject(projectId);
    const own = wanted.clipIds.flatMap((id) => document.get("clips", id) ?? []);
    if (own.length < wanted.clipIds.length)
      throw new UserFault(409, "A clip that was rendered is no longer there: nothing was changed.");
    const store = new MediaStore(config.dataFolder);
    store.adopt(path.join(scratch, file), hash);
    store.adoptCaches(scratch);
    const { from } = soundOf(wanted);
    const { sampleRate } = document;
    const name = numbered(document, wanted.name ?? `${describe(wanted)}, together`);
    const facts = { sampleRate, channels: 2, frames, kind: "render" as const };
    const recording = newRecording(
      recordingIdOf(hash),
      { ...facts, name, media: hash },
      {
        text: `Together: ${describe(wanted)}`.slice(0, 400),
        source: null,
        window: null,
        steps: null,
        clips: wanted.clipIds
      }
    );
    const lowest = tracksInOrder(document).findLast((one) => own.some((clip) => clip.track === one.id));
    const trackId = `t-${jobId}`;
    const track = newTrack(trackId, name, orderBelow(document, lowest?.id ?? ""));
    const clip = newClip(`c-${jobId}`, trackId, { id: recording.id, name, frames }, from);
    const commands: SingleCommand[] = [
      ...(document.get("recordings", recording.id) ? [] : [{ type: "recording.add" as const, recording }]),
      { type: "track.add", track },
      { type: "clip.add", clip, chain: null },
      { type: "clip.set", clipIds: wanted.clipIds, muted: true }
    ];
    return {
      recording: { hash, ...facts },
      command: asOne(commands, document, `render ${own.length} clips as one`),
      view: { clipId: clip.id, recordingId: recording.id, name }
    };
  }
});
