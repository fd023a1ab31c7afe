// Version 1 to 2: the tree becomes tables of entities, patches become changes.
import { applyPatches, enablePatches, type Patch } from "immer";
import type { Change } from "../changes";
import type { DocumentJson } from "../document";
import { alike } from "../equal";
import { TABLES, type Clip, type Entity, type RecipeStep, type Recording, type TableName } from "../schema";
import type { Clip1, Document1, Fade1, Patch1, RecipeStep1, Recording1, Render1, Track1 } from "./version1";

enablePatches();

/** A stored edit of version 1. */
export interface Edit1 {
  readonly label: string;
  readonly patches: readonly Patch1[];
  readonly inverse: readonly Patch1[];
  readonly undone: boolean;
}

export interface Edit2 {
  readonly label: string;
  readonly changes: readonly Change[];
  readonly undone: boolean;
}

const recipe = (steps: readonly RecipeStep1[]): RecipeStep[] =>
  steps.map((s) => ({ ...s, params: { ...s.params }, span: null }));

const fade = ({ curve, ...rest }: Fade1) => ({ ...rest, shape: { curve } });

/**
 * Carries documents of one project over, from its oldest state to its newest. What version 1 did not note is taken from where it
 * was first seen: a render's window is the clip's when the render appeared, a track's order its place then.
 */
class Carrier {
  readonly #windows = new Map<string, { offset: number; length: number }>();
  readonly #orders = new Map<string, number>();
  readonly #clips = new WeakMap<Clip1, { track: string; made: Record<string, unknown> }>();
  readonly #chains = new WeakMap<Clip1, Record<string, unknown>>();
  readonly #tracks = new WeakMap<Track1, Record<string, unknown>>();
  readonly #recordings = new WeakMap<Recording1, Record<string, unknown>>();

  /** @param hashOf content hash of a recording, by its id; null when it is not known */
  constructor(private readonly hashOf: (recordingId: string) => string | null) {}

  carry(doc: Document1): DocumentJson {
    const { format: _format, name, sampleRate, tracks, sections, recordings, ...rest } = doc;
    const clips = tracks.flatMap((track) => track.clips.map((clip) => ({ track: track.id, clip })));
    return {
      ...rest,
      version: 2,
      project: [{ id: "project", name, sampleRate, mix: { chain: null, gainDb: 0 } }],
      tracks: tracks.map((track) => this.#track(track)),
      clips: clips.map(({ track, clip }) => this.#clip(track, clip)),
      chains: clips.filter(({ clip }) => clip.steps.length > 0).map(({ clip }) => this.#chain(clip)),
      recordings: recordings.map((recording) => this.#recording(recording, clips)),
      sections
    } as unknown as DocumentJson;
  }

  #track(track: Track1): Record<string, unknown> {
    let made = this.#tracks.get(track);
    if (!made) {
      const { clips: _clips, ...rest } = track;
      let order = this.#orders.get(track.id);
      if (order === undefined) this.#orders.set(track.id, (order = this.#orders.size + 1));
      made = { ...rest, order, chain: null };
      this.#tracks.set(track, made);
    }
    return made;
  }

  #clip(track: string, clip: Clip1): Record<string, unknown> {
    const known = this.#clips.get(clip);
    if (known?.track === track) return known.made;
    const { recordingId, steps, fadeIn, fadeOut, render, ...rest } = clip;
    const made = {
      ...rest,
      track,
      content: { kind: "audio", recordingId },
      fadeIn: fade(fadeIn),
      fadeOut: fade(fadeOut),
      chain: steps.length > 0 ? chainId(clip.id) : null,
      render: render && this.#render(clip, render)
    };
    this.#clips.set(clip, { track, made });
    return made;
  }

  #render(clip: Clip1, render: Render1): Clip["render"] {
    const key = `${clip.id} ${render.recordingId}`;
    let window = this.#windows.get(key);
    if (!window) {
      window = { offset: clip.offset, length: clip.length };
      this.#windows.set(key, window);
    }
    return { ...render, steps: recipe(render.steps), window };
  }

  #chain(clip: Clip1): Record<string, unknown> {
    let made = this.#chains.get(clip);
    if (!made) {
      const steps = clip.steps.map((s) => ({ ...s, params: { ...s.params }, span: null }));
      made = { id: chainId(clip.id), steps };
      this.#chains.set(clip, made);
    }
    return made;
  }

  #recording(recording: Recording1, clips: readonly { clip: Clip1 }[]): Record<string, unknown> {
    let made = this.#recordings.get(recording);
    if (!made) {
      const { madeFrom, ...rest } = recording;
      made = {
        ...rest,
        media: this.hashOf(recording.id),
        provenance: madeFrom === null ? null : provenance(madeFrom, recording.id, clips),
        chain: null
      };
      this.#recordings.set(recording, made);
    }
    return made;
  }
}

function chainId(clipId: string): string {
  return `c-${clipId}`.slice(0, 64);
}

function provenance(
  text: string,
  recordingId: string,
  clips: readonly { clip: Clip1 }[]
): Recording["provenance"] {
  const from = clips.find(({ clip }) => clip.render?.recordingId === recordingId)?.clip;
  return {
    text,
    source: from?.recordingId ?? null,
    window: from?.render ? { offset: from.render.origin, length: from.render.frames } : null,
    steps: from?.render ? recipe(from.render.steps) : null
  };
}

type Flat = Map<string, { table: TableName; entity: Entity }>;

function flat(json: DocumentJson): Flat {
  const out: Flat = new Map();
  for (const table of TABLES)
    for (const entity of json[table] as readonly Entity[])
      out.set(`${table}/${entity.id}`, { table, entity });
  return out;
}

function changesOf(before: Flat, after: Flat): Change[] {
  const out: Change[] = [];
  for (const [key, { table, entity }] of after) {
    const was = before.get(key)?.entity ?? null;
    if (was !== entity && !alike(was, entity)) out.push({ table, id: entity.id, before: was, after: entity });
  }
  for (const [key, { table, entity }] of before)
    if (!after.has(key)) out.push({ table, id: entity.id, before: entity, after: null });
  return out;
}

/**
 * A project with its history, oldest edit first, those that are undone last.
 * @param hashOf content hash of a recording, by its id; null when it is not known
 */
export function projectFrom1(
  newest: Document1,
  edits: readonly Edit1[],
  hashOf: (recordingId: string) => string | null
): { document: DocumentJson; edits: Edit2[] } {
  const done = edits.filter((e) => !e.undone).length;
  // states[i] is the document after i edits.
  const states: Document1[] = [];
  states[done] = newest;
  for (let i = done; i > 0; i--) states[i - 1] = patched(states[i], edits[i - 1]?.inverse);
  for (let i = done; i < edits.length; i++) states[i + 1] = patched(states[i], edits[i]?.patches);
  const carrier = new Carrier(hashOf);
  const carried = states.map((state) => carrier.carry(state));
  const flats = carried.map(flat);
  return {
    document: carried[done] as DocumentJson,
    edits: edits.map(({ label, undone }, i) => ({
      label,
      undone,
      changes: changesOf(flats[i] ?? new Map(), flats[i + 1] ?? new Map())
    }))
  };
}

function patched(state: Document1 | undefined, patches: readonly Patch1[] | undefined): Document1 {
  if (!state || !patches) throw new Error("The history has a gap.");
  return applyPatches(state, patches as readonly Patch[]);
}

/** Steps of a preset. */
export function presetFrom1(steps: readonly RecipeStep1[]): RecipeStep[] {
  return recipe(steps);
}
