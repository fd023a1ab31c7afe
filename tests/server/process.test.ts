// The server as a process on folders and databases that are not as they should be.
import { spawn, spawnSync } from "node:child_process";
import {
  copyFileSync,
  existsSync,
  mkdirSync,
  readdirSync,
  readFileSync,
  rmSync,
  statSync,
  truncateSync,
  writeFileSync
} from "node:fs";
import path from "node:path";
import sqlite3 from "sqlite3";
import { afterEach, describe, expect, it, vi } from "vitest";
import type { ProjectSummary } from "../../src/lib/api/types";
import { copyOfLanded } from "../support/landed";
import { newFolder, ServerProcess } from "../support/serverProcess";

// Each starts processes: a machine may be several times slower than those it is written on.
vi.setConfig({ testTimeout: 180000, hookTimeout: 180000 });

const PORT = 4687;
const servers: ServerProcess[] = [];
const folders: string[] = [];

function folder(): string {
  const made = newFolder("process");
  folders.push(made);
  return made;
}

function server(data: string, port = PORT, env: Record<string, string> = {}): ServerProcess {
  const made = new ServerProcess(data, port, env);
  servers.push(made);
  return made;
}

afterEach(async () => {
  for (const one of servers.splice(0)) await one.stop("SIGKILL");
  for (const one of folders.splice(0)) rmSync(one, { recursive: true, force: true });
});

const rename = (name: string) => ({ command: { type: "project.rename" as const, name } });

/** Runs SQL on a database that no one has open. */
function sql(data: string, statement: string): Promise<void> {
  return new Promise((resolve, reject) => {
    const database = new sqlite3.Database(path.join(data, "wring.sqlite"));
    database.exec(statement, (error) => database.close(() => (error ? reject(error) : resolve())));
  });
}

describe("a second server", () => {
  it("on the same folder says who has it, and touches nothing", async () => {
    const data = folder();
    const first = server(data);
    await first.start();
    mkdirSync(path.join(data, "scratch", "a-running-job"), { recursive: true });
    writeFileSync(path.join(data, "scratch", "a-running-job", "export.wav"), "half");
    const second = server(data, PORT + 1000);
    expect(await second.startInVain()).toBe(1);
    expect(second.output).toMatch(
      /^The data folder .* is in use by another Wring: process \d+ at http:\/\/127\.0\.0\.1:4687, since .* UTC\. End that one first, or set WRING_DATA to another folder\.\n$/
    );
    expect(existsSync(path.join(data, "scratch", "a-running-job", "export.wav"))).toBe(true);
    await first.stop("SIGKILL");
    const third = server(data, PORT + 1000);
    await third.start();
  });

  it("on the same port ends before it opens its folder", async () => {
    await server(folder()).start();
    const data = folder();
    const second = server(data);
    expect(await second.startInVain()).toBe(1);
    expect(second.output).toBe("Port 4687 is in use. Set PORT to another number, or end what uses it.\n");
    expect(readdirSync(data)).toEqual([]);
  });
});

describe("a start that cannot be", () => {
  it.each([
    ["WRING_MAX_BYTES", "plenty", 'WRING_MAX_BYTES is "plenty", which is no size.'],
    ["WRING_THREADS", "none", 'WRING_THREADS is "none"; it takes a whole number from 1 to 64.']
  ])("is refused in a sentence: %s=%s", async (name, value, sentence) => {
    const one = server(folder(), PORT, { [name]: value });
    expect(await one.startInVain()).toBe(1);
    expect(one.output).toContain(sentence);
    expect(one.output.trim().split("\n")).toHaveLength(1);
  });

  it("is refused in a sentence: a folder that is a file", async () => {
    const data = path.join(folder(), "a-file");
    writeFileSync(data, "");
    const one = server(data);
    expect(await one.startInVain()).toBe(1);
    expect(one.output).toMatch(/^The data folder .*a-file .*\.\n$/);
  });

  // Whoever may do everything may write everywhere: then it is tried as another user, if there is one.
  const asNobody = process.getuid?.() === 0 && spawnSync("setpriv", ["--version"]).status === 0;
  it.skipIf(!asNobody && process.getuid?.() === 0)(
    "is refused in a sentence: a folder that may not be written to",
    () => {
      const data = folder();
      spawnSync("chmod", ["555", data]);
      const command = [process.execPath, "server/index.mjs"];
      const env = {
        ...process.env,
        NODE_ENV: "production",
        PORT: String(PORT),
        WRING_DATA: path.join(data, "new"),
        WRING_LOG: "silent"
      };
      const run = asNobody
        ? spawnSync("setpriv", ["--reuid=65534", "--regid=65534", "--clear-groups", ...command], {
            env,
            encoding: "utf8"
          })
        : spawnSync(process.execPath, command.slice(1), { env, encoding: "utf8" });
      expect(run.status).toBe(1);
      expect(run.stderr).toMatch(/^The data folder .* may not be written to\.\n$/);
    }
  );
});

