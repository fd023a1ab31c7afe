// How the edit screen is laid out, by the user's choice; kept in the browser.
import { z } from "zod";

const KEY = "wring.layout";

/** Most by which waveforms are drawn taller: sound at -60 dBFS fills its lane then. */
export const ZOOM_MOST = 1024;

/** Height of the bench when it shows its title alone, and at first. */
export const BENCH_LEAST = 38;
export const BENCH_STANDARD = 330;
/** Room that the timeline keeps. */
const ABOVE = 250;
/** Heights of lanes: those that can be chosen, the one at first, and the limits of dragging. */
export const LANES = { low: 40, middle: 72, high: 140 } as const;
export const LANE_STANDARD = 53;
export const LANE_LEAST = 40;
export const LANE_MOST = 300;

const laneHeight = z.number().min(LANE_LEAST).max(LANE_MOST);
const kept = z.object({
  bench: z.number().min(BENCH_LEAST),
  all: laneHeight,
  own: z.record(z.string(), laneHeight),
  zooms: z.record(z.string(), z.number().min(1).max(ZOOM_MOST)).default({}),
  oneScale: z.boolean().default(false),
  overlaid: z.boolean().default(false),
  zoomed: z.boolean().default(false),
  spectra: z.boolean().default(false),
  picture: z.boolean().default(true),
  clipLines: z.boolean().default(false),
  trackLines: z.record(z.string(), z.enum(["gain", "pan"])).default({})
});

function restored(): z.infer<typeof kept> | undefined {
  try {
    return kept.safeParse(JSON.parse(localStorage.getItem(KEY) ?? "null")).data;
  } catch {
    // Not what this wrote: the standard heights then.
    return undefined;
  }
}

export class Layout {
  /** Height of the bench in pixels. */
  bench = $state(BENCH_STANDARD);
  /** Before and after are drawn by one scale. */
  oneScale = $state(false);
  /** Before and after lie over each other. */
  overlaid = $state(false);
  /** Before and after show what the timeline shows of the clip. */
  zoomed = $state(false);
  /** Before and after are drawn as spectra over time. */
  spectra = $state(false);
  /** Whether the picture of videos is shown. */
  picture = $state(true);
  /** Whether the gain line of the clip on the bench is shown where it has none yet. */
  clipLines = $state(false);
  /** The line of a track that is shown, by its id. */
  #trackLines = $state.raw<Readonly<Record<string, "gain" | "pan">>>({});
  /** Height of the lanes that have none of their own. */
  #all = $state<number>(LANE_STANDARD);
  /** Heights by the tracks' ids. */
  #own = $state.raw<Readonly<Record<string, number>>>({});
  /** By how much taller the waveforms of a track are drawn, by its id. */
  #zooms = $state.raw<Readonly<Record<string, number>>>({});

  constructor() {
    const before = restored();
    if (!before) return;
    this.bench = before.bench;
    this.#all = before.all;
    this.#own = before.own;
    this.#zooms = before.zooms;
    this.oneScale = before.oneScale;
    this.overlaid = before.overlaid;
    this.zoomed = before.zoomed;
    this.spectra = before.spectra;
    this.picture = before.picture;
    this.clipLines = before.clipLines;
    this.#trackLines = before.trackLines;
  }

  /** Height of a track's lane in pixels. */
  lane(trackId: string): number {
    return this.#own[trackId] ?? this.#all;
  }

  /** Gives one lane a height of its own. */
  setLane(trackId: string, height: number): void {
    this.#own = { ...this.#own, [trackId]: Math.round(Math.min(LANE_MOST, Math.max(LANE_LEAST, height))) };
  }

  /** By how much taller a track's waveforms are drawn. */
  zoom(trackId: string): number {
    return this.#zooms[trackId] ?? 1;
  }

  /** Draws a track's waveforms taller by a factor. */
  taller(trackId: string, factor: number): void {
    const zoom = Math.min(ZOOM_MOST, Math.max(1, this.zoom(trackId) * factor));
    this.#zooms = { ...this.#zooms, [trackId]: zoom };
  }

  /** Gives all lanes the same height. */
  setLanes(height: number): void {
    this.#own = {};
    this.#all = height;
  }

  /** The line of a track that is shown. */
  trackLine(trackId: string): "gain" | "pan" | undefined {
    return this.#trackLines[trackId];
  }

  /** Shows a line of a track, or no longer when it is shown. */
  toggleTrackLine(trackId: string, kind: "gain" | "pan"): void {
    const { [trackId]: now, ...others } = this.#trackLines;
    this.#trackLines = now === kind ? others : { ...others, [trackId]: kind };
  }

  /** Most that the bench may take in a window of a height. */
  most(windowHeight: number): number {
    return Math.max(BENCH_STANDARD, windowHeight - ABOVE);
  }

  /** Call in an effect: keeps what is chosen. */
  keep(): void {
    const { bench, oneScale, overlaid, zoomed, spectra, picture, clipLines } = this;
    const lanes = { all: this.#all, own: this.#own, zooms: this.#zooms, trackLines: this.#trackLines };
    const now = { bench, oneScale, overlaid, zoomed, spectra, picture, clipLines, ...lanes };
    localStorage.setItem(KEY, JSON.stringify(now));
  }
}
