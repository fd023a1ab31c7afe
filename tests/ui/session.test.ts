// The session of a page: what it shows, what it sends, and that nothing is lost on the way.
import { beforeEach, describe, expect, it, vi } from "vitest";
import { applyCommand } from "../../src/lib/core/session/commands";
import type { Document } from "../../src/lib/core/session/document";
import type { Entry } from "../../src/lib/core/session/replica";
import { CommandRefused } from "../../src/lib/core/session/refused";
import { newSection } from "../../src/lib/core/session/make";
import type { EditsAnswer, EditsRequest, ProjectState } from "../../src/lib/api/types";
import { Refused } from "../../src/lib/ui/shared/api";
import { notices } from "../../src/lib/ui/shared/notices.svelte";
import { Session } from "../../src/lib/ui/state/session.svelte";
import { smallProject } from "../support/randomCommands";

/** A server in memory, with a line that can be cut. */
class FakeServer {
  document: Document = smallProject();
  readonly log: Entry[] = [];
  /** What the next requests meet: an error before or after they reach the server. */
  readonly trouble: ("lost" | "answer lost" | number)[] = [];
  requests = 0;
  down = false;

  accept(entry: Pick<Entry, "editId" | "label" | "changes" | "page" | "job">): Entry {
    const full: Entry = { kind: "do", target: null, revision: this.log.length + 1, ...entry };
    this.document = this.document.with(full.changes);
    this.log.push(full);
    return full;
  }

  make(command: Parameters<typeof applyCommand>[1], by: Pick<Entry, "page" | "job">, editId: string): Entry {
    const { label, changes } = applyCommand(this.document, command);
    return this.accept({ editId, label, changes, ...by });
  }

  edit(request: EditsRequest): Promise<EditsAnswer> {
    this.requests++;
    if (this.down) return Promise.reject(new Refused(0, "no answer"));
    const trouble = this.trouble.shift();
    if (trouble === "lost") return Promise.reject(new Refused(0, "no answer"));
    if (typeof trouble === "number") return Promise.reject(new Refused(trouble, "The server said no."));
    const refused: { editId: string; error: string }[] = [];
    for (const { editId, wish } of request.edits) {
      if (this.log.some((e) => e.editId === editId)) continue;
      try {
        if ("command" in wish) this.make(wish.command, { page: request.page, job: null }, editId);
        else {
          const target = "undo" in wish ? wish.undo : wish.redo;
          const undone = this.log.find((e) => e.editId === target);
          const changes = (undone?.changes ?? []).map((c) =>
            "undo" in wish ? { ...c, before: c.after, after: c.before } : c
          );
          const kind = "undo" in wish ? ("undo" as const) : ("redo" as const);
          const entry: Entry = {
            editId,
            label: undone?.label ?? "",
            kind,
            target,
            page: request.page,
            job: null,
            changes,
            revision: this.log.length + 1
          };
          this.document = this.document.with(changes);
          this.log.push(entry);
        }
      } catch (error) {
        if (!(error instanceof CommandRefused)) throw error;
        refused.push({ editId, error: error.message });
      }
    }
    if (trouble === "answer lost") return Promise.reject(new Refused(0, "no answer"));
    const entries = this.log.filter((e) => e.revision > request.known);
    return Promise.resolve({ revision: this.log.length, entries, refused });
  }

  entries(after: number): Promise<Entry[]> {
    return Promise.resolve(this.log.filter((e) => e.revision > after));
  }

  state(): Promise<ProjectState> {
    const revision = this.log.length;
    return Promise.resolve({
      id: "p",
      revision,
      document: this.document.toJson(),
      history: { undo: [], redo: [] },
      broken: []
    });
  }
}

let server: FakeServer;
let session: Session;
let waits: number[];
/** What the header said whenever it waited. */
let sayings: string[];