describe("a damaged database", () => {
  it("is told on a page that offers the backups; one of them takes its place, the damaged one is kept", async () => {
    const data = folder();
    const first = server(data);
    await first.start();
    const id = await first.newProject("Worth keeping");
    await first.edit(id, rename("Worth keeping, renamed"));
    await first.stop();
    expect(readdirSync(path.join(data, "backups"))).toHaveLength(1);
    const file = path.join(data, "wring.sqlite");
    const bytes = readFileSync(file);
    bytes.fill(0xa5, 4096 * 2, 4096 * 6);
    writeFileSync(file, bytes);

    const second = server(data);
    await second.start();
    const home = await fetch(`${second.base}/`, { redirect: "manual" });
    expect([home.status, home.headers.get("location")]).toEqual([303, "/repair"]);
    expect((await fetch(`${second.base}/api/projects`)).status).toBe(503);
    const page = await (await fetch(`${second.base}/repair`)).text();
    expect(page).toContain("The database is damaged");
    const [backup] = await second.get<{ name: string }[]>("/api/backups");
    await expect(second.post("/api/backups", { name: "../../etc/passwd" })).rejects.toThrow("404");
    await second.post("/api/backups", { name: backup?.name });
    expect((await second.get<ProjectSummary[]>("/api/projects")).map((p) => p.name)).toEqual([
      "Worth keeping, renamed"
    ]);
    expect(readdirSync(data).some((name) => name.startsWith("wring.sqlite.damaged-"))).toBe(true);
    await second.edit(id, rename("And it goes on"));
  });

  it(
    "of any kind never keeps the server from starting: flipped bytes, again and again",
    { timeout: 120000 },
    async () => {
      const original = folder();
      const first = server(original);
      await first.start();
      const id = await first.newProject("One");
      for (let i = 0; i < 20; i++) await first.edit(id, rename(`One ${i}`));
      await first.newProject("Two");
      await first.stop();
      const bytes = readFileSync(path.join(original, "wring.sqlite"));
      for (let n = 0; n < 6; n++) {
        const data = folder();
        const flipped = Buffer.from(bytes);
        for (let i = 0; i < 40; i++) {
          const at = (n * 7919 + i * 104729) % flipped.length;
          flipped[at] = (flipped[at] ?? 0) ^ 0x10;
        }
        writeFileSync(path.join(data, "wring.sqlite"), flipped);
        const one = server(data);
        await one.start();
        const home = await fetch(`${one.base}/`);
        expect(home.status).toBe(200);
        await one.stop();
      }
    }
  );

  it("that came back older than what was confirmed says what is missing", async () => {
    const data = folder();
    const first = server(data);
    await first.start();
    const id = await first.newProject("Cut short");
    await first.edit(id, rename("Early"));
    for (let i = 0; i < 12; i++) await first.edit(id, rename(`Late ${i}`));
    await first.stop("SIGKILL");
    const log = path.join(data, "wring.sqlite-wal");
    truncateSync(log, Math.floor(statSync(log).size * 0.7));
    const second = server(data);
    await second.start();
    const { revision } = await second.state(id);
    expect(revision).toBeGreaterThan(0);
    expect(revision).toBeLessThan(13);
    const home = await (await fetch(`${second.base}/`)).text();
    expect(home).toContain(`came back without its last ${13 - revision} change`);
  });
});

