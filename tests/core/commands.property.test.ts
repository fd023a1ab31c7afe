import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { invert, rebased } from "../../src/lib/core/session/changes";
import {
  applyChanges,
  applyCommand,
  COMMAND_TYPES,
  inverseOf,
  type Applied,
  type Command
} from "../../src/lib/core/session/commands";
import { changesBetween, Document } from "../../src/lib/core/session/document";
import { alike } from "../../src/lib/core/session/equal";
import { CommandRefused } from "../../src/lib/core/session/refused";
import { Replica, type Entry, type Outgoing } from "../../src/lib/core/session/replica";
import { documentFault } from "../../src/lib/core/session/validate";
import { NO_HISTORY } from "../../src/lib/core/session/history";
import { CommandMaker, randomOf, smallProject } from "../support/randomCommands";

const text = (doc: Document) => JSON.stringify(doc.toJson());

function tried(doc: Document, command: Command): Applied | undefined {
  try {
    return applyCommand(doc, command);
  } catch (error) {
    if (error instanceof CommandRefused) return undefined;
    throw error;
  }
}

const runs = fc.array(fc.record({ type: fc.constantFrom(...COMMAND_TYPES), seed: fc.nat() }), {
  minLength: 1,
  maxLength: 30
});

describe("all commands", () => {
  it("are each carried out in this test, not only refused", () => {
    let doc = smallProject();
    const maker = new CommandMaker(randomOf(7));
    const done = new Set<string>();
    for (let i = 0; i < 4000 && done.size < COMMAND_TYPES.length; i++) {
      // Now and then from the beginning: long histories leave little to treat.
      if (i % 200 === 199) doc = smallProject();
      const command = maker.one(doc);
      const applied = tried(doc, command);
      if (applied && applied.changes.length > 0) done.add(command.type);
      doc = applied?.document ?? doc;
    }
    expect([...done].sort()).toEqual([...COMMAND_TYPES].sort());
  });

  it("taken back in order, give the first document; done again, the last; every document is sound and survives JSON", () => {
    fc.assert(
      fc.property(runs, (wanted) => {
        const first = smallProject();
        let doc = first;
        const history: { command: Command; applied: Applied; before: Document }[] = [];
        wanted.forEach(({ type, seed }, i) => {
          const command = new CommandMaker(randomOf(seed), `n${i}`).of(type, doc);
          const applied = tried(doc, command);
          if (!applied) return;
          history.push({ command, applied, before: doc });
          doc = applied.document;
          expect(documentFault(doc)).toBeUndefined();
        });
        const last = text(doc);
        expect(text(Document.fromJson(JSON.parse(last)))).toBe(last);
        for (const { command, applied, before } of [...history].reverse()) {
          doc = applyChanges(doc, inverseOf(command, applied.changes));
          expect(text(doc)).toBe(text(before));
        }
        expect(text(doc)).toBe(text(first));
        for (const { applied } of history)
          doc = applyChanges(doc, JSON.parse(JSON.stringify(applied.changes)));
        expect(text(doc)).toBe(last);
      }),
      { numRuns: 150 }
    );
  });

  it("yield changes that are minimal: each entity once, none that is as it was, none that is missing", () => {
    fc.assert(
      fc.property(runs, (wanted) => {
        let doc = smallProject();
        wanted.forEach(({ type, seed }, i) => {
          const applied = tried(doc, new CommandMaker(randomOf(seed), `n${i}`).of(type, doc));
          if (!applied) return;
          const keys = applied.changes.map((c) => `${c.table}/${c.id}`);
          expect(new Set(keys).size).toBe(keys.length);
          for (const { before, after } of applied.changes) expect(alike(before, after)).toBe(false);
          const real = changesBetween(doc, applied.document).filter((c) => !alike(c.before, c.after));
          expect(real.map((c) => `${c.table}/${c.id}`).sort()).toEqual(keys.sort());
          doc = applied.document;
        });
      }),
      { numRuns: 100 }
    );
  });

  it("of two pages, interleaved in any order, end in the same document on both and on the server", () => {
    const turns = fc.array(fc.record({ page: fc.constantFrom(0, 1), act: fc.nat(9), seed: fc.nat() }), {
      minLength: 5,
      maxLength: 60
    });
    fc.assert(
      fc.property(turns, (list) => {
        const start = smallProject();
        const log: Entry[] = [];
        let server = start;
        const pages = ["one", "two"].map(
          (page) => new Replica({ revision: 0, document: start, history: NO_HISTORY }, page)
        );
        const accept = (page: string, edit: Outgoing): boolean => {
          if (!("command" in edit.wish)) return false;
          if (log.some((entry) => entry.editId === edit.editId)) return true;
          const applied = tried(server, edit.wish.command);
          if (!applied) return false;
          server = applied.document;
          const { label, changes } = applied;
          const who = { page, job: null, kind: "do" as const, target: null };
          log.push({ ...who, editId: edit.editId, label, changes, revision: log.length + 1 });
          return true;
        };
        const send = (replica: Replica, name: string) => {
          const [edit] = replica.outbox;
          if (edit && !accept(name, edit)) replica.refuse(edit.editId);
        };
        list.forEach(({ page, act, seed }, i) => {
          const replica = pages[page];
          if (!replica) return;
          const name = page === 0 ? "one" : "two";
          if (act < 5) {
            try {
              replica.make(`e${i}`, new CommandMaker(randomOf(seed), `n${i}`).any(replica.shown));
            } catch (error) {
              if (!(error instanceof CommandRefused)) throw error;
            }
          } else if (act < 8) send(replica, name);
          else replica.take(log);
        });
        pages.forEach((replica, n) => {
          while (replica.outbox.length > 0) {
            send(replica, n === 0 ? "one" : "two");
            replica.take(log);
          }
        });
        for (const replica of pages) {
          replica.take(log);
          expect(text(replica.shown)).toBe(text(server));
          expect(text(replica.confirmed)).toBe(text(server));
          expect(replica.history.undo.map((h) => h.editId)).toEqual(log.map((e) => e.editId));
        }
      }),
      { numRuns: 150 }
    );
  });

  it("show the same objects still when the server confirms what was made, sent as JSON", () => {
    fc.assert(
      fc.property(fc.nat(), fc.integer({ min: 1, max: 4 }), (seed, count) => {
        const replica = new Replica({ revision: 0, document: smallProject(), history: NO_HISTORY }, "one");
        const log: Entry[] = [];
        for (let i = 0; i < count; i++) {
          const command = new CommandMaker(randomOf(seed + i), `n${i}`).any(replica.shown);
          const applied = tried(replica.shown, command);
          if (!applied || !replica.make(`e${i}`, command)) continue;
          const { label, changes } = applied;
          const who = { page: "one", job: null, kind: "do" as const, target: null };
          log.push({ ...who, editId: `e${i}`, label, changes, revision: log.length + 1 });
        }
        const shown = replica.shown;
        replica.take(JSON.parse(JSON.stringify(log)) as Entry[]);
        expect(replica.outbox).toEqual([]);
        expect(replica.shown).toBe(shown);
        expect(replica.confirmed).toBe(shown);
      }),
      { numRuns: 150 }
    );
  });
});

