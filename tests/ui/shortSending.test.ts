// Short files on their way, with a server that answers, fails, or does not answer at all.
import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";
import type { ShortFile, ShortFileAnswer } from "../../src/lib/api/shortFiles";
import { ShortSending, type ShortGiven } from "../../src/lib/ui/state/shortSending";

type Reply = (files: ShortFile[], content: string) => Response | Promise<Response>;

const replies: Reply[] = [];
const asked: { files: ShortFile[]; content: string }[] = [];
const removed: string[] = [];
let removing = () => Response.json({});
let heard: Record<string, string> = {};

const given = (name: string, text = name): ShortGiven => ({
  key: `key of ${name}`,
  file: new File([text], name),
  folder: "Day 1",
  partial: false
});

const answer =
  (change: (file: ShortFile) => ShortFileAnswer = ({ key }) => ({ job: { id: key } as never })): Reply =>
  (files) =>
    Response.json(files.map(change));
const noAnswer: Reply = () => Promise.reject(new TypeError("no connection"));

function sending(...files: ShortGiven[]): ShortSending {
  return new ShortSending("p", files, {
    taken: (key, job) => (heard[key] = `job ${job.id}`),
    refused: (key, sentence) => (heard[key] = sentence),
    givenUp: (key) => (heard[key] = "given up")
  });
}

beforeEach(() => {
  vi.useFakeTimers();
  vi.stubGlobal("fetch", async (url: string, { method, body }: { method: string; body: Blob }) => {
    if (method === "DELETE") {
      removed.push(url);
      return removing();
    }
    expect([method, url, body.type]).toEqual(["POST", "/api/projects/p/files", "application/octet-stream"]);
    const [line = "", ...rest] = (await body.text()).split("\n");
    const files = JSON.parse(line) as ShortFile[];
    const content = rest.join("\n");
    asked.push({ files, content });
    const reply = replies.shift();
    if (!reply) throw new Error("asked once too often");
    return reply(files, content);
  });
});

afterEach(() => {
  vi.useRealTimers();
  vi.unstubAllGlobals();
  for (const list of [replies, asked, removed]) list.length = 0;
  heard = {};
  removing = () => Response.json({});
});

/** Lets all waits pass. */
async function over(run: Promise<void>): Promise<void> {
  let done = false;
  const end = run.finally(() => (done = true));
  while (!done) await vi.advanceTimersByTimeAsync(1000);
  await end;
}

describe("short files", () => {
  it("go in one request, and are told by their jobs", async () => {
    replies.push(answer());
    await over(sending(given("A.wav", "aa\n"), given("B.wav", "bbb")).run());
    expect(asked).toHaveLength(1);
    expect(asked[0]?.content).toBe("aa\nbbb");
    expect(asked[0]?.files).toEqual([
      { key: "key of A.wav", name: "A.wav", size: 3, folder: "Day 1", partial: false },
      { key: "key of B.wav", name: "B.wav", size: 3, folder: "Day 1", partial: false }
    ]);
    expect(heard).toEqual({
      "key of A.wav": "job key of A.wav",
      "key of B.wav": "job key of B.wav"
    });
  });

  it("are sent again under the same keys while the server does not answer, or comes up", async () => {
    replies.push(noAnswer, () => Response.json({ error: "soon" }, { status: 503 }), answer());
    await over(sending(given("A.wav")).run());
    expect(asked.map(({ files }) => files[0]?.key)).toEqual(new Array(3).fill("key of A.wav"));
    expect(heard).toEqual({ "key of A.wav": "job key of A.wav" });
  });

  it("are refused with the server's sentence, at once; one alone does not take the others with it", async () => {
    replies.push(() => Response.json({ error: "There is no room." }, { status: 507 }));
    await over(sending(given("A.wav"), given("B.wav")).run());
    expect(heard).toEqual({ "key of A.wav": "There is no room.", "key of B.wav": "There is no room." });
    replies.push(
      answer(({ key, name }) => {
        if (name === "A.wav") return { refused: "It is empty." };
        return name === "C.wav" ? { givenUp: true } : { job: { id: key } as never };
      })
    );
    await over(sending(given("A.wav"), given("B.wav"), given("C.wav")).run());
    expect(heard).toEqual({
      "key of A.wav": "It is empty.",
      "key of B.wav": "job key of B.wav",
      "key of C.wav": "given up"
    });
  });

  it("that are gone from the disk are refused by themselves", async () => {
    const gone = given("Gone.wav");
    gone.file.arrayBuffer = () => Promise.reject(new DOMException("gone", "NotReadableError"));
    replies.push(answer());
    await over(sending(gone, given("B.wav")).run());
    expect(asked[0]?.files.map(({ name }) => name)).toEqual(["B.wav"]);
    expect(heard["key of Gone.wav"]).toContain('"Gone.wav" was not imported: it was moved or changed');
    expect(heard["key of B.wav"]).toBe("job key of B.wav");
  });

  it("end with a sentence when no try has helped", async () => {
    replies.push(...new Array<Reply>(40).fill(noAnswer));
    await over(sending(given("A.wav")).run());
    expect(heard["key of A.wav"]).toBe('"A.wav" was not imported: the upload was interrupted.');
    expect(asked.length).toBeGreaterThan(10);
  });
});

describe("a short file that is given up", () => {
  it("is not sent again, and the server hears of it", async () => {
    const sent = sending(given("A.wav"), given("B.wav"));
    replies.push(async (...asking) => {
      await sent.giveUp("key of A.wav");
      return noAnswer(...asking);
    }, answer());
    await over(sent.run());
    expect(asked.map(({ files }) => files.map(({ name }) => name))).toEqual([["A.wav", "B.wav"], ["B.wav"]]);
    expect(removed).toEqual(["/api/projects/p/files/key of A.wav"]);
    expect(heard).toEqual({ "key of B.wav": "job key of B.wav" });
  });

  it("is told when it had been imported already", async () => {
    removing = () => Response.json({ error: "The job has already ended." }, { status: 409 });
    await expect(sending(given("A.wav")).giveUp("key of A.wav")).rejects.toMatchObject({ status: 409 });
  });

  it("is not sent at all when it is given up first", async () => {
    const sent = sending(given("A.wav"));
    await sent.giveUp("key of A.wav");
    await over(sent.run());
    expect(asked).toEqual([]);
  });
});
