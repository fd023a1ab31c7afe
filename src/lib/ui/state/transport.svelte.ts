import { comparedDocument, equalLoudnessGains, type Comparison } from "$lib/core/render/compare";
import type { LiveLevels } from "$lib/core/measure/meter";
import { Player } from "$lib/playback/player";
import { notices } from "../shared/notices.svelte";
import type { Analysis } from "./analysis.svelte";
import type { Selection } from "./selection.svelte";
import type { Session } from "./session.svelte";

const SILENT: LiveLevels = {
  momentary: -Infinity,
  shortTerm: -Infinity,
  integrated: -Infinity,
  truePeak: -Infinity
};

/** Playing, the playhead, the loop, the meters, before and after. */
/** The audio output is opened so long after the page. */
const WARM_UP_MS = 400;

export class Transport {
  playing = $state(false);
  position = $state(0);
  levels = $state.raw<LiveLevels>(SILENT);
  /** Sample peaks of the tracks in dBFS, by id, while it plays. */
  tracks = $state.raw<Readonly<Record<string, number>>>({});
  /** Share that steps have heard of their whole clip, which they must before it can sound; null: nothing to wait for. */
  preparing = $state<number | null>(null);
  looping = $state(false);
  listen = $state<"before" | "after">("after");
  equalLoudness = $state(false);
  readonly #player: Player;
  #tick = 0;

  readonly #warming: ReturnType<typeof setTimeout>;

  constructor(
    private readonly session: Session,
    private readonly selection: Selection,
    private readonly analysis: Analysis
  ) {
    this.#player = new Player(session.document.sampleRate, session.projectId, {
      onplaying: (playing) => {
        this.playing = playing;
        if (!playing) this.tracks = {};
        if (playing) this.#watch();
      },
      onlevels: (levels, tracks) => {
        this.levels = levels;
        this.tracks = tracks;
      },
      onpreparing: (share) => (this.preparing = share),
      onfault: (message) => notices.fault(message)
    });
    // Opening the output holds the page up: what is to be seen comes first.
    this.#warming = setTimeout(() => {
      this.#player.warmUp().catch((error: unknown) => notices.fault(error));
    }, WARM_UP_MS);
  }

  /** Gains that make before and after of what is on the bench equally loud; undefined until both are measured. */
  get gains(): Pick<Comparison, "beforeGainDb" | "afterGainDb"> | undefined {
    const { start, output } = this.analysis;
    if (!start || !output) return undefined;
    const gainDb = this.#gainBehind();
    const before = {
      integratedLufs: start.integratedLufs + gainDb,
      truePeakDbtp: start.truePeakDbtp + gainDb
    };
    return equalLoudnessGains(before, output);
  }

  /** The gain behind the chain on the bench: that of the clip, the track, the mix. */
  #gainBehind(): number {
    const { owner, clip } = this.selection.subject;
    if (clip) return clip.gainDb;
    const doc = this.session.shown;
    if (owner.table === "tracks") return doc.get("tracks", owner.id)?.gainDb ?? 0;
    return owner.table === "project" ? doc.project.mix.gainDb : 0;
  }

  get comparison(): Comparison | null {
    const { owner } = this.selection.subject;
    if (this.listen === "after" && !this.equalLoudness) return null;
    const none = { beforeGainDb: 0, afterGainDb: 0 };
    return { owner, listen: this.listen, ...(this.equalLoudness ? (this.gains ?? none) : none) };
  }

  /** Call in an effect: gives the player what is shown now. */
  giveDocument(): void {
    this.#player.setDocument(comparedDocument(this.session.shown, this.comparison));
  }

  /** Call in an effect: the selected range is the loop when looping is on. */
  giveLoop(): void {
    const { range } = this.selection;
    this.#player.setLoop(this.looping && range ? { from: range.from, to: range.to } : null);
  }

  #watch(): void {
    cancelAnimationFrame(this.#tick);
    const look = () => {
      this.position = this.#player.position;
      if (this.#player.playing) this.#tick = requestAnimationFrame(look);
    };
    look();
  }

  toggle(): void {
    if (this.playing) {
      this.#player.stop();
      this.position = this.#player.position;
    } else this.play();
  }

  /** Plays the range, where one is selected, from the playhead when that lies in it; else from the playhead on. */
  play(): void {
    const { range } = this.selection;
    const outside = range !== null && (this.position < range.from || this.position >= range.to);
    this.playStretch(
      range && outside ? range.from : this.position,
      this.looping ? null : (range?.to ?? null)
    );
  }

  /** Plays from a frame on, up to another; null: to the end. */
  playStretch(from: number, until: number | null): void {
    this.levels = SILENT;
    this.#player.play(from, until).catch((error: unknown) => notices.fault(error));
  }

  locate(frame: number): void {
    this.position = Math.max(0, Math.round(frame));
    this.#player.locate(this.position);
  }

  switchListening(): void {
    this.listen = this.listen === "after" ? "before" : "after";
  }

  close(): void {
    cancelAnimationFrame(this.#tick);
    clearTimeout(this.#warming);
    this.#player.close().catch((error: unknown) => notices.fault(error));
  }
}
