// A data folder of its own for each test file. Import before anything of the server.
import { mkdtempSync, rmSync } from "node:fs";
import { tmpdir } from "node:os";
import path from "node:path";
import { afterAll } from "vitest";

export const folder = mkdtempSync(path.join(tmpdir(), "wring-test-"));
process.env.WRING_DATA = folder;
process.env.WRING_LOG = "silent";
process.env.WRING_THREADS = "1";

afterAll(() => rmSync(folder, { recursive: true, force: true }));
