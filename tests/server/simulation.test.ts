// Two pages and a server with an unreliable line between them: answers are lost, doubled and late, the server is started anew.
// Afterwards all three have the same document, every confirmed edit is in it, none twice, and undo goes back to the first.
import "./folder";
import { afterAll, describe, expect, it } from "vitest";
import { Document } from "../../src/lib/core/session/document";
import type { History } from "../../src/lib/core/session/history";
import { CommandRefused } from "../../src/lib/core/session/refused";
import { Replica, type Entry, type Outgoing } from "../../src/lib/core/session/replica";
import { closeDatabase } from "../../src/lib/server/db/connection";
import { subscribe } from "../../src/lib/server/events";
import { edit, entriesSince } from "../../src/lib/server/services/edits";
import { closeAllProjects } from "../../src/lib/server/services/openProjects";
import { projectState, storeProject } from "../../src/lib/server/services/projects";
import type { EditsAnswer } from "../../src/lib/api/types";
import { CommandMaker, randomOf, smallProject } from "../support/randomCommands";
import * as project from "../support/project";

const EDITS = Number(process.env.WRING_SIMULATED_EDITS ?? 1500);
const SEED = Number(process.env.WRING_SIMULATION_SEED ?? 20261125);
/** Runs, each with a seed of its own. A history keeps 5,000 entries, undo and redo among them: one run, undone to its start, must stay below. */
const RUNS = Number(process.env.WRING_SIMULATIONS ?? 1);
const seeds = Array.from({ length: RUNS }, (_, i) => SEED + i);

const text = (doc: Document) => JSON.stringify(doc.toJson());

class Page {
  readonly replica: Replica;
  readonly maker: CommandMaker;
  /** News and answers that are still on the line. */
  readonly line: Entry[][] = [];
  readonly confirmed = new Set<string>();
  #made = 0;

  constructor(
    readonly name: string,
    private readonly id: string,
    state: ConstructorParameters<typeof Replica>[0],
    private readonly random: () => number
  ) {
    this.replica = new Replica(state, name);
    this.maker = new CommandMaker(random, name);
  }

  make(): void {
    const editId = `${this.name}-edit-${++this.#made}`;
    try {
      if (this.random() < 0.12) this.replica.step(editId, this.random() < 0.7 ? "undo" : "redo");
      else this.replica.make(editId, this.maker.any(this.replica.shown));
    } catch (error) {
      if (!(error instanceof CommandRefused)) throw error;
    }
  }

  /** Sends what waits; the answer may be lost on the way back. */
  async send(lossy: boolean): Promise<void> {
    const edits = this.replica.outbox.slice(0, 1 + Math.floor(this.random() * 5));
    if (edits.length === 0) return;
    const request = { page: this.name, known: this.replica.revision, edits: edits as Outgoing[] };
    const answer: EditsAnswer = await edit(this.id, request);
    // The line delivers the same request again now and then.
    if (lossy && this.random() < 0.2) await edit(this.id, request);
    if (lossy && this.random() < 0.25) return;
    for (const { editId } of answer.refused) this.replica.refuse(editId);
    this.take([...answer.entries]);
  }

  take(entries: Entry[]): void {
    try {
      this.replica.take(entries);
      for (const entry of entries) this.confirmed.add(entry.editId);
    } catch (error) {
      // Something before it is missing: it comes when the page catches up.
      if (!(error instanceof RangeError)) throw error;
    }
  }

  async catchUp(): Promise<void> {
    this.take(await entriesSince(this.id, this.replica.revision));
  }
}

describe("two pages on an unreliable line", () => {
  afterAll(closeDatabase);

  it.each(seeds)(
    `end in the same document after ${EDITS} edits, seed %i`,
    { timeout: 600000 },
    async (seed) => {
      const random = randomOf(seed);
      const first = smallProject();
      const id = await storeProject(first);
      const start = await projectState(id);
      const state = { revision: 0, document: Document.fromJson(start.document), history: start.history };
      const pages = ["one", "two"].map((name) => new Page(name, id, state, random));
      const stop = subscribe(id, (event) => {
        if (event.type === "entries")
          for (const page of pages) if (random() < 0.8) page.line.push([...event.entries]);
      });
      for (let i = 0; i < EDITS; i++) {
        const page = pages[Math.floor(random() * 2)];
        if (!page) continue;
        page.make();
        const luck = random();
        if (luck < 0.5) await page.send(true);
        // News comes late, out of order, or twice.
        if (luck > 0.3 && page.line.length > 0) {
          const [news] = page.line.splice(Math.floor(random() * page.line.length), random() < 0.8 ? 1 : 0);
          if (news) page.take(news);
        }
        if (luck > 0.95) await page.catchUp();
        if (random() < 0.01) {
          await closeDatabase();
          closeAllProjects();
        }
      }
      for (const page of pages)
        while (page.replica.outbox.length > 0) {
          await page.catchUp();
          await page.send(false);
        }
      for (const page of pages) await page.catchUp();
      stop();

      const log = await entriesSince(id, 0);
      const server = await project.documentNow(id);
      for (const page of pages) {
        expect(text(page.replica.shown)).toBe(text(server));
        expect(page.replica.outbox).toEqual([]);
        const newest = (history: History) => history.undo.slice(-100).map((h) => h.editId);
        expect(newest(page.replica.history)).toEqual(newest((await projectState(id)).history));
        for (const editId of page.confirmed) expect(log.filter((e) => e.editId === editId)).toHaveLength(1);
      }
      expect(log.map((e) => e.revision)).toEqual(log.map((_, i) => i + 1));
      expect(log.length).toBeGreaterThan(EDITS / 4);
      expect(new Set(log.map((e) => e.page))).toEqual(new Set(["one", "two"]));
      // What the log says is what there is.
      expect(text(log.reduce((doc, entry) => doc.with(entry.changes), first))).toBe(text(server));

      for (let left = (await projectState(id)).history.undo.length; left > 0;) {
        await project.step(id, "undo");
        left = (await projectState(id)).history.undo.length;
      }
      expect(text(await project.documentNow(id))).toBe(text(first));
    }
  );
});
