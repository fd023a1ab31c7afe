// Brings the outbox to the server: in order, again and again until it is confirmed or refused.
import type { EditsAnswer } from "$lib/api/types";
import type { Outgoing } from "$lib/core/session/replica";
import { Refused } from "../shared/api";

/** Why edits are not saved at the moment; null: they are on their way. */
export type Hindrance = "no connection" | "the disk is full" | null;

export interface SenderPort {
  /** Edits that wait, the oldest first. */
  waiting(): readonly Outgoing[];
  post(edits: readonly Outgoing[]): Promise<EditsAnswer>;
  onanswer(answer: EditsAnswer, sent: readonly Outgoing[]): Promise<void> | void;
  /** The server will never take these: why, in a sentence. */
  onrefused(sent: readonly Outgoing[], sentence: string): void;
  onhindrance(hindrance: Hindrance): void;
  /** Waits before the next try. */
  wait(ms: number): Promise<void>;
}

const AT_ONCE = 50;
const FIRST_WAIT_MS = 250;
const LONGEST_WAIT_MS = 5000;
const DISK_FULL = 507;
const NO_ANSWER = 0;
const SERVER_FAULT = 500;

export class Sender {
  #running: Promise<void> | undefined;
  #closed = false;

  constructor(private readonly port: SenderPort) {}

  /** Call it when something waits. Resolves when nothing does any more. */
  wake(): Promise<void> {
    this.#running ??= this.#run().finally(() => {
      this.#running = undefined;
    });
    return this.#running;
  }

  close(): void {
    this.#closed = true;
  }

  async #run(): Promise<void> {
    let pause = FIRST_WAIT_MS;
    let most = AT_ONCE;
    while (!this.#closed && this.port.waiting().length > 0) {
      const sent = this.port.waiting().slice(0, most);
      try {
        const answer = await this.port.post(sent);
        await this.port.onanswer(answer, sent);
        this.port.onhindrance(null);
        pause = FIRST_WAIT_MS;
        most = AT_ONCE;
      } catch (error) {
        if (!(error instanceof Refused)) throw error;
        if (error.status !== NO_ANSWER && error.status < SERVER_FAULT) {
          // One that cannot be read must not take the others with it: each is sent by itself then.
          if (sent.length > 1) most = 1;
          else this.port.onrefused(sent, error.message);
          continue;
        }
        this.port.onhindrance(error.status === DISK_FULL ? "the disk is full" : "no connection");
        await this.port.wait(pause);
        pause = Math.min(LONGEST_WAIT_MS, pause * 2);
      }
    }
  }
}