beforeEach(async () => {
  server = new FakeServer();
  waits = [];
  sayings = [];
  for (const notice of notices.list) notices.dismiss([notice.id]);
  session = new Session(await server.state(), server, (ms) => {
    waits.push(ms);
    sayings.push(session.saving);
    return new Promise((resolve) => setTimeout(resolve, 1));
  });
});

const gain = (gainDb: number, clipId = "c0") => ({ type: "clip.set" as const, clipIds: [clipId], gainDb });
const gainOf = (doc: Document, clipId = "c0") => doc.get("clips", clipId)?.gainDb;
const json = (doc: Document) => JSON.stringify(doc.toJson());

describe("a session", () => {
  it("shows an edit at once, and says saved when the server has it", async () => {
    expect(session.saving).toBe("saved");
    expect(session.run(gain(4))).toBe(true);
    expect(gainOf(session.shown)).toBe(4);
    expect(session.saving).toBe("saving 1 change");
    expect(session.undoName).toBe("gain of Clip 0");
    await session.settled();
    expect(session.saving).toBe("saved");
    expect(gainOf(server.document)).toBe(4);
  });

  it("keeps edits while the server is away, says so, and sends them all when it is back", async () => {
    server.down = true;
    for (const db of [1, 2, 3]) session.run(gain(db));
    await vi.waitFor(() => expect(session.saving).toBe("3 changes not saved yet: no connection"));
    expect(session.unsaved).toBe(3);
    session.run(gain(5, "c1"));
    await vi.waitFor(() => expect(waits.length).toBeGreaterThan(6));
    // It waits longer each time, and never for long.
    expect(waits.slice(0, 6)).toEqual([250, 500, 1000, 2000, 4000, 5000]);
    expect(server.log).toEqual([]);
    server.down = false;
    await session.settled();
    expect(session.saving).toBe("saved");
    expect(server.log).toHaveLength(4);
    expect(json(session.shown)).toBe(json(server.document));
  });

  it("is told once of an edit whose answer was lost", async () => {
    server.trouble.push("answer lost", "lost", "answer lost");
    session.run(gain(7));
    session.run({ type: "section.add", section: newSection("new", "New", 0, 10) });
    await session.settled();
    expect(server.log.map((e) => e.label)).toEqual(["gain of Clip 0", "add section New"]);
    expect(session.saving).toBe("saved");
    expect(json(session.shown)).toBe(json(server.document));
  });

  it("goes on trying when the server fails or its disk is full, and says which", async () => {
    server.trouble.push(500, 507, 507, 503);
    session.run(gain(2));
    await session.settled();
    expect(sayings).toEqual([
      "1 change not saved yet: no connection",
      "1 change not saved yet: the disk is full",
      "1 change not saved yet: the disk is full",
      "1 change not saved yet: no connection"
    ]);
    expect(gainOf(server.document)).toBe(2);
    expect(session.hindrance).toBeNull();
  });

  it("drops an edit that is refused, with its sentence, and keeps what came after it", async () => {
    server.make({ type: "clip.remove", clipIds: ["c0"] }, { page: "another", job: null }, "theirs");
    session.run(gain(3));
    session.run(gain(4, "c1"));
    await session.settled();
    expect(notices.list.map((n) => n.text)).toEqual(["The clip is no longer there."]);
    expect(session.shown.get("clips", "c0")).toBeUndefined();
    expect(gainOf(session.shown, "c1")).toBe(4);
    expect(json(session.shown)).toBe(json(server.document));
  });

  it("drops what the server will never take, and stays usable", async () => {
    server.trouble.push(400);
    session.run(gain(3));
    await session.settled();
    expect(notices.list.map((n) => n.text)).toEqual(["The server said no."]);
    expect(gainOf(session.shown)).toBe(0);
    session.run(gain(4));
    await session.settled();
    expect(gainOf(server.document)).toBe(4);
  });

  it("drops only the one of several that the server cannot read", async () => {
    server.down = true;
    for (const db of [1, 2, 3]) session.run(gain(db, `c${db}`));
    await vi.waitFor(() => expect(waits.length).toBeGreaterThan(0));
    // The request with all three is refused, then the first by itself.
    server.trouble.push(400, 400);
    server.down = false;
    await session.settled();
    expect(server.log.map((e) => e.label)).toEqual(["gain of Clip 2", "gain of Clip 3"]);
    expect(gainOf(session.shown, "c1")).toBe(0);
    expect(json(session.shown)).toBe(json(server.document));
  });

  it("takes in what others do under its own unsaved edits", async () => {
    server.down = true;
    session.run(gain(9));
    const entry = server.make(
      { type: "project.rename", name: "Theirs" },
      { page: "another", job: null },
      "theirs"
    );
    await session.receive([entry]);
    expect(session.shown.name).toBe("Theirs");
    expect(gainOf(session.shown)).toBe(9);
    server.down = false;
    await session.settled();
    expect(json(session.shown)).toBe(json(server.document));
  });

  it("asks for what it missed when news comes out of order", async () => {
    server.make({ type: "project.rename", name: "One" }, { page: "another", job: null }, "one");
    const two = server.make({ type: "project.rename", name: "Two" }, { page: "another", job: null }, "two");
    await session.receive([two]);
    expect(session.shown.name).toBe("Two");
    expect(session.revision).toBe(2);
  });

  it("undoes its own edits at once, saved or not, and redoes them", async () => {
    session.run(gain(4));
    await session.settled();
    server.down = true;
    session.run(gain(5));
    session.undo();
    session.undo();
    expect(gainOf(session.shown)).toBe(0);
    expect(session.undoName).toBeNull();
    session.redo();
    expect(gainOf(session.shown)).toBe(4);
    expect(session.redoName).toBe("gain of Clip 0");
    server.down = false;
    await session.settled();
    expect(gainOf(server.document)).toBe(4);
    expect(json(session.shown)).toBe(json(server.document));
  });

  it.each([
    ["another page's edit", { page: "another", job: null }],
    ["the result of a job", { page: null, job: "j" }]
  ])("asks before it takes back %s", async (_, by) => {
    session.run(gain(4));
    await session.settled();
    await session.receive([server.make({ type: "project.rename", name: "Theirs" }, by, "theirs")]);
    session.undo();
    expect(session.question?.item.label).toBe("rename project");
    expect(session.shown.name).toBe("Theirs");
    session.answer(false);
    await session.settled();
    expect(server.document.name).toBe("Theirs");
    session.undo();
    session.answer(true);
    await session.settled();
    expect(server.document.name).toBe("Small");
    expect(gainOf(server.document)).toBe(4);
  });

  it("does not lose redo by the result of a job, but by an edit of its own", async () => {
    session.run(gain(4));
    await session.settled();
    session.undo();
    await session.settled();
    const job = { page: null, job: "j" };
    await session.receive([
      server.make({ type: "section.add", section: newSection("x", "X", 0, 1) }, job, "result")
    ]);
    expect(session.redoName).toBe("gain of Clip 0");
    session.redo();
    await session.settled();
    expect(gainOf(session.shown)).toBe(4);
    session.undo();
    session.run(gain(1, "c1"));
    expect(session.redoName).toBeNull();
  });

  it("shows a draft without sending it, and notes the state of recordings", async () => {
    session.draft(gain(12));
    expect(gainOf(session.shown)).toBe(12);
    expect(gainOf(session.document)).toBe(0);
    session.draft(null);
    expect(gainOf(session.shown)).toBe(0);
    expect(server.requests).toBe(0);
    session.heardOfRecording({ id: "ra", state: "damaged" });
    expect(session.broken.get("ra")).toBe("damaged");
    session.heardOfRecording({ id: "ra", state: "good" });
    expect(session.broken.size).toBe(0);
  });
});
