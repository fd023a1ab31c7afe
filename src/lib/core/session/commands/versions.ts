// Renders and kept states of clips: made, gone back to, put beside the present one, taken away.
import { z } from "zod";
import { recipeOf, renderMatches, stateOf } from "../clipState";
import { alike } from "../equal";
import { newTrack } from "../make";
import { orderBelow } from "../lookup";
import { CommandRefused } from "../refused";
import { ownerFault } from "../owners";
import {
  idSchema,
  MOST_VERSIONS,
  recordingSchema,
  renderSchema,
  versionSchema,
  type Clip,
  type Step,
  type Version
} from "../schema";
import { kind } from "./command";
import {
  clipsNamed,
  Ids,
  need,
  needClip,
  needNew,
  needTrack,
  needWindow,
  putPart,
  seedSchema,
  setSteps
} from "./lookup";

const id = idSchema;

const versionFacts = z.object({
  id,
  name: versionSchema.shape.name,
  made: versionSchema.shape.made,
  lufs: versionSchema.shape.lufs
});

function withVersion(clip: Clip, version: Version): Clip {
  return { ...clip, versions: [...(clip.versions ?? []), version].slice(-MOST_VERSIONS) };
}

function needVersion(clip: Clip, versionId: string): Version {
  const version = clip.versions?.find((one) => one.id === versionId);
  if (!version) throw new CommandRefused(`"${clip.name}" no longer has that version.`);
  return version;
}

/** Steps of a version, with ids of their own. */
function stepsOf(clip: Clip, { steps }: Version, stepIds: readonly string[]): Step[] {
  if (stepIds.length < steps.length) throw new CommandRefused(`"${clip.name}" has changed meanwhile.`);
  return steps.map((step, i) => ({ ...step, id: stepIds[i] ?? "" }));
}

/** A recording that was made of a clip stands for its first steps from now on, and is kept as a version. */
export const clipRender = kind({
  schema: z.object({
    type: z.literal("clip.render"),
    clipId: id,
    recording: recordingSchema,
    render: renderSchema,
    /** Left out: no version is kept of it. */
    version: versionFacts.optional()
  }),
  label: (c, doc) => `render ${clipsNamed(doc, [c.clipId])}`,
  apply(draft, c) {
    const clip = needClip(draft, c.clipId);
    if (!draft.get("recordings", c.recording.id)) draft.put("recordings", c.recording);
    const rendered = { ...clip, render: c.render };
    const first = clip.steps.slice(0, c.render.steps.length);
    if (!renderMatches(rendered) && alike(recipeOf(first), c.render.steps))
      throw new CommandRefused(`The render does not cover "${clip.name}".`);
    const now = { ...need(draft, "clips", c.clipId), render: c.render };
    // A clip that has changed meanwhile keeps what was rendered of it as it was.
    const version = c.version && { ...c.version, steps: c.render.steps, render: c.render };
    draft.put("clips", version ? withVersion(now, version) : now);
  }
});

export const clipRestore = kind({
  schema: z.object({ type: z.literal("clip.restore"), clipIds: z.array(id).min(1) }),
  label: (c, doc) => `restore ${clipsNamed(doc, c.clipIds)}`,
  apply(draft, c) {
    for (const clipId of c.clipIds) {
      const clip = need(draft, "clips", clipId);
      if (!clip.render) throw new CommandRefused(`"${clip.name}" is not rendered.`);
      draft.put("clips", { ...clip, render: null });
    }
  }
});

/** Keeps a clip's chain, and its render where it has one: as they are now, or as they were a moment ago. */
export const versionKeep = kind({
  schema: z.object({
    type: z.literal("version.keep"),
    clipId: id,
    version: versionFacts,
    state: versionSchema.pick({ steps: true, render: true }).optional()
  }),
  label: (c, doc) => `keep ${c.version.name} of ${clipsNamed(doc, [c.clipId])}`,
  apply(draft, c) {
    const clip = needClip(draft, c.clipId);
    if (clip.versions?.some((one) => one.id === c.version.id))
      throw new CommandRefused("There is already a version with that id.");
    draft.put(
      "clips",
      withVersion(need(draft, "clips", c.clipId), { ...c.version, ...(c.state ?? stateOf(clip)) })
    );
  }
});

