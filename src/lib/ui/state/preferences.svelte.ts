// How one works on the timeline, by one's own choice; kept in the browser.
import { z } from "zod";
import { DROP_RULES, type DropRule } from "$lib/core/session/drop";
import { fadeShapeSchema, type FadeShape } from "$lib/core/session/schema";
import { SNAP_KINDS, type SnapKind } from "$lib/core/session/snap";
import { TIMECODES } from "$lib/core/units/timecode";
import { TIME_KINDS, type TimeFormat } from "$lib/core/units/timeFormat";

const KEY = "wring.timeline";

/** What pulling over the lanes does: it moves clips, or it selects time. */
export const PULLS = ["clips", "time"] as const;
export type PullKind = (typeof PULLS)[number];

export const RULE_NAMES: Record<DropRule, string> = {
  crossfade: "crossfade",
  cover: "cover",
  stayClear: "stay clear",
  pushAlong: "push along"
};

/** Limits of a nudge and of the crossfades at cuts, in milliseconds. */
export const NUDGE_MOST_MS = 60000;
export const BLEND_MOST_MS = 500;

const timeFormat = z.object({
  kind: z.enum(TIME_KINDS),
  timecode: z.enum(TIMECODES),
  tempo: z.number().min(20).max(400),
  beats: z.number().int().min(1).max(16)
});

const kept = z.object({
  rule: z.enum(DROP_RULES),
  pulls: z.enum(PULLS),
  snapping: z.boolean(),
  snapTo: z.array(z.enum(SNAP_KINDS)),
  nudgeMs: z.number().gt(0).max(NUDGE_MOST_MS),
  blendMs: z.number().min(0).max(BLEND_MOST_MS),
  crossMs: z.number().gt(0).max(10000),
  time: timeFormat,
  newFade: fadeShapeSchema,
  background: z.boolean()
});
type Kept = z.infer<typeof kept>;

const STANDARD: Kept = {
  rule: "crossfade",
  pulls: "clips",
  snapping: true,
  snapTo: ["clips", "sections", "playhead"],
  nudgeMs: 10,
  blendMs: 5,
  crossMs: 20,
  time: { kind: "clock", timecode: "25", tempo: 120, beats: 4 },
  newFade: { curve: "straight" },
  background: true
};

function restored(): Kept {
  try {
    const found = kept.partial().safeParse(JSON.parse(localStorage.getItem(KEY) ?? "{}"));
    return { ...STANDARD, ...(found.success ? found.data : {}) };
  } catch {
    // Not what this wrote.
    return STANDARD;
  }
}

export class Preferences {
  rule = $state<DropRule>(STANDARD.rule);
  pulls = $state<PullKind>(STANDARD.pulls);
  snapping = $state(STANDARD.snapping);
  snapTo = $state.raw<readonly SnapKind[]>(STANDARD.snapTo);
  nudgeMs = $state(STANDARD.nudgeMs);
  /** Of the crossfades at cuts that an action makes. */
  blendMs = $state(STANDARD.blendMs);
  /** Of crossfades that are asked for. */
  crossMs = $state(STANDARD.crossMs);
  time = $state.raw<TimeFormat>(STANDARD.time);
  /** Shape of new fades. */
  newFade = $state.raw<FadeShape>(STANDARD.newFade as FadeShape);
  /** Whether steps that need a clip as a whole are computed by themselves after a change, or when the clip is about to sound. */
  background = $state(STANDARD.background);

  constructor() {
    const before = restored();
    this.rule = before.rule;
    this.pulls = before.pulls;
    this.snapping = before.snapping;
    this.snapTo = before.snapTo;
    this.nudgeMs = before.nudgeMs;
    this.blendMs = before.blendMs;
    this.crossMs = before.crossMs;
    this.time = before.time;
    this.newFade = before.newFade as FadeShape;
    this.background = before.background;
  }

  /** Call in an effect: keeps what is chosen. */
  keep(): void {
    const { rule, pulls, snapping, snapTo, nudgeMs, blendMs, crossMs, time, newFade, background } = this;
    const now = { rule, pulls, snapping, snapTo, nudgeMs, blendMs, crossMs, time, newFade, background };
    localStorage.setItem(KEY, JSON.stringify(now));
  }

  /** Samples of so many milliseconds. */
  static frames(ms: number, sampleRate: number): number {
    return Math.round((ms / 1000) * sampleRate);
  }
}
