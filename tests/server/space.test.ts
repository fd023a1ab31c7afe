// Room is promised, written and given back, many times a second: the limit holds all the same.
import { mkdtempSync, rmSync, writeFileSync } from "node:fs";
import { tmpdir } from "node:os";
import path from "node:path";
import { afterAll, expect, it } from "vitest";
import { config } from "../../src/lib/server/config";
import { bytesBelow, reserve } from "../../src/lib/server/media/space";

const folder = mkdtempSync(path.join(tmpdir(), "wring-space-"));
const before = { ...config };
afterAll(() => {
  Object.assign(config, before);
  rmSync(folder, { recursive: true, force: true });
});

it("is never exceeded, however soon one work follows another", () => {
  config.dataFolder = folder;
  config.maxBytes = 1_000_000;
  const write = (name: string, bytes: number) => {
    const release = reserve(bytes, `"${name}" was not imported`);
    writeFileSync(path.join(folder, name), new Uint8Array(bytes));
    release();
    release();
  };
  for (let i = 0; i < 8; i++) write(`${i}.wav`, 100_000);
  expect(() => write("large.wav", 300_000)).toThrow(
    /"large\.wav" was not imported: it needs .* but only .* of the space for Wring's data is left/
  );
  write("fits.wav", 200_000);
  expect(bytesBelow(folder)).toBe(1_000_000);
  expect(() => write("one.wav", 1)).toThrow("was not imported");
  rmSync(path.join(folder, "0.wav"));
  write("again.wav", 100_000);
});
