// A player that plays nothing and notes what it is told.
import type { PlayerEvents } from "../../src/lib/playback/player";
import type { Document } from "../../src/lib/core/session/document";

export class FakePlayer {
  static last: FakePlayer;
  playing = false;
  position = 0;
  document: Document | undefined;
  loop: unknown = null;
  readonly calls: [string, number][] = [];
  trouble: Error | undefined;
  constructor(
    readonly rate: number,
    readonly projectId: string,
    readonly events: PlayerEvents
  ) {
    FakePlayer.last = this;
  }
  warmUp = () => Promise.resolve();
  /** Where it is to stop by itself. */
  until: number | null = null;
  play(from: number, until: number | null = null): Promise<void> {
    this.calls.push(["play", from]);
    this.until = until;
    if (this.trouble) return Promise.reject(this.trouble);
    this.playing = true;
    this.events.onplaying(true);
    return Promise.resolve();
  }
  stop(): void {
    this.playing = false;
    this.events.onplaying(false);
  }
  locate(at: number): void {
    this.calls.push(["locate", at]);
  }
  setDocument(document: Document): void {
    this.document = document;
  }
  setLoop(loop: unknown): void {
    this.loop = loop;
  }
  setMonitor(): void {
    // Nothing is heard here.
  }
  close = () => Promise.resolve();
}
