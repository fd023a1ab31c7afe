// How everything new begins: one maker each.
import { resampledLength } from "../audio/resampler";
import {
  DOCUMENT_VERSION,
  type Chain,
  type Clip,
  type Project,
  type RecipeStep,
  type Recording,
  type Section,
  type Step,
  type Track
} from "./schema";
import type { ParamValue } from "../effects/description";
import { Document } from "./document";

const noFade = () => ({ length: 0, shape: { curve: "straight" as const } });

export function newProject(name: string, sampleRate: Project["sampleRate"]): Project {
  return { id: "project", name, sampleRate, mix: { chain: null, gainDb: 0 } };
}

export function newTrack(id: string, name: string, order: number, change: Partial<Track> = {}): Track {
  return { id, name, order, gainDb: 0, pan: 0, muted: false, solo: false, chain: null, ...change };
}

/** A clip that shows a whole recording, untreated. */
export function newClip(
  id: string,
  track: string,
  recording: Pick<Recording, "id" | "name" | "frames">,
  start: number,
  change: Partial<Clip> = {}
): Clip {
  return {
    id,
    name: recording.name,
    track,
    start,
    content: { kind: "audio", recordingId: recording.id },
    offset: 0,
    length: recording.frames,
    gainDb: 0,
    muted: false,
    fadeIn: noFade(),
    fadeOut: noFade(),
    chain: null,
    render: null,
    ...change
  };
}

export function newChain(id: string, steps: readonly Step[] = []): Chain {
  return { id, steps: [...steps] };
}

/** A step without identity over the whole of its owner. */
export function newRecipeStep(
  effect: string,
  params: Readonly<Record<string, ParamValue>> = {},
  on = true
): RecipeStep {
  return { effect, on, params: { ...params }, span: null };
}

/** A recording that a preset carries, whose frames are those of its file, as a project at a rate has it. */
export function atRate(recording: Recording, sampleRate: number): Recording {
  return { ...recording, frames: resampledLength(recording.frames, recording.sampleRate, sampleRate) };
}

/** A step over the whole of its owner. */
export function newStep(
  id: string,
  effect: string,
  params: Readonly<Record<string, ParamValue>> = {},
  on = true
): Step {
  return { id, ...newRecipeStep(effect, params, on) };
}

export function newRecording(
  id: string,
  facts: Pick<Recording, "name" | "media" | "frames" | "channels" | "sampleRate" | "kind">,
  provenance: Recording["provenance"] = null,
  from: Pick<Recording, "about" | "folder"> = {}
): Recording {
  return { id, ...facts, provenance, ...from, chain: null };
}

export function newSection(id: string, name: string, start: number, length: number): Section {
  return { id, name, start, length };
}

/** An empty project with one track. */
export function emptyDocument(name: string, sampleRate: Project["sampleRate"]): Document {
  return documentOf(newProject(name, sampleRate), { tracks: [newTrack("track-1", "Track 1", 1)] });
}

/** A document of these entities. */
export function documentOf(
  project: Project,
  parts: {
    readonly tracks?: readonly Track[];
    readonly clips?: readonly Clip[];
    readonly chains?: readonly Chain[];
    readonly recordings?: readonly Recording[];
    readonly sections?: readonly Section[];
  } = {}
): Document {
  const { tracks = [], clips = [], chains = [], recordings = [], sections = [] } = parts;
  return Document.fromJson({
    version: DOCUMENT_VERSION,
    project: [project],
    tracks,
    clips,
    chains,
    recordings,
    sections
  });
}