export const versionSet = kind({
  schema: z.object({
    type: z.literal("version.set"),
    clipId: id,
    versionId: id,
    name: versionSchema.shape.name
  }),
  label: (c) => `rename version to ${c.name}`,
  apply(draft, c) {
    const clip = need(draft, "clips", c.clipId);
    const { id: own } = needVersion(clip, c.versionId);
    const versions = (clip.versions ?? []).map((one) => (one.id === own ? { ...one, name: c.name } : one));
    draft.put("clips", { ...clip, versions });
  }
});

export const versionRemove = kind({
  schema: z.object({ type: z.literal("version.remove"), clipId: id, versionId: id }),
  label(c, doc) {
    const clip = need(doc, "clips", c.clipId);
    return `take version ${needVersion(clip, c.versionId).name} of ${clip.name} away`;
  },
  apply(draft, c) {
    const clip = need(draft, "clips", c.clipId);
    const { id: own } = needVersion(clip, c.versionId);
    draft.put("clips", { ...clip, versions: (clip.versions ?? []).filter((one) => one.id !== own) });
  }
});

/** A clip sounds as a version of it did. */
export const versionUse = kind({
  schema: z.object({
    type: z.literal("version.use"),
    clipId: id,
    versionId: id,
    chainId: id,
    stepIds: z.array(id)
  }),
  label(c, doc) {
    const clip = need(doc, "clips", c.clipId);
    return `go back to ${needVersion(clip, c.versionId).name} of ${clip.name}`;
  },
  apply(draft, c) {
    const clip = need(draft, "clips", c.clipId);
    const version = needVersion(clip, c.versionId);
    setSteps(draft, { table: "clips", id: clip.id }, stepsOf(clip, version, c.stepIds), c.chainId);
    draft.put("clips", { ...need(draft, "clips", clip.id), render: version.render });
  }
});

/** A version comes to lie on a track of its own below the clip's, at the same time. */
export const versionBeside = kind({
  schema: z.object({
    type: z.literal("version.beside"),
    clipId: id,
    versionId: id,
    trackId: id,
    chainId: id,
    stepIds: z.array(id),
    seed: seedSchema
  }),
  label(c, doc) {
    const clip = need(doc, "clips", c.clipId);
    return `put ${needVersion(clip, c.versionId).name} beside ${clip.name}`;
  },
  apply(draft, c) {
    const clip = need(draft, "clips", c.clipId);
    const version = needVersion(clip, c.versionId);
    needNew(draft, "tracks", c.trackId);
    const own = needTrack(draft, clip.track);
    const order = orderBelow(draft, own.id);
    const name = `${own.name}: ${version.name}`.slice(0, 120);
    draft.put("tracks", newTrack(c.trackId, name, order, { gainDb: own.gainDb, pan: own.pan }));
    const { versions: _kept, ...bare } = clip;
    const copy = {
      ...bare,
      name: `${clip.name}, ${version.name}`.slice(0, 120),
      track: c.trackId,
      chain: null,
      group: null,
      render: version.render
    };
    const made = putPart(draft, copy, new Ids(c.seed));
    setSteps(draft, { table: "clips", id: made.id }, stepsOf(clip, version, c.stepIds), c.chainId);
  }
});

/** A clip shows another recording in the same window: one that was made again from what its own was made from. */
export const clipSource = kind({
  schema: z.object({ type: z.literal("clip.source"), clipId: id, recordingId: id }),
  label: (c, doc) => `change what ${clipsNamed(doc, [c.clipId])} shows`,
  apply(draft, c) {
    const clip = need(draft, "clips", c.clipId);
    const next = { ...clip, content: { ...clip.content, recordingId: c.recordingId }, render: null };
    needWindow(draft, next);
    draft.put("clips", next);
  }
});

