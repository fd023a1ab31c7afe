// The page's side of playback: starts and stops, and says where the playhead is.
import type { LiveLevels } from "$lib/core/measure/meter";
import type { MonitorSetting } from "$lib/core/monitor/monitor";
import { changesBetween, type Document } from "$lib/core/session/document";
import EngineWorker from "./engine.worker?worker";
import workletUrl from "./player.worklet.ts?worker&url";
import type { Loop } from "./producer";
import type { FromEngine, ToEngine } from "./protocol";
import { Ring, ringMemory, State } from "./ring";

/** How it plays. */
export interface PlayingState {
  /** How far the ear guard turns the monitor down, in dB. */
  readonly easedDb: number;
  /** Share of one core that the mix takes. */
  readonly load: number;
}

export interface PlayerEvents {
  onplaying(playing: boolean): void;
  onlevels(levels: LiveLevels, tracks: Readonly<Record<string, number>>, at: PlayingState): void;
  /** Share that is done of what must be heard before playing; null: nothing more. */
  onpreparing(share: number | null): void;
  /** Clips that sound as they did until they are computed; share that is done of the one that is computed now. */
  oncomputing(clipIds: readonly string[], share: number): void;
  onfault(message: string): void;
}

interface Mark {
  readonly frame: number;
  readonly position: number;
}

export class Player {
  readonly #worker = new EngineWorker();
  readonly #memory = ringMemory();
  readonly #ring = new Ring(this.#memory);
  #context: AudioContext | undefined;
  #starting: Promise<AudioContext> | undefined;
  #marks: Mark[] = [];
  #epoch = 0;
  #playing = false;
  #rest = 0;
  #endFrame: number | undefined;
  #document: Document | undefined;

  constructor(
    private readonly sampleRate: number,
    projectId: string,
    private readonly events: PlayerEvents
  ) {
    this.#worker.onmessage = ({ data }: MessageEvent<FromEngine>) => this.#hear(data);
    this.#tell({ type: "init", ring: this.#memory, sampleRate, projectId });
  }

  #tell(message: ToEngine): void {
    this.#worker.postMessage(message);
  }

  #hear(message: FromEngine): void {
    if (message.type === "refused") {
      this.events.onfault(message.message);
      return;
    }
    if (message.type === "preparing") {
      this.events.onpreparing(message.share);
      return;
    }
    if (message.type === "computing") {
      this.events.oncomputing(message.clipIds, message.share);
      return;
    }
    if (message.epoch !== this.#epoch) return;
    if (message.type === "mark") this.#marks.push(message);
    if (message.type === "levels") this.events.onlevels(message.levels, message.tracks, message);
    if (message.type === "ended") this.#endFrame = message.frame;
    if (message.type === "failed") {
      if (this.#playing) this.stop();
      this.events.onfault(message.message);
    }
  }

  #set(playing: boolean): void {
    this.#playing = playing;
    this.events.onplaying(playing);
  }

  async #open(): Promise<AudioContext> {
    const context = new AudioContext({ sampleRate: this.sampleRate, latencyHint: "interactive" });
    await context.audioWorklet.addModule(workletUrl);
    const node = new AudioWorkletNode(context, "wring-player", {
      numberOfInputs: 0,
      outputChannelCount: [2],
      processorOptions: this.#memory
    });
    node.connect(context.destination);
    this.#context = context;
    return context;
  }

  /** Opens the audio output ahead of the first play, so that play starts at once. */
  async warmUp(): Promise<void> {
    this.#starting ??= this.#open();
    await this.#starting;
  }

  get playing(): boolean {
    return this.#playing;
  }

  /** Position at which sound is heard now, in frames; where it was stopped when it is stopped. */
  get position(): number {
    if (!this.#playing || this.#marks.length === 0) return this.#rest;
    const read = this.#ring.read;
    if (this.#endFrame !== undefined && ((read - this.#endFrame) | 0) >= 0) {
      const end = this.#at(read);
      this.#finish(end);
      return end;
    }
    const latency = Math.round((this.#context?.outputLatency ?? 0) * this.sampleRate);
    return this.#at((read - latency) | 0);
  }

  #at(frame: number): number {
    while (this.#marks.length > 1 && ((frame - this.#marks[1].frame) | 0) >= 0) this.#marks.shift();
    const [mark] = this.#marks;
    return mark.position + Math.max(0, (frame - mark.frame) | 0);
  }

  #finish(at: number): void {
    this.#rest = at;
    this.#epoch++;
    this.#tell({ type: "stop" });
    this.#ring.state = State.stopped;
    this.#set(false);
  }

  /** Says what is to be played: the first time all of it, then what has changed since. */
  setDocument(document: Document): void {
    const last = this.#document;
    if (last === document) return;
    this.#document = document;
    if (!last) this.#tell({ type: "document", document: document.toJson() });
    else {
      const changes = changesBetween(last, document);
      if (changes.length > 0) this.#tell({ type: "changes", changes });
    }
  }

  setLoop(loop: Loop | null): void {
    this.#tell({ type: "loop", loop });
  }

  /** Whether what changed clips need is computed by itself. */
  setBackground(on: boolean): void {
    this.#tell({ type: "background", on });
  }

  setMonitor(setting: MonitorSetting): void {
    this.#tell({ type: "monitor", setting });
  }

  /**
   * Starts at a position, or goes there when it plays already.
   * @param until where it stops by itself; null: at the end
   */
  async play(from: number, until: number | null = null): Promise<void> {
    this.#starting ??= this.#open();
    this.#begin(from, until);
    const context = await this.#starting;
    if (context.state === "suspended") await context.resume();
  }

  #begin(from: number, until: number | null = null): void {
    this.#epoch++;
    this.#marks = [];
    this.#endFrame = undefined;
    this.#rest = from;
    if (this.#ring.state === State.playing) this.#ring.state = State.stopping;
    this.#tell({ type: "play", from, until, epoch: this.#epoch });
    this.#set(true);
  }

  /** Stops and stays where it was. */
  stop(): void {
    if (!this.#playing) return;
    const at = this.position;
    if (!this.#playing) return;
    this.#rest = at;
    this.#epoch++;
    this.#tell({ type: "stop" });
    this.#ring.state = State.stopping;
    this.#set(false);
  }

  /** Puts the playhead somewhere; playing goes on from there. */
  locate(position: number): void {
    if (this.#playing) this.#begin(position);
    else {
      this.#rest = position;
      this.#tell({ type: "prepare", from: position });
    }
  }

  async close(): Promise<void> {
    this.#worker.terminate();
    this.#ring.state = State.stopped;
    await this.#context?.close();
  }
}
