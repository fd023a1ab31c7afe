// What the server refuses at its border, and uploads that were interrupted.
import http from "node:http";
import { existsSync, mkdirSync, readdirSync, rmSync, symlinkSync, writeFileSync } from "node:fs";
import path from "node:path";
import { afterAll, beforeAll, describe, expect, it, vi } from "vitest";
import type { JobsView } from "../../src/lib/api/jobs";
import { newFolder, ServerProcess } from "../support/serverProcess";
import { noise } from "../core/signals";
import { wav16 } from "../core/wavBytes";

// Each starts processes: a machine may be several times slower than those it is written on.
vi.setConfig({ testTimeout: 180000, hookTimeout: 180000 });

const data = newFolder("border");
const secret = newFolder("secret");
const server = new ServerProcess(data, 4686, { WRING_MAX_BYTES: "60MB" });
let id = "";

beforeAll(async () => {
  await server.start();
  id = await server.newProject("Border");
});

afterAll(async () => {
  await server.stop();
  for (const folder of [data, secret]) rmSync(folder, { recursive: true, force: true });
});

/** A request that sends its headers and `bytes` of a body, and waits for the answer. */
function raw(
  method: string,
  address: string,
  headers: Record<string, string>,
  bytes = 0
): Promise<{ status: number; ms: number; sent: number }> {
  return new Promise((resolve, reject) => {
    const begin = performance.now();
    let sent = 0;
    const request = http.request(
      { host: "127.0.0.1", port: server.port, method, path: address, headers },
      (answer) => {
        answer.resume();
        answer.on("end", () => {
          request.destroy();
          resolve({ status: answer.statusCode ?? 0, ms: performance.now() - begin, sent });
        });
      }
    );
    request.on("error", (error: NodeJS.ErrnoException) => {
      if (error.code !== "EPIPE" && error.code !== "ECONNRESET") reject(error);
    });
    if (bytes > 0) sent = request.write(Buffer.alloc(Math.min(bytes, 1000), 32)) ? Math.min(bytes, 1000) : 0;
    else request.end();
  });
}

const headersOf = async (address: string) => (await fetch(server.base + address)).headers;
const json = { host: "127.0.0.1:4686", "content-type": "application/json" };

describe("pages", () => {
  it("cannot be framed, and run no script but the application's own files", async () => {
    for (const address of ["/", `/projects/${id}`, "/nothing", "/api/projects", "/favicon.svg"]) {
      const headers = await headersOf(address);
      const policy = headers.get("content-security-policy") ?? "";
      expect(policy, address).toContain("frame-ancestors 'none'");
      expect(headers.get("x-frame-options"), address).toBe("DENY");
      const scripts = /script-src ([^;]*)/.exec(policy)?.[1] ?? "";
      expect(scripts, address).toContain("'self' 'wasm-unsafe-eval'");
      expect(scripts, address).not.toContain("unsafe-inline");
      expect(scripts, address).not.toContain("'unsafe-eval'");
    }
  });
});

describe("requests", () => {
  it.each([
    ["/api/projects/a%00b", 404],
    ["/api/recordings/%00/chunks/48000/0", 404],
    ["/api/uploads/%00", 404],
    ["/api/projects/nobody/events", 404],
    ["/api/projects/nobody/jobs", 404],
    ["/api/projects/nobody/edits?after=0", 404]
  ])("for what is not there: %s is answered with %i", async (address, status) => {
    expect((await fetch(server.base + address)).status).toBe(status);
  });

  it("for an export that would never end are refused", async () => {
    const order = { kind: "export", from: 0, format: "int16", dither: true };
    for (const to of [2 ** 50, 2 ** 40])
      await expect(server.post(`/api/projects/${id}/jobs`, { ...order, to })).rejects.toThrow(/^4\d\d/);
  });

  it("that are too large are refused before they are read", async () => {
    const large = { ...json, "content-length": String(50e6) };
    const answer = await raw("POST", "/api/projects", large, 50e6);
    expect(answer.status).toBe(413);
    expect(answer.sent).toBeLessThanOrEqual(1000);
    const unknown = await raw("POST", "/api/projects", { ...json, "transfer-encoding": "chunked" }, 50e6);
    expect(unknown.status).toBe(411);
    expect((await fetch(`${server.base}/api/projects`)).status).toBe(200);
  });
});

describe("an exported file", () => {
  it("is given in parts to whoever asks for a part", async () => {
    const { id: job } = await server.post<{ id: string }>(`/api/projects/${id}/jobs`, {
      kind: "export",
      from: 0,
      to: 1000,
      format: "int16",
      dither: false
    });
    expect((await server.ended(job)).state).toBe("done");
    const address = `${server.base}/api/jobs/${job}/file`;
    const whole = Buffer.from(await (await fetch(address)).arrayBuffer());
    const part = async (range: string) => {
      const answer = await fetch(address, { headers: { range } });
      return {
        status: answer.status,
        range: answer.headers.get("content-range"),
        bytes: Buffer.from(await answer.arrayBuffer())
      };
    };
    const size = whole.length;
    expect(await part("bytes=10-19")).toEqual({
      status: 206,
      range: `bytes 10-19/${size}`,
      bytes: whole.subarray(10, 20)
    });
    expect(await part("bytes=100-")).toMatchObject({ status: 206, bytes: whole.subarray(100) });
    expect(await part("bytes=-7")).toMatchObject({ status: 206, bytes: whole.subarray(size - 7) });
    expect(await part(`bytes=${size}-`)).toMatchObject({ status: 416, range: `bytes */${size}` });
    expect(await part("lines=1-2")).toMatchObject({ status: 200, bytes: whole });
  });
});

