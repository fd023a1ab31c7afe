import type { z } from "zod";
import type { Command } from "$lib/core/session/commands";
import type { NewRecording } from "../../services/recordings";
import type { Task, TaskResult } from "../tasks/task";

export interface JobContext {
  readonly jobId: string;
  readonly projectId: string;
  /** Folder of this job alone; removed when it ends. */
  readonly scratch: string;
}

/** What a task's result does: within one transaction with the job's end. */
export interface Completion {
  /** A file that is now in the store, or several. */
  readonly recording?: NewRecording;
  readonly recordings?: readonly NewRecording[];
  /** What it changes in the project. */
  readonly command?: Command;
  /** What pages are told. */
  readonly view: unknown;
}

/** One kind of job: its order, what a worker is to do, and what the result does. Everything may be done again after a restart. */
export interface JobKind<Order = unknown> {
  readonly kind: string;
  /** What is stored, so that it can run after a restart as well. */
  readonly order: z.ZodType<Order>;
  /** Whether it goes on after a restart; else it ends with a sentence. */
  readonly resumes: boolean;
  /** Whether it is so little work that it may wait for the others that were taken with it, and end together with them; else it is not. */
  light?(order: Order): boolean;
  /** Sentence around a file's or clip's fault. */
  fault(order: Order, fault: string): string;
  /** Bytes that it may write at most. @throws UserFault when the order cannot be carried out any more */
  room(order: Order, context: JobContext): Promise<{ readonly bytes: number; readonly what: string }>;
  prepare(order: Order, context: JobContext): Promise<Task>;
  /**
   * Puts files in place, and says what else the result does. Called once more when that is refused because the project has changed meanwhile:
   * another import of the same sound may have ended first.
   */
  complete(order: Order, result: TaskResult, context: JobContext): Promise<Completion>;
  /** Once it has ended, done or not: removes what it was made from, orders what comes after it. */
  clear?(order: Order, context: JobContext, done: boolean): void | Promise<void>;
}

/** Keeps the types of a kind together. */
export function jobKind<Order>(definition: JobKind<Order>): JobKind<Order> {
  return definition;
}
