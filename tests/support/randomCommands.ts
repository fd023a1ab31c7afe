// Commands of every kind, made up from a number: for property tests, the simulation, the crash test.
import { FADE_CURVES } from "../../src/lib/core/audio/fades";
import { DROP_RULES } from "../../src/lib/core/session/drop";
import { joinsIn } from "../../src/lib/core/session/joins";
import { lanesOf } from "../../src/lib/core/session/lanes";
import type { Command, SingleCommand } from "../../src/lib/core/session/commands";
import { COMMAND_TYPES } from "../../src/lib/core/session/commands";
import type { Document } from "../../src/lib/core/session/document";
import { CHAIN_OWNERS, stepsOfOwner } from "../../src/lib/core/session/owners";
import {
  documentOf,
  newChain,
  newClip,
  newProject,
  newRecording,
  newSection,
  newStep,
  newTrack
} from "../../src/lib/core/session/make";
import { recipeOf } from "../../src/lib/core/session/clipState";
import type { Fade, TableName } from "../../src/lib/core/session/schema";

/** Numbers that depend on nothing but the seed (mulberry32). */
export function randomOf(seed: number): () => number {
  let s = seed | 0;
  return () => {
    s = (s + 0x6d2b79f5) | 0;
    let t = Math.imul(s ^ (s >>> 15), 1 | s);
    t = (t + Math.imul(t ^ (t >>> 7), 61 | t)) ^ t;
    return ((t ^ (t >>> 14)) >>> 0) / 2 ** 32;
  };
}

const FRAMES = 480000;

/** Three tracks, a few clips with chains, two recordings and a section. */
export function smallProject(): Document {
  const recordings = ["ra", "rb"].map((id) =>
    newRecording(id, {
      name: `Recording ${id}`,
      media: null,
      frames: FRAMES,
      channels: 2,
      sampleRate: 48000,
      kind: "import"
    })
  );
  const tracks = [1, 2, 3].map((n) => newTrack(`t${n}`, `Track ${n}`, n));
  const clips = [0, 1, 2, 3, 4, 5].map((n) =>
    newClip(
      `c${n}`,
      `t${(n % 3) + 1}`,
      { id: n % 2 ? "ra" : "rb", name: `Clip ${n}`, frames: FRAMES },
      n * 50000,
      {
        length: 48000,
        offset: n * 1000,
        chain: n < 3 ? `ch${n}` : null
      }
    )
  );
  const chains = [0, 1, 2].map((n) =>
    newChain(`ch${n}`, [newStep(`s${n}a`, "gain", { gainDb: n }), newStep(`s${n}b`, "limiter")])
  );
  return documentOf(newProject("Small", 48000), {
    tracks,
    clips,
    chains,
    recordings,
    sections: [newSection("sec", "Opening", 0, 96000)]
  });
}

/** Makes commands for a document from a source of random numbers. They name what is there, and now and then what is not. */
export class CommandMaker {
  #made = 0;

  /** @param prefix of the ids of what is new: pages must not make the same */
  constructor(
    private readonly random: () => number,
    private readonly prefix = "n"
  ) {}

