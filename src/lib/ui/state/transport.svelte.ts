import { heardDocument } from "$lib/core/render/compare";
import type { MonitorSetting } from "$lib/core/monitor/monitor";
import type { LiveLevels } from "$lib/core/measure/meter";
import { Player } from "$lib/playback/player";
import { notices } from "../shared/notices.svelte";
import type { Hearing } from "./hearing.svelte";
import type { Selection } from "./selection.svelte";
import type { Session } from "./session.svelte";
import type { Trials } from "./trial.svelte";

const SILENT: LiveLevels = {
  momentary: -Infinity,
  shortTerm: -Infinity,
  integrated: -Infinity,
  truePeak: -Infinity
};

/** Of what was measured in the last tenth of a second. */
const LOAD_WEIGHT = 0.2;
/** The audio output is opened so long after the page. */
const WARM_UP_MS = 400;

/** Playing, the playhead, the loop, the meters, before and after. */
export class Transport {
  playing = $state(false);
  position = $state(0);
  levels = $state.raw<LiveLevels>(SILENT);
  /** Sample peaks of the tracks in dBFS, by id, while it plays. */
  tracks = $state.raw<Readonly<Record<string, number>>>({});
  /** Share that steps have heard of their whole clip, which they must before it can sound; null: nothing to wait for. */
  preparing = $state<number | null>(null);
  /** Clips that sound as they did until what their steps need is computed. */
  computing = $state.raw<ReadonlySet<string>>(new Set());
  /** Share that is done of the one that is computed now. */
  computed = $state(0);
  looping = $state(false);
  /** Share of one core that the mix takes while it plays, over about a second; of the last play when it rests. */
  load = $state(0);
  /** How far the ear guard turns the monitor down, in dB. */
  easedDb = $state(0);
  /** What is previewed: it plays round and round; null: nothing is. */
  preview = $state.raw<{ readonly from: number; readonly to: number } | null>(null);
  readonly #player: Player;
  #tick = 0;

  readonly #warming: ReturnType<typeof setTimeout>;

  constructor(
    private readonly session: Session,
    private readonly selection: Selection,
    private readonly hearing: Pick<Hearing, "heard">,
    private readonly trials: Pick<Trials, "now" | "end">
  ) {
    this.#player = new Player(session.document.sampleRate, session.projectId, {
      onplaying: (playing) => {
        this.playing = playing;
        if (!playing) {
          this.tracks = {};
          this.easedDb = 0;
          this.preview = null;
          this.trials.end();
        }
        if (playing) this.#watch();
      },
      onlevels: (levels, tracks, { easedDb, load }) => {
        this.levels = levels;
        this.tracks = tracks;
        this.easedDb = easedDb;
        this.load = this.load + LOAD_WEIGHT * (load - this.load);
      },
      onpreparing: (share) => (this.preparing = share),
      oncomputing: (clipIds, share) => {
        this.computed = share;
        const now = this.computing;
        if (clipIds.length !== now.size || clipIds.some((id) => !now.has(id)))
          this.computing = new Set(clipIds);
      },
      onfault: (message) => notices.fault(message)
    });
    // Opening the output holds the page up: what is to be seen comes first.
    this.#warming = setTimeout(() => {
      this.#player.warmUp().catch((error: unknown) => notices.fault(error));
    }, WARM_UP_MS);
  }

  /** What is heard of what is shown: the same object as long as neither changes, so that it is given once. */
  readonly #heard = $derived.by(
    () => this.trials.now?.document ?? heardDocument(this.session.shown, this.hearing.heard)
  );

  /** Gives the player what is heard now: call as soon as it changes, and in an effect. */
  giveDocument(): void {
    this.#player.setDocument(this.#heard);
  }

  /** Call in an effect: what is previewed is the loop, else the selected range when looping is on. */
  giveLoop(): void {
    const { range } = this.selection;
    const loop = this.preview ?? (this.looping ? range : null);
    this.#player.setLoop(loop && { from: loop.from, to: loop.to });
  }

  /** Call in an effect: how one listens. */
  giveMonitor(setting: MonitorSetting): void {
    this.#player.setMonitor(setting);
  }

  /** Call in an effect: whether what changed clips need is computed by itself. */
  giveBackground(on: boolean): void {
    this.#player.setBackground(on);
  }

  /** Plays a stretch of the timeline round and round, at once. */
  playRound(from: number, to: number): void {
    this.preview = null;
    this.playStretch(from, null);
    this.preview = { from, to };
    this.giveLoop();
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

  close(): void {
    cancelAnimationFrame(this.#tick);
    clearTimeout(this.#warming);
    this.#player.close().catch((error: unknown) => notices.fault(error));
  }
}
