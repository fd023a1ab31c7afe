// `wring batch`, run as a user runs it.
import { spawnSync } from "node:child_process";
import { existsSync, mkdtempSync, readFileSync, rmSync, writeFileSync } from "node:fs";
import { tmpdir } from "node:os";
import path from "node:path";
import { afterAll, beforeAll, describe, expect, it } from "vitest";
import { noise, sine } from "../core/signals";
import { wavBytes } from "../core/wavBytes";

const root = path.resolve(import.meta.dirname, "../..");
const folder = mkdtempSync(path.join(tmpdir(), "wring-batch-"));
const inFolder = (name: string) => path.join(folder, name);
const RATE = 48000;

function wring(...args: string[]): { status: number | null; out: string; error: string } {
  const run = spawnSync(process.execPath, [path.join(root, "build/cli/main.mjs"), ...args], {
    cwd: folder,
    encoding: "utf8",
    env: { ...process.env, WRING_DATA: inFolder("no-data") }
  });
  return { status: run.status, out: run.stdout, error: run.stderr };
}

interface Report {
  readonly file: string;
  readonly output?: string;
  readonly error?: string;
  readonly before?: { integratedLufs: number; truePeakDbtp: number };
  readonly after?: { integratedLufs: number; truePeakDbtp: number };
}

beforeAll(() => {
  for (const [n, level] of [0.02, 0.1, 0.3].entries()) {
    const sound = noise(RATE * 3, level, n + 1);
    writeFileSync(
      inFolder(`voice ${n}.wav`),
      wavBytes({ channels: [sound], sampleRate: RATE, kind: "float32" })
    );
  }
  writeFileSync(inFolder("letter.wav"), "Dear all, this is not a sound.");
  const tone = sine(30, -10, RATE * 2);
  writeFileSync(inFolder("bass.wav"), wavBytes({ channels: [tone], sampleRate: RATE, kind: "float32" }));
});

afterAll(() => rmSync(folder, { recursive: true, force: true }));

const VOICES = ["voice 0.wav", "voice 1.wav", "voice 2.wav"];

describe("wring batch", () => {
  it("brings many files to a loudness through a chain that comes with Wring, and reports before and after", () => {
    const run = wring(
      "batch",
      ...VOICES,
      "--preset",
      "Voice recorded outdoors",
      "--to",
      "integrated=-20",
      "-o",
      "out",
      "--csv",
      "report.csv",
      "--json"
    );
    expect(run.error).toBe("");
    expect(run.status).toBe(0);
    const report = JSON.parse(run.out) as Report[];
    for (const { after, output } of report) {
      expect(after?.integratedLufs).toBeCloseTo(-20, 1);
      const again = JSON.parse(wring("measure", output ?? "", "--json").out) as { integratedLufs: number }[];
      expect(again[0]?.integratedLufs).toBeCloseTo(-20, 1);
    }
    const lines = readFileSync(inFolder("report.csv"), "utf8").trim().split("\n");
    expect(lines[0]).toBe("file,before LUFS,after LUFS,before dBTP,after dBTP,written to,why it failed");
    expect(lines).toHaveLength(4);
    expect(lines[1]).toContain("-20.0");
  });

  it("tells what is bad and why, goes on with the rest, and ends with status 1", () => {
    const run = wring(
      "batch",
      "voice 0.wav",
      "letter.wav",
      "gone.wav",
      "voice 1.wav",
      "--preset",
      "mains hum",
      "-o",
      "some",
      "--json"
    );
    expect(run.status).toBe(1);
    expect(run.error).toBe("wring: 2 of 4 files could not be treated\n");
    const report = JSON.parse(run.out) as Report[];
    expect(report.map(({ file, error }) => [file, error !== undefined])).toEqual([
      ["voice 0.wav", false],
      ["voice 1.wav", false],
      ["letter.wav", true],
      ["gone.wav", true]
    ]);
    expect(report[3]?.error).toBe('"gone.wav" is not there');
    expect(existsSync(inFolder("some/letter.wav"))).toBe(false);
  });

  it("refuses wrong use with one line", () => {
    expect(wring("batch", "-o", "x")).toMatchObject({ status: 2, error: "wring: batch wants files\n" });
    expect(wring("batch", "voice 0.wav", "-o", "x").error).toContain(
      "batch wants --chain CHAIN.json, --preset NAME or --to"
    );
    expect(wring("batch", "voice 0.wav", "--to", "loud=-3", "-o", "x")).toMatchObject({ status: 2 });
    expect(wring("batch", "voice 0.wav", "--preset", "none such", "-o", "x").error).toContain(
      'no preset named "none such"'
    );
    expect(wring("batch", "voice 0.wav", "--to", "peak=-1", "-o", ".").error).toContain(
      "could not be treated"
    );
    expect(wring("presets").out).toContain("Speech for the web");
  });
});