  #id(): string {
    return `${this.prefix}-${++this.#made}`;
  }

  whole(most: number): number {
    return Math.floor(this.random() * most);
  }

  #pick<T>(list: readonly T[]): T | undefined {
    return list[this.whole(list.length)];
  }

  #any(doc: Document, table: TableName): string {
    if (this.random() < 0.02) return "gone";
    const ids = [...doc.values(table)].map((e) => e.id).sort();
    return this.#pick(ids) ?? "gone";
  }

  #fade(): Fade {
    const curve = this.#pick(FADE_CURVES) ?? "straight";
    const points = curve === "drawn" ? { points: [{ at: 0.3, gain: this.random() }] } : {};
    return { length: this.whole(60000), shape: { curve, ...points } };
  }

  #version() {
    return { id: this.#id(), name: "Kept", made: "2026-01-01T00:00:00.000Z", lufs: -20 };
  }

  /** A command of any kind; now and then several in one. */
  any(doc: Document): Command {
    if (this.random() < 0.1)
      return { type: "compound", name: "several things", commands: [this.one(doc), this.one(doc)] };
    return this.one(doc);
  }

  one(doc: Document): SingleCommand {
    return this.of(COMMAND_TYPES[this.whole(COMMAND_TYPES.length)] as SingleCommand["type"], doc);
  }

  /** A command of one kind. */
  of(type: SingleCommand["type"], doc: Document): SingleCommand {
    const clipId = this.#any(doc, "clips");
    const trackId = this.#any(doc, "tracks");
    const clip = doc.get("clips", clipId);
    const table = this.#pick(CHAIN_OWNERS) ?? "clips";
    const owner =
      this.random() < 0.6 ? { table: "clips" as const, id: clipId } : { table, id: this.#any(doc, table) };
    const steps = stepsOfOwner(doc, owner);
    const ownSteps = stepsOfOwner(doc, { table: "clips", id: clipId });
    const stepId = this.#pick(steps)?.id ?? "gone";
    const before = this.random() < 0.5 ? null : (this.#pick(steps)?.id ?? null);
    const frame = this.whole(600000);
    const gainDb = this.whole(40) - 20;
    const rule = this.#pick(DROP_RULES) ?? "cover";
    const seed = this.#id();
    const newSteps = () =>
      Array.from({ length: this.whole(3) }, () => newStep(this.#id(), "gain", { gainDb: this.whole(10) }));
    switch (type) {
      case "clip.add": {
        const recordingId = this.#any(doc, "recordings");
        const chain = this.random() < 0.5 ? newChain(this.#id(), newSteps()) : null;
        const fresh = newClip(this.#id(), trackId, { id: recordingId, name: "New", frames: FRAMES }, frame, {
          length: 1 + this.whole(40000),
          chain: chain?.id ?? null
        });
        return { type, clip: fresh, chain };
      }
      case "clip.remove": {
        const clipIds = [...new Set([clipId, this.#any(doc, "clips")])];
        return { type, clipIds, ...(this.random() < 0.5 ? { closeGap: true } : {}) };
      }
      case "clip.place": {
        const first = { clipId, trackId, start: frame };
        const second = { clipId: this.#any(doc, "clips"), trackId, start: this.whole(600000) };
        const clips = second.clipId === clipId ? [first] : [first, second];
        return { type, clips, rule, seed };
      }
      case "clip.insert": {
        const recording = { id: this.#any(doc, "recordings"), name: "Pasted", frames: FRAMES };
        const length = 1 + this.whole(80000);
        const fresh = newClip(this.#id(), trackId, recording, frame, { length, offset: this.whole(9000) });
        return { type, clips: [{ clip: fresh, chain: null }], rule, seed, what: "paste" };
      }
      case "clip.slip":
        return { type, clipIds: [clipId], by: this.whole(4000) - 2000 };
      case "clip.cut": {
        const at = [0.3, 0.7].map((share) => (clip ? clip.start + Math.round(clip.length * share) : 0));
        return { type, cuts: [{ clipId, at }], blend: this.whole(600), seed };
      }
      case "clip.takeOut": {
        const start = (clip?.start ?? 0) + 1 + this.whole(Math.max(1, (clip?.length ?? 1) >> 1));
        return { type, clipId, from: start, to: start + 1 + this.whole(9000), blend: this.whole(100), seed };
      }
      case "range.remove": {
        const closeGap = this.random() < 0.5;
        const range = { from: frame, to: frame + 1 + this.whole(60000), blend: this.whole(600) };
        return { type, trackIds: [trackId], clipIds: null, closeGap, seed, ...range };
      }
      case "clip.fades":
        return {
          type,
          fades: [
            { clipId, edge: "in", fade: this.#fade() },
            { clipId: this.#any(doc, "clips"), edge: "out", fade: this.#fade() }
          ]
        };
      case "crossfade.set":
      case "crossfade.move":
      case "crossfade.remove": {
        const joins = [...doc.values("tracks")].flatMap(({ id }) =>
          joinsIn(lanesOf(doc, [id]), id, 0, 2 ** 30).map((j) => ({ left: j.left.id, right: j.right.id }))
        );
        joins.sort((a, b) => (a.left + a.right < b.left + b.right ? -1 : 1));
        const pair = this.#pick(joins) ?? { left: clipId, right: this.#any(doc, "clips") };
        if (type === "crossfade.move") return { type, ...pair, by: this.whole(400) - 200 };
        if (type === "crossfade.remove") return { type, pairs: [pair] };
        return { type, pairs: [{ ...pair, length: 1 + this.whole(4000) }] };
      }
      case "track.move":
        return { type, trackId, before: this.random() < 0.3 ? null : this.#any(doc, "tracks") };
      case "section.set":
        return { type, sectionId: this.#any(doc, "sections"), start: frame, length: 1 + this.whole(9000) };
      case "clip.move":
        return { type, clipId, trackId, start: frame };
      case "clip.trim": {
        const window = { start: frame, offset: this.whole(FRAMES), length: 1 + this.whole(60000) };
        return { type, clipId, ...window, ...(this.random() < 0.5 ? { rule, seed } : {}) };
      }
      case "clip.split": {
        const at = clip ? clip.start + this.whole(clip.length + 2) : 0;
        const [newId, chainId] = [this.#id(), this.#id()];
        return { type, clipId, at, newId, chainId, stepIds: ownSteps.map(() => this.#id()) };
      }
      case "clip.set": {
        const clipIds = [...new Set([clipId, this.#any(doc, "clips")])];
        return {
          type,
          clipIds,
          gainDb,
          ...(this.random() < 0.3 ? { muted: this.random() < 0.5 } : {}),
          ...(this.random() < 0.2 ? { heard: null } : {})
        };
      }
      case "clip.normalize":
        return { type, clipId, gainDb, target: "-16 LUFS" };
      case "clip.fade": {
        const edge = this.random() < 0.5 ? "in" : "out";
        return { type, clipIds: [clipId], edge, fade: this.#fade() };
      }
      case "clip.render": {
        const id = this.#id();
        const facts = { name: "Render", media: null, frames: 100000, channels: 2, sampleRate: 48000 };
        return {
          type,
          clipId,
          recording: newRecording(id, { ...facts, kind: "render" }),
          render: {
            recordingId: id,
            origin: (clip?.offset ?? 0) - 10,
            frames: 100000,
            steps: recipeOf(ownSteps),
            window: { offset: clip?.offset ?? 0, length: clip?.length ?? 1 }
          },
          ...(this.random() < 0.5 ? { version: this.#version() } : {})
        };
      }
      case "recording.set": {
        const recordingIds = [...new Set([this.#any(doc, "recordings"), this.#any(doc, "recordings")])];
        return {
          type,
          recordingIds,
          ...this.#pick([{ name: "Other" }, { folder: "Day 1" }, { labels: ["a", "a"] }])
        };
      }
      case "clip.restore":
        return { type, clipIds: [[...doc.values("clips")].find((c) => c.render)?.id ?? clipId] };
      case "version.keep":
        return { type, clipId, version: this.#version() };
      case "version.set":
      case "version.remove":
      case "version.use":
      case "version.beside": {
        const has = [...doc.values("clips")].find((c) => c.versions && c.versions.length > 0) ?? clip;
        const versionId = this.#pick(has?.versions ?? [])?.id ?? "gone";
        const own = { clipId: has?.id ?? clipId, versionId };
        if (type === "version.set") return { type, ...own, name: "Other" };
        if (type === "version.remove") return { type, ...own };
        const made = { chainId: this.#id(), stepIds: Array.from({ length: 64 }, () => this.#id()) };
        if (type === "version.use") return { type, ...own, ...made };
        return { type, ...own, ...made, trackId: this.#id(), seed };
      }
      case "clip.source":
        return { type, clipId, recordingId: this.#any(doc, "recordings") };
      case "clip.squareOne":
        return { type, clipIds: [clipId] };
      case "steps.toRecording": {
        const stepIds = ownSteps.length > 0 ? ownSteps.map((s) => s.id) : ["gone"];
        return { type, clipId, stepIds, chainId: this.#id() };
      }
      case "clip.independent": {
        const stepIds = Array.from({ length: 64 }, () => this.#id());
        const recordingId = this.#id();
        return { type, clipIds: [clipId], recordingId, name: "Own", chainId: this.#id(), stepIds };
      }
      case "recording.bin":
        return { type, recordingIds: [this.#any(doc, "recordings")], at: this.random() < 0.5 ? 1e12 : null };
      case "step.add":
        return { type, owner, chainId: this.#id(), step: newStep(this.#id(), "gain", { gainDb: 1 }), before };
      case "step.remove":
        return { type, owner, stepId };
      case "step.move":
        return { type, owner, stepId, before };
      case "step.set":
        return this.random() < 0.5
          ? { type, owner, stepId, on: this.random() < 0.5 }
          : { type, owner, stepId, params: { gainDb: this.whole(20) }, span: { from: 0, to: frame + 1 } };
      case "chain.replace":
        return { type, owner, chainId: this.#id(), steps: newSteps(), source: "a preset" };
      case "span.set": {
        const range = this.random() < 0.3 ? null : { from: frame, to: frame + 1 + this.whole(60000) };
        return { type, steps: [{ owner, stepId }], range, edgeMs: this.whole(500) };
      }
      case "span.move":
      case "span.trim": {
        const spanned = [...doc.values("clips")].flatMap(({ id, chain }) => {
          const step = chain === null ? undefined : doc.get("chains", chain)?.steps.find((s) => s.span);
          return step ? [{ owner: { table: "clips" as const, id }, stepId: step.id }] : [];
        });
        const of = this.#pick(spanned) ?? { owner, stepId };
        if (type === "span.trim") return { type, ...of, to: frame + 1 };
        return { type, ...of, by: this.whole(20000) - 10000 };
      }
      case "chain.link":
        return { type, from: clipId, clipIds: [this.#any(doc, "clips")] };
      case "chain.unlink":
        return { type, clipId, chainId: this.#id(), stepIds: ownSteps.map(() => this.#id()) };
      case "mix.set":
        return { type, gainDb };
      case "project.rename":
        return { type, name: `Project ${this.whole(100)}` };
      case "recording.add": {
        const facts = { name: "Import", media: null, frames: FRAMES, channels: 1, sampleRate: 44100 };
        return { type, recording: newRecording(this.#id(), { ...facts, kind: "import" }) };
      }
      case "recording.remove":
        return { type, recordingId: this.#any(doc, "recordings") };
      case "track.add":
        return { type, track: newTrack(this.#id(), "Another", this.whole(50)) };
      case "track.remove":
        return { type, trackId: doc.size("tracks") > 2 ? trackId : "gone" };
      case "track.set":
        return { type, trackId, gainDb, muted: this.random() < 0.3 };
      case "section.add":
        return { type, section: newSection(this.#id(), "A part", frame, 1 + this.whole(1000)) };
      case "section.remove":
        return { type, sectionId: this.#any(doc, "sections") };
    }
  }
}