/** Everything that was done to clips is taken off: chain, render, gain, line, fades, ring-out. Versions stay. */
export const clipSquareOne = kind({
  schema: z.object({ type: z.literal("clip.squareOne"), clipIds: z.array(id).min(1).max(5000) }),
  label: (c, doc) => `take all treatment off ${clipsNamed(doc, c.clipIds)}`,
  apply(draft, { clipIds }) {
    for (const clipId of clipIds) {
      const clip = need(draft, "clips", clipId);
      const { line: _line, ringOut: _ringOut, heard: _heard, ...rest } = clip;
      draft.put("clips", {
        ...rest,
        gainDb: 0,
        fadeIn: { ...clip.fadeIn, length: 0 },
        fadeOut: { ...clip.fadeOut, length: 0 },
        chain: null,
        render: null
      });
      if (clip.chain !== null && draft.uses("chains", clip.chain) === 0) draft.remove("chains", clip.chain);
    }
  }
});

/** Steps of a clip go over to its recording: from then on every clip that shows it hears them, before its own chain. */
export const stepsToRecording = kind({
  schema: z.object({
    type: z.literal("steps.toRecording"),
    clipId: id,
    /** They keep their order and come behind those that the recording has. */
    stepIds: z.array(id).min(1),
    chainId: id
  }),
  label(c, doc) {
    const clip = need(doc, "clips", c.clipId);
    return `treat all clips of ${need(doc, "recordings", clip.content.recordingId).name} as ${clip.name}`;
  },
  apply(draft, c) {
    const clip = needClip(draft, c.clipId);
    const chosen = new Set(c.stepIds);
    const moved = clip.steps.filter((step) => chosen.has(step.id));
    if (moved.length < chosen.size) throw new CommandRefused(`"${clip.name}" no longer has that step.`);
    const fault = moved.map((step) => ownerFault("recordings", step)).find((one) => one !== undefined);
    if (fault) throw new CommandRefused(fault);
    const left = clip.steps.filter((step) => !chosen.has(step.id));
    setSteps(draft, { table: "clips", id: clip.id }, left, clip.chain ?? c.chainId);
    const owner = { table: "recordings" as const, id: clip.recordingId };
    setSteps(draft, owner, [...clip.recordingSteps, ...moved], c.chainId);
  },
  touches(c, doc) {
    const clip = doc.get("clips", c.clipId);
    return clip?.chain ? [{ table: "chains", id: clip.chain }] : [];
  }
});

/** A clip gets a recording entry of its own on the same audio: what is done to the other's from then on does not reach it. */
export const clipIndependent = kind({
  schema: z.object({
    type: z.literal("clip.independent"),
    clipIds: z.array(id).min(1).max(5000),
    /** Id of the new entry: that of the audio, and a suffix. */
    recordingId: id,
    name: recordingSchema.shape.name,
    chainId: id,
    stepIds: z.array(id)
  }),
  label: (c, doc) => `make ${clipsNamed(doc, c.clipIds)} independent`,
  apply(draft, c) {
    needNew(draft, "recordings", c.recordingId);
    const clips = c.clipIds.map((clipId) => needClip(draft, clipId));
    const [first] = clips;
    if (!first || clips.some((clip) => clip.recordingId !== first.recordingId))
      throw new CommandRefused("Only clips of one recording can be made independent together.");
    const recording = need(draft, "recordings", first.recordingId);
    if (c.stepIds.length < first.recordingSteps.length)
      throw new CommandRefused(`"${recording.name}" has changed meanwhile.`);
    draft.put("recordings", { ...recording, id: c.recordingId, name: c.name, chain: null });
    const steps = first.recordingSteps.map((step, i) => ({ ...step, id: c.stepIds[i] ?? "" }));
    if (steps.length > 0) setSteps(draft, { table: "recordings", id: c.recordingId }, steps, c.chainId);
    for (const { id: clipId } of clips) {
      const clip = need(draft, "clips", clipId);
      draft.put("clips", { ...clip, content: { ...clip.content, recordingId: c.recordingId } });
    }
  },
  touches: (c) => c.clipIds.map((clipId) => ({ table: "clips" as const, id: clipId, fields: ["content"] }))
});