describe("stored changes on a document that has gone on", () => {
  const clipOf = (doc: Document) => doc.get("clips", "c0");

  it("change what they changed and leave alone what others changed since", () => {
    const doc = smallProject();
    const gain = applyCommand(doc, { type: "clip.set", clipIds: ["c0"], gainDb: 5 });
    const later = applyCommand(gain.document, { type: "clip.move", clipId: "c0", trackId: "t3", start: 7 });
    const undone = applyChanges(later.document, rebased(later.document, invert(gain.changes)));
    expect(clipOf(undone)).toMatchObject({ gainDb: 0, start: 7, track: "t3" });
  });

  it("are refused, naming the entity, where the same field has been changed since", () => {
    const doc = smallProject();
    const gain = applyCommand(doc, { type: "clip.set", clipIds: ["c0"], gainDb: 5 });
    const later = applyCommand(gain.document, { type: "clip.set", clipIds: ["c0"], gainDb: 6 });
    expect(() => rebased(later.document, invert(gain.changes))).toThrow('"Clip 0" has been changed since.');
    const gone = applyCommand(gain.document, { type: "clip.remove", clipIds: ["c0"] });
    expect(() => rebased(gone.document, invert(gain.changes))).toThrow('"Clip 0" is no longer there.');
  });
});

describe("what an edit stores", () => {
  it("is a few hundred bytes for removing one clip of many", () => {
    let doc = smallProject();
    for (let i = 0; i < 2000; i++) {
      const clip = { ...(doc.get("clips", "c4") ?? fail()), id: `many${i}` };
      doc = doc.with([{ table: "clips", id: clip.id, before: null, after: clip }]);
    }
    const { changes } = applyCommand(doc, { type: "clip.remove", clipIds: ["many7"] });
    expect(JSON.stringify(changes).length).toBeLessThan(600);
  });
});

function fail(): never {
  throw new Error("The test project has no such clip.");
}
