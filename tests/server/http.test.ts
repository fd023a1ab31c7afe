// The server as a process, over HTTP: what it answers to whom, and what a client cannot reach.
import http from "node:http";
import { existsSync, readdirSync, rmSync } from "node:fs";
import path from "node:path";
import { afterAll, beforeAll, describe, expect, it, vi } from "vitest";
import { sine } from "../core/signals";
import { wav16 } from "../core/wavBytes";
import { newFolder, ServerProcess } from "../support/serverProcess";

// Each starts processes: a machine may be several times slower than those it is written on.
vi.setConfig({ testTimeout: 180000, hookTimeout: 180000 });

const PORT = 4688;
const data = newFolder("http");
const server = new ServerProcess(data, PORT);
const { base } = server;

/** A request with headers that fetch would not send. */
function raw(
  method: string,
  address: string,
  headers: Record<string, string> = {}
): Promise<{ status: number; body: string; headers: http.IncomingHttpHeaders }> {
  return new Promise((resolve, reject) => {
    const request = http.request(
      { host: "127.0.0.1", port: PORT, method, path: address, headers },
      (response) => {
        let body = "";
        response.on("data", (part: Buffer) => (body += part.toString()));
        response.on("end", () =>
          resolve({ status: response.statusCode ?? 0, body, headers: response.headers })
        );
      }
    );
    request.on("error", reject);
    request.end();
  });
}

async function post(
  address: string,
  body: unknown
): Promise<{ status: number; value: Record<string, unknown> }> {
  const answer = await fetch(base + address, {
    method: "POST",
    headers: { "content-type": "application/json" },
    body: JSON.stringify(body)
  });
  return { status: answer.status, value: (await answer.json()) as Record<string, unknown> };
}

describe("the server", () => {
  beforeAll(() => server.start());
  afterAll(async () => {
    await server.stop();
    rmSync(data, { recursive: true, force: true });
  });

  it("isolates every answer, pages and files and refusals alike", async () => {
    for (const address of ["/", "/favicon.svg", "/nothing", "/api/projects"]) {
      const { headers } = await raw("GET", address);
      expect(headers["cross-origin-opener-policy"], address).toBe("same-origin");
      expect(headers["cross-origin-embedder-policy"], address).toBe("require-corp");
      expect(headers["x-content-type-options"], address).toBe("nosniff");
    }
  });

  it.each([
    ["another host", { host: "wring.example" }],
    ["another port", { host: "127.0.0.1:1" }],
    ["another origin", { host: `127.0.0.1:${PORT}`, origin: "http://other.example" }]
  ])("refuses requests with %s", async (_, headers) => {
    expect((await raw("GET", "/api/projects", headers)).status).toBe(403);
    expect((await raw("POST", "/api/projects", headers)).status).toBe(403);
  });

  it("answers what is not there, or not allowed, with one sentence", async () => {
    const cases: [string, number][] = [
      ["/api/projects/none", 404],
      ["/api/jobs/none", 404],
      ["/api/recordings/none/chunks/48000/0", 404],
      ["/api/recordings/none/overview/48000/0?from=0&bins=10", 404]
    ];
    for (const [address, status] of cases) {
      const answer = await fetch(base + address);
      expect(answer.status, address).toBe(status);
      expect(((await answer.json()) as { error: string }).error).toMatch(/^[A-Z].*\.$/);
    }
    expect((await post("/api/projects", { name: "", sampleRate: 48000 })).value.error).toContain("name");
    expect((await post("/api/projects", { name: "A", sampleRate: 12345 })).status).toBe(400);
    expect(
      (await fetch(`${base}/api/projects`, { method: "POST", body: "{" })).status
    ).toBeGreaterThanOrEqual(400);
  });

  it.each([
    "/api/uploads/../wring.sqlite",
    "/api/uploads/..%2Fwring.sqlite",
    "/api/recordings/..%2F..%2Fetc%2Fpasswd/chunks/48000/0",
    "/../package.json",
    "/%2e%2e/package.json",
    "/api/jobs/..%2Fx/file"
  ])("lets no path reach the file system: %s", async (address) => {
    for (const method of ["GET", "HEAD", "DELETE"]) {
      const { status, body } = await raw(method, address, {
        host: `127.0.0.1:${PORT}`,
        "tus-resumable": "1.0.0"
      });
      expect(status).toBeGreaterThanOrEqual(400);
      expect(body).not.toContain("SQLite format");
      expect(body).not.toContain('"name": "wring"');
    }
    expect(existsSync(path.join(data, "wring.sqlite"))).toBe(true);
  });

  it("keeps all over a restart: project, recording, edits, what undo would take back", async () => {
    const id = await server.newProject("Restart");
    const job = await server.import(id, "../../evil name.wav", wav16(sine(440, -12, 24000)));
    expect(job).toMatchObject({ state: "done", error: null });
    const state = async () =>
      (await (await fetch(`${base}/api/projects/${id}`)).json()) as Record<string, unknown>;
    const { revision } = await state();
    const command = { type: "track.set", trackId: "track-1", gainDb: -4 };
    const edits = [{ editId: "an-edit", base: revision, wish: { command } }];
    const { status } = await post(`/api/projects/${id}/edits`, { page: "a-page", known: revision, edits });
    expect(status).toBe(200);
    const before = await state();
    await server.stop();
    await server.start();
    expect(await state()).toEqual(before);
    const { undo } = before.history as { undo: { label: string }[] };
    expect(undo.at(-1)?.label).toBe("gain of Track 1");
    const recordings = (before.document as { recordings: { id: string; name: string }[] }).recordings;
    expect(recordings[0].name).toBe("evil name");
    const chunk = await fetch(`${base}/api/recordings/${recordings[0].id}/chunks/48000/0`);
    expect((await chunk.arrayBuffer()).byteLength).toBe(32768 * 8);
    expect(readdirSync(path.join(data, "uploads"))).toEqual([]);
  });

  it("refuses bad files one by one and keeps nothing of them", async () => {
    const id = await server.newProject("Bad files");
    const good = wav16(sine(300, -10, 4800));
    const bad: [string, Uint8Array, RegExp][] = [
      [
        "text.wav",
        new TextEncoder().encode("hello, this is no sound at all"),
        /"text\.wav" .*no sound that can be read/
      ],
      ["short.wav", good.subarray(0, 2000), /"short\.wav" .*truncated/]
    ];
    for (const [name, bytes, why] of bad) {
      const { state, error } = await server.import(id, name, bytes);
      expect(state).toBe("failed");
      expect(error).toMatch(why);
    }
    expect((await server.upload(id, "empty.wav", new Uint8Array(0))).status).toBe(422);
    const project = (await (await fetch(`${base}/api/projects/${id}`)).json()) as {
      document: { recordings: unknown[] };
    };
    expect(project.document.recordings).toEqual([]);
    expect(readdirSync(path.join(data, "uploads"))).toEqual([]);
  });
});