describe("one unreadable project", () => {
  it("of today's format is listed with the reason once it has been looked at; the others open", async () => {
    const data = folder();
    const first = server(data);
    await first.start();
    const [good, bad] = [await first.newProject("Good"), await first.newProject("Bad")];
    await first.stop();
    await sql(
      data,
      `UPDATE entities SET json = '{"id":"track-1","name":5}' WHERE projectId = '${bad}' AND tableName = 'tracks'`
    );
    const second = server(data);
    await second.start();
    expect((await second.get<ProjectSummary[]>("/api/projects")).map((p) => p.name).sort()).toEqual([
      "Bad",
      "Good"
    ]);
    await expect(second.state(bad)).rejects.toThrow("cannot be opened: ");
    expect((await second.state(good)).document.tracks).toHaveLength(1);
    for (let i = 0; i < 100; i++) {
      const fault = (await second.get<ProjectSummary[]>("/api/projects")).find((p) => p.id === bad)?.fault;
      if (fault) break;
      await new Promise((resolve) => setTimeout(resolve, 100));
    }
    expect(await (await fetch(`${second.base}/`)).text()).toContain("cannot be opened: ");
  });

  it("of the version before stays as it is and is listed with the reason; the other is carried over", async () => {
    const data = copyOfLanded();
    folders.push(data);
    await sql(
      data,
      "UPDATE projects SET document = substr(document, 1, 3000) WHERE id = (SELECT id FROM projects ORDER BY length(document) DESC LIMIT 1)"
    );
    const one = server(data);
    await one.start();
    const projects = await one.get<ProjectSummary[]>("/api/projects");
    expect(projects.map((p) => [p.name, p.fault === null])).toEqual([
      ["Tests of the horn", true],
      ["Last Boat to Varnsey, second cut", false]
    ]);
    await one.stop();
    const again = server(data);
    await again.start();
    expect(await again.get<ProjectSummary[]>("/api/projects")).toHaveLength(2);
  });
});

describe("npm run demo", () => {
  it("says what it does and where it is, and nothing else", async () => {
    const data = folder();
    const child = spawn(process.execPath, ["scripts/demo.mjs"], {
      env: { ...process.env, PORT: String(PORT), WRING_DEMO_DATA: data },
      stdio: ["ignore", "pipe", "pipe"]
    });
    let output = "";
    for (const stream of [child.stdout, child.stderr])
      stream.on("data", (part: Buffer) => (output += part.toString()));
    await new Promise<void>((resolve) => {
      const timer = setInterval(() => {
        if (!output.includes("Wring is ready") && child.exitCode === null) return;
        clearInterval(timer);
        resolve();
      }, 50);
    });
    const ended = new Promise((resolve) => child.once("exit", resolve));
    child.kill("SIGTERM");
    await ended;
    const lines = output
      .trim()
      .split("\n")
      .filter((line) => line !== "Building…");
    expect(lines).toEqual(["Making the demo's sounds…", `Wring is ready: http://127.0.0.1:${PORT}`]);
  }, 120000);
});

describe("a backup", () => {
  it("is made when the server ends after a change, and not when nothing changed; five are kept", async () => {
    const data = folder();
    const backups = () => readdirSync(path.join(data, "backups")).sort();
    let newest: string | undefined;
    for (let i = 0; i < 7; i++) {
      const one = server(data);
      await one.start();
      await one.newProject(`Project ${i}`);
      await one.stop();
      newest = backups().at(-1);
      expect(backups()).toHaveLength(Math.min(5, i + 1));
    }
    const idle = server(data);
    await idle.start();
    await idle.stop();
    expect(backups().at(-1)).toBe(newest);
    // A backup is a database of its own.
    const copy = folder();
    copyFileSync(path.join(data, "backups", newest ?? ""), path.join(copy, "wring.sqlite"));
    const restored = server(copy);
    await restored.start();
    expect(await restored.get<ProjectSummary[]>("/api/projects")).toHaveLength(7);
  });
});