describe("uploads", () => {
  const uploads = () =>
    existsSync(path.join(data, "uploads")) ? readdirSync(path.join(data, "uploads")) : [];
  const ended = async (): Promise<JobsView> => {
    for (;;) {
      const view = await server.get<JobsView>(`/api/projects/${id}/jobs?since=2020-01-01T00:00:00Z`);
      if (view.open.length === 0) return view;
      await new Promise((resolve) => setTimeout(resolve, 30));
    }
  };

  it("do not follow a link that lies among them", async () => {
    const name = "0123456789abcdef0123456789abcdef";
    const file = path.join(secret, "secret.wav");
    writeFileSync(file, "not yours");
    mkdirSync(path.join(data, "uploads"), { recursive: true });
    symlinkSync(file, path.join(data, "uploads", name));
    writeFileSync(
      path.join(data, "uploads", `${name}.json`),
      JSON.stringify({ id: name, size: 100, offset: 9 })
    );
    for (const method of ["HEAD", "PATCH", "DELETE"])
      expect(
        (await fetch(`${server.base}/api/uploads/${name}`, { method, headers: { "tus-resumable": "1.0.0" } }))
          .status
      ).toBe(404);
    expect(existsSync(file)).toBe(true);
    rmSync(path.join(data, "uploads", name));
    rmSync(path.join(data, "uploads", `${name}.json`));
  });

  it("side by side do not pass the limit together: room is promised before anything is sent", async () => {
    const answers = await Promise.all(
      Array.from({ length: 10 }, (_, i) => server.createUpload(id, `Big ${i}.wav`, 11e6))
    );
    const taken = answers.filter((a) => a.status === 201);
    expect(taken.length).toBe(5);
    const refused = answers.find((a) => a.status === 507);
    expect(await refused?.text()).toMatch(
      /^"Big \d\.wav" was not imported: it needs 11\.0 MB, but only \d\.\d MB of the space/
    );
    for (const answer of taken)
      await fetch(new URL(answer.headers.get("location") ?? "", `${server.base}/api/uploads/`), {
        method: "DELETE",
        headers: { "tus-resumable": "1.0.0" }
      });
    const again = await server.createUpload(id, "Fits.wav", 50e6);
    expect(again.status).toBe(201);
    await fetch(new URL(again.headers.get("location") ?? "", `${server.base}/api/uploads/`), {
      method: "DELETE",
      headers: { "tus-resumable": "1.0.0" }
    });
    expect(uploads()).toEqual([]);
  });

  it("go on where they were after the server was killed", async () => {
    const bytes = wav16(noise(60000, 0.3, 5));
    const created = await server.createUpload(id, "In two parts.wav", bytes.length);
    const location = created.headers.get("location") ?? "";
    const half = bytes.length >> 1;
    expect((await server.sendUpload(location, 0, bytes.subarray(0, half))).status).toBe(204);
    await server.stop("SIGKILL");
    await server.start();
    const head = await fetch(new URL(location, `${server.base}/api/uploads/`), {
      method: "HEAD",
      headers: { "tus-resumable": "1.0.0" }
    });
    expect(head.headers.get("upload-offset")).toBe(String(half));
    const sent = await server.sendUpload(location, half, bytes.subarray(half));
    expect(await server.ended(sent.headers.get("x-job") ?? "")).toMatchObject({ state: "done", error: null });
  });

  it("that were complete when the server was killed get their job at the next start", async () => {
    const names = ["2a", "2b", "2c"];
    await server.stop("SIGKILL");
    // As a kill between the last byte and the job leaves it.
    names.forEach((name, i) => {
      const upload = `${name}${"0".repeat(30)}`;
      const bytes = wav16(noise(30000, 0.3, 100 + i));
      const metadata = { filename: `Complete ${name}.wav`, projectId: id };
      writeFileSync(path.join(data, "uploads", upload), bytes);
      writeFileSync(
        path.join(data, "uploads", `${upload}.json`),
        JSON.stringify({
          id: upload,
          size: bytes.length,
          offset: 0,
          metadata,
          creation_date: new Date().toISOString()
        })
      );
    });
    await server.start();
    const { ended: jobs } = await ended();
    for (const name of names) {
      const job = jobs.find((one) => one.title === `Import Complete ${name}.wav`);
      expect([job?.state, job?.error]).toEqual(["done", null]);
    }
    for (let i = 0; i < 50 && uploads().length > 0; i++)
      await new Promise((resolve) => setTimeout(resolve, 20));
    expect(uploads()).toEqual([]);
  });

  it("whose project is gone end with a sentence and leave nothing", async () => {
    const gone = await server.newProject("Soon gone");
    const created = await server.createUpload(gone, "Orphan.wav", 1000);
    await fetch(`${server.base}/api/projects/${gone}`, { method: "DELETE" });
    const sent = await server.sendUpload(
      created.headers.get("location") ?? "",
      0,
      wav16(noise(478, 0.3, 8)).subarray(0, 1000)
    );
    const job = await server.ended(sent.headers.get("x-job") ?? "");
    expect([job.state, job.error]).toEqual(["failed", "There is no such project. It may have been deleted."]);
    for (let i = 0; i < 50 && uploads().length > 0; i++)
      await new Promise((resolve) => setTimeout(resolve, 20));
    expect(uploads()).toEqual([]);
  });
});
