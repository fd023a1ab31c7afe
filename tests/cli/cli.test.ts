// The command line, run as a user runs it.
import { spawn, spawnSync } from "node:child_process";
import { existsSync, mkdtempSync, readdirSync, readFileSync, rmSync, statSync, writeFileSync } from "node:fs";
import { tmpdir } from "node:os";
import path from "node:path";
import { afterAll, beforeAll, describe, expect, it } from "vitest";
import { effects } from "../../src/lib/core/effects/registry";
import { bextChunk } from "../../src/lib/core/formats/bext";
import { markerChunks } from "../../src/lib/core/formats/cues";
import { wavHeader } from "../../src/lib/core/formats/wavWriter";
import { FACTORY_PRESETS } from "../../src/lib/core/presets/factory";
import { chainJsonSchema } from "../../src/lib/core/session/chainFile";
import { noise, sine } from "../core/signals";
import { wavBytes } from "../core/wavBytes";

const root = path.resolve(import.meta.dirname, "../..");
const fixture = (name: string) => path.join(root, "tests/fixtures", `${name}.wav`);
const folder = mkdtempSync(path.join(tmpdir(), "wring-cli-"));
const inFolder = (name: string) => path.join(folder, name);
const RATE = 48000;

function wring(...args: string[]): { status: number | null; out: string; error: string } {
  const run = spawnSync(process.execPath, [path.join(root, "build/cli/main.mjs"), ...args], {
    cwd: folder,
    encoding: "utf8",
    env: { ...process.env, WRING_DATA: inFolder("no-data") },
    maxBuffer: 1 << 26
  });
  return { status: run.status, out: run.stdout, error: run.stderr };
}

/** Samples of a 32-bit float WAV that the command line wrote, by channel. */
function samplesOf(file: string): { channels: number; bits: number; rate: number; data: Float32Array[] } {
  const bytes = readFileSync(file);
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  const format = bytes.indexOf("fmt ") + 8;
  const start = bytes.indexOf("data") + 8;
  const channels = view.getUint16(format + 2, true);
  const bits = view.getUint16(format + 14, true);
  const frames = (bytes.length - start) / channels / (bits / 8);
  const at = (i: number) =>
    bits === 32
      ? view.getFloat32(start + i * 4, true)
      : bits === 16
        ? view.getInt16(start + i * 2, true) / 32768
        : 0;
  const data = Array.from({ length: channels }, (_, c) =>
    Float32Array.from({ length: bits === 24 ? 0 : frames }, (_, i) => at(i * channels + c))
  );
  return { channels, bits, rate: view.getUint32(format + 4, true), data };
}

function chain(name: string, steps: unknown[], more: object = {}): string {
  const file = inFolder(name);
  writeFileSync(file, JSON.stringify({ wring: "chain/1", name, steps, ...more }));
  return file;
}

beforeAll(() => {
  // A tone, both sides alike, half a second of it silent; and one in one channel.
  const tone = sine(997, -20, RATE * 4);
  writeFileSync(
    inFolder("tone.wav"),
    wavBytes({ channels: [tone, tone], sampleRate: RATE, kind: "float32" })
  );
  writeFileSync(inFolder("mono.wav"), wavBytes({ channels: [tone], sampleRate: RATE, kind: "int16" }));
  writeFileSync(
    inFolder("quiet.wav"),
    wavBytes({ channels: [tone.map((x) => x / 10)], sampleRate: RATE, kind: "int24" })
  );
  writeFileSync(inFolder("bad.wav"), "no sound");
  // Builds what is out of date, as `npm run wring` does; then the program itself is run.
  spawnSync(process.execPath, [path.join(root, "scripts/wring.mjs"), "--help"], { cwd: folder });
}, 120000);
afterAll(() => rmSync(folder, { recursive: true, force: true }));

describe("wring measure", () => {
  it("prints exactly the promised keys, minus infinity as null", () => {
    writeFileSync(
      inFolder("silence.wav"),
      wavBytes({ channels: [new Float32Array(RATE)], sampleRate: RATE, kind: "int16" })
    );
    const { status, out } = wring("measure", "tone.wav", "silence.wav", "--json");
    expect(status).toBe(0);
    const [tone, silence] = JSON.parse(out) as Record<string, unknown>[];
    expect(Object.keys(tone)).toEqual(
      "file sampleRate channels frames durationSeconds integratedLufs momentaryMaxLufs shortTermMaxLufs loudnessRangeLu truePeakDbtp truePeakAnnex2Dbtp samplePeakDbfs rmsDbfs clippedSamples dcOffset noiseFloorDbfs".split(
        " "
      )
    );
    // 997 Hz on both sides reads its peak level (BS.1770); RMS of a sine lies 3.01 dB below its peak.
    expect(tone).toMatchObject({
      file: "tone.wav",
      sampleRate: RATE,
      channels: 2,
      frames: RATE * 4,
      durationSeconds: 4,
      clippedSamples: 0
    });
    expect(tone.integratedLufs).toBeCloseTo(-20, 1);
    expect(tone.rmsDbfs).toBeCloseTo(-23.01, 2);
    expect(silence).toMatchObject({
      integratedLufs: null,
      truePeakDbtp: null,
      rmsDbfs: null,
      noiseFloorDbfs: null,
      loudnessRangeLu: null
    });
  });

  it("shows a dash where a file is too short for a window, and says why", () => {
    for (const [seconds, dashes] of [
      [0.3, 5],
      [2, 2]
    ]) {
      const file = inFolder(`short-${seconds}.wav`);
      writeFileSync(
        file,
        wavBytes({ channels: [sine(997, -20, seconds * RATE)], sampleRate: RATE, kind: "int16" })
      );
      const { out } = wring("measure", file);
      expect(out.split("\n")[1]?.match(/–/g)).toHaveLength(dashes);
      expect(out).toMatch(/Shorter than (400 ms|3 s): it has no /);
    }
  });

  it("refuses samples that are no numbers wherever they are read, naming file and place", () => {
    const broken = sine(440, -20, RATE);
    broken[RATE / 2] = NaN;
    writeFileSync(
      inFolder("nan.wav"),
      wavBytes({ channels: [broken, broken], sampleRate: RATE, kind: "float32" })
    );
    const louder = chain("louder-nan.json", [{ effect: "gain", params: { gainDb: 6 } }]);
    const sentence = '"nan.wav" cannot be used: sample 24000 (at 0.500 s) is not a number or infinite';
    for (const args of [
      ["measure", "nan.wav"],
      ["measure", "nan.wav", "--chain", louder],
      ["render", "nan.wav", "--chain", louder, "-o", "out-nan.wav"],
      ["normalize", "nan.wav", "--to", "peak=-1", "-o", "nan-out"]
    ]) {
      const { status, error } = wring(...args);
      expect([status, error]).toEqual([1, expect.stringContaining(sentence)]);
    }
    expect(existsSync(inFolder("out-nan.wav"))).toBe(false);
  });

  it("measures a range, folded to mono, and through a chain", () => {
    const louder = chain("louder.json", [{ effect: "gain", params: { gainDb: 6 } }]);
    const { out } = wring(
      "measure",
      "tone.wav",
      "--from",
      "1",
      "--to",
      "0:02.5",
      "--mono",
      "--chain",
      louder,
      "--json"
    );
    const [row] = JSON.parse(out) as Record<string, number>[];
    expect(row).toMatchObject({ channels: 1, frames: RATE * 1.5 });
    expect(row.samplePeakDbfs).toBeCloseTo(-14, 2);
    expect(row.integratedLufs).toBeCloseTo(-17.01, 1);
  });

  it("prints a table for people", () => {
    const { out } = wring("measure", fixture("speech"));
    expect(out.split("\n")[0]).toMatch(/^file +length +I LUFS/);
    expect(out).toContain("0:07.100");
  });
});

describe("wring render", () => {
  it("treats the span that a chain file gives a step, and nothing else", () => {
    const span = { from: 48000, to: 96000, edgeMs: 0 };
    const part = chain("part.json", [{ effect: "gain", params: { gainDb: -6.020599913279624 }, span }]);
    expect(wring("render", "tone.wav", "--chain", part, "-o", "part.wav")).toMatchObject({
      status: 0,
      error: ""
    });
    const { data } = samplesOf(inFolder("part.wav"));
    const tone = sine(997, -20, RATE * 4);
    for (let i = 0; i < tone.length; i += 7)
      expect(data[0][i]).toBeCloseTo(tone[i] / (i >= 48000 && i < 96000 ? 2 : 1), 7);
    wring("render", "tone.wav", "--chain", part, "--from", "1.5", "-o", "later.wav");
    const later = samplesOf(inFolder("later.wav")).data[0];
    for (let i = 0; i < 48000; i += 7) expect(later[i]).toBeCloseTo(tone[72000 + i] / (i < 24000 ? 2 : 1), 7);
  });

  it("renders a chain sample for sample, mono stays mono, with the source's bits unless told otherwise", () => {
    const half = chain("half.json", [{ effect: "gain", on: true, params: { gainDb: -6.020599913279624 } }]);
    expect(wring("render", "tone.wav", "--chain", half, "-o", "half.wav")).toMatchObject({
      status: 0,
      error: ""
    });
    const { data, channels, bits } = samplesOf(inFolder("half.wav"));
    expect({ channels, bits }).toEqual({ channels: 2, bits: 32 });
    const tone = sine(997, -20, RATE * 4);
    for (let i = 0; i < tone.length; i += 11) expect(data[0][i]).toBeCloseTo(tone[i] / 2, 7);
    wring("render", "mono.wav", "--chain", half, "-o", "mono-half.wav", "--no-dither");
    expect(samplesOf(inFolder("mono-half.wav"))).toMatchObject({ channels: 1, bits: 16, rate: RATE });
    wring("render", "mono.wav", "--preset", "reverb/Cathedral", "-o", "wide.wav", "--bits", "24");
    expect(samplesOf(inFolder("wide.wav"))).toMatchObject({ channels: 2, bits: 24 });
  });

  it("brings a mono file to the loudness that is then measured of it", () => {
    const level = chain("level.json", [
      { effect: "normalize", params: { target: "integrated", levelDb: -16 } }
    ]);
    wring("render", "mono.wav", "--chain", level, "-o", "mono-level.wav");
    const { out } = wring("measure", "mono-level.wav", "--json");
    const [row] = JSON.parse(out) as { channels: number; integratedLufs: number }[];
    expect(row.channels).toBe(1);
    expect(row.integratedLufs).toBeCloseTo(-16, 2);
  });

  it("keeps handles and lets the tail ring on until it is silent", () => {
    const echo = chain("echo.json", [
      { effect: "delay", params: { timeMs: 500, feedbackPercent: 20, mixPercent: 50 } }
    ]);
    wring(
      "render",
      "tone.wav",
      "--chain",
      echo,
      "--from",
      "1",
      "--to",
      "2",
      "--handles",
      "0.5",
      "--tail",
      "auto",
      "-o",
      "echo.wav"
    );
    const { data } = samplesOf(inFolder("echo.wav"));
    // Half a second of handle, the second itself, half a second of handle, then echoes: 20 % each, 90 dB after seven.
    expect(data[0].length / RATE).toBeGreaterThan(2 + 3);
    expect(data[0].length / RATE).toBeLessThan(2 + 8);
    expect(Math.abs(data[0][data[0].length - 1])).toBeLessThan(1e-4);
  });

  it("uses an impulse response by its path beside the chain file", () => {
    writeFileSync(
      inFolder("response.wav"),
      wavBytes({ channels: [Float32Array.of(0, 0, 1)], sampleRate: RATE, kind: "float32" })
    );
    const room = chain("room.json", [
      { effect: "convolution", params: { impulse: "response.wav", evenLevel: false, mixPercent: 100 } }
    ]);
    expect(wring("render", "tone.wav", "--chain", room, "-o", "late.wav").status).toBe(0);
    const { data } = samplesOf(inFolder("late.wav"));
    const tone = sine(997, -20, RATE);
    for (let i = 2; i < RATE; i += 97) expect(data[0][i]).toBeCloseTo(tone[i - 2], 5);
    rmSync(inFolder("response.wav"));
    expect(wring("render", "tone.wav", "--chain", room, "-o", "late2.wav").error).toContain("is not there");
  });

  it.each([
    ["an unknown effect", [{ effect: "sparkle" }], 'steps[0].effect: there is no effect named "sparkle"'],
    [
      "an unknown parameter",
      [{ effect: "gain" }, { effect: "gain", params: { loud: 1 } }],
      'steps[1].params.loud: Gain has no parameter "loud"'
    ],
    [
      "a value out of range",
      [{ effect: "gain", params: { gainDb: 99 } }],
      "steps[0].params.gainDb: must lie between -60 and 48 dB"
    ],
    ["an unknown field", [{ effect: "gain", volume: 1 }], "steps[0]: Unrecognized key"],
    [
      "a wish for a noise profile that is not there",
      [{ effect: "gain" }, { effect: "noise-reduction", params: { source: "ask" } }],
      "Step 2 of the chain asks for a noise profile and has none"
    ]
  ])("refuses %s in a chain with the path of the fault, and leaves no file", (_, steps, fault) => {
    const file = chain("faulty.json", steps);
    const { status, error, out } = wring("render", "tone.wav", "--chain", file, "-o", "never.wav");
    expect({ status, out }).toEqual({ status: 1, out: "" });
    expect(error.trim().split("\n")).toHaveLength(1);
    expect(error).toContain(fault);
    expect(existsSync(inFolder("never.wav"))).toBe(false);
  });

  it("never overwrites its source, and says what is wrong in one line", () => {
    const before = statSync(inFolder("tone.wav")).mtimeMs;
    const { status, error } = wring("render", "tone.wav", "--preset", "gain/Down 6 dB", "-o", "./tone.wav");
    expect(status).toBe(1);
    expect(error).toContain("never overwritten");
    expect(statSync(inFolder("tone.wav")).mtimeMs).toBe(before);
    expect(wring("render", "missing.wav", "--preset", "Brighter", "-o", "x.wav").error).toBe(
      'wring: "missing.wav" is not there\n'
    );
    expect(wring("render", "tone.wav", "--preset", "No such thing", "-o", "x.wav").error).toContain(
      "no preset named"
    );
    expect(wring("render", "tone.wav", "--preset", "Brighter", "-o", "no/such/x.wav").error).toContain(
      "is not there"
    );
    expect(wring("measure", "bad.wav").status).toBe(1);
  });

  it.each([
    [["render", "tone.wav", "-o", "x.wav"], "wants --chain"],
    [["render", "tone.wav", "--preset", "Brighter"], "wants -o"],
    [["render", "tone.wav", "--preset", "Brighter", "-o", "x.wav", "--bits", "12"], "--bits"],
    [["measure"], "at least one file"],
    [["measure", "tone.wav", "--loud"], "--loud"],
    [["measure", "tone.wav", "--from", "soon"], "--from wants a time"],
    [["normalize", "tone.wav", "--to", "louder=3", "-o", "d"], "--to is one of"],
    [["learn-noise", "tone.wav", "-o", "p.json"], "--from"],
    [["measure", "tone.wav", "--from", "2", "--to", "1"], "--to must lie after --from"],
    [["nothing"], "no command"],
    [[], "command is missing"]
  ])("answers wrong use with status 2 and one line: %j", (args, text) => {
    const { status, error, out } = wring(...args);
    expect({ status, out }).toEqual({ status: 2, out: "" });
    expect(error.trim().split("\n")).toHaveLength(1);
    expect(error).toContain(text);
  });

  it("leaves no partial file when it is stopped in the middle", async () => {
    const long = noise(RATE * 120, 0.3);
    writeFileSync(
      inFolder("long.wav"),
      wavBytes({ channels: [long, long], sampleRate: RATE, kind: "int16" })
    );
    const heavy = chain(
      "heavy.json",
      Array.from({ length: 12 }, () => ({ effect: "chorus", params: { voices: 6 } }))
    );
    const before = readdirSync(folder);
    const run = spawn(
      process.execPath,
      [path.join(root, "build/cli/main.mjs"), "render", "long.wav", "--chain", heavy, "-o", "stopped.wav"],
      {
        cwd: folder
      }
    );
    const ended = new Promise<number | null>((resolve) => run.on("exit", (code) => resolve(code)));
    while (!readdirSync(folder).some((f) => f.endsWith(".part"))) await new Promise((r) => setTimeout(r, 20));
    run.kill("SIGTERM");
    expect(await ended).toBe(1);
    expect(readdirSync(folder)).toEqual(before);
  });
});

describe("wring normalize", () => {
  it("brings each file to the level by itself", () => {
    const { out, status } = wring(
      "normalize",
      "tone.wav",
      "quiet.wav",
      "--to",
      "integrated=-16",
      "-o",
      "even",
      "--json"
    );
    expect(status).toBe(0);
    const rows = JSON.parse(out) as { output: string; gainDb: number; after: { integratedLufs: number } }[];
    for (const { output, after } of rows) {
      expect(after.integratedLufs).toBeCloseTo(-16, 2);
      const [measured] = JSON.parse(wring("measure", output, "--json").out) as { integratedLufs: number }[];
      expect(Math.abs(measured.integratedLufs - -16)).toBeLessThan(0.01);
    }
  });

  it("keeps the balance of all with --together, and stops at a ceiling", () => {
    const rows = JSON.parse(
      wring("normalize", "tone.wav", "quiet.wav", "--to", "peak=-1", "--together", "-o", "balance", "--json")
        .out
    ) as { gainDb: number }[];
    expect(rows[0].gainDb).toBeCloseTo(19, 2);
    expect(rows[1].gainDb).toBe(rows[0].gainDb);
    const [held] = JSON.parse(
      wring("normalize", "tone.wav", "--to", "integrated=-3", "--ceiling", "-6", "-o", "held", "--json").out
    ) as { after: { truePeakDbtp: number } }[];
    expect(held.after.truePeakDbtp).toBeCloseTo(-6, 2);
  });
});

describe("wring effects, presets, learn-noise", () => {
  it("lists every effect with its parameters, and every preset", () => {
    const list = JSON.parse(wring("effects", "--json").out) as {
      id: string;
      params: Record<string, unknown>[];
    }[];
    expect(list.map((e) => e.id)).toEqual(effects.map((e) => e.id));
    const gain = list[0].params[0];
    expect(gain).toMatchObject({
      id: "gainDb",
      name: "Gain",
      unit: "dB",
      min: -60,
      max: 48,
      default: 0,
      choices: null
    });
    const presets = JSON.parse(wring("presets", "--json").out) as { name: string; steps: unknown[] }[];
    expect(presets.length).toBe(effects.reduce((n, e) => n + e.presets.length, FACTORY_PRESETS.length));
    expect(wring("effects").out).toContain("parametric-eq");
  });

  it("learns a noise that a chain then carries", () => {
    const hiss = noise(RATE * 3, 0.02);
    writeFileSync(inFolder("hiss.wav"), wavBytes({ channels: [hiss], sampleRate: RATE, kind: "float32" }));
    expect(wring("learn-noise", "hiss.wav", "--from", "0", "--to", "1", "-o", "hiss.json").status).toBe(0);
    const rows = JSON.parse(wring("measure", "hiss.wav", "--from", "1", "--json").out) as {
      rmsDbfs: number;
    }[];
    const less = JSON.parse(
      wring("measure", "hiss.wav", "--from", "1", "--chain", "hiss.json", "--json").out
    ) as { rmsDbfs: number }[];
    expect(less[0].rmsDbfs - rows[0].rmsDbfs).toBeLessThan(-12);
  });

  it("examines files: what is wrong, and which step mends it", () => {
    const low = sine(440, -50, 3 * RATE);
    writeFileSync(inFolder("low.wav"), wavBytes({ channels: [low], sampleRate: RATE, kind: "float32" }));
    const [{ file, findings }] = JSON.parse(wring("examine", "low.wav", "--json").out) as {
      file: string;
      findings: { kind: string; certainty: string; step?: { effect: string } }[];
    }[];
    expect(file).toBe("low.wav");
    expect(findings.map(({ kind }) => kind)).toEqual(["low"]);
    expect(findings[0]).toMatchObject({ certainty: "sure", step: { effect: "gain" } });
    const text = wring("examine", "low.wav").out;
    expect(text).toMatch(/sure +Too low: -5\d\.\d LUFS\. Mended by gain, gainDb/);
    expect(wring("examine").status).toBe(2);
    expect(wring("examine", "missing.wav").error).toContain("missing.wav");
  });

  it("tells what files hold, and reads what ffmpeg reads to the sample", ({ skip }) => {
    const tone = sine(440, -20, 30011);
    writeFileSync(inFolder("held.wav"), wavBytes({ channels: [tone], sampleRate: RATE, kind: "int16" }));
    const [held] = JSON.parse(wring("info", "held.wav", "--json").out) as object[];
    expect(held).toMatchObject({
      format: "wav",
      codec: "int16",
      sampleRate: RATE,
      channels: 1,
      frames: 30011
    });
    const chunks = [
      bextChunk({
        ...{ description: "Last boat", originator: "Harbour", originatorReference: "", date: "2031-04-09" },
        ...{ time: "10:00:00", timeReference: 36000 * RATE, loudness: null, codingHistory: "" }
      }),
      markerChunks([{ start: 12000, length: 0, name: "Gull" }])
    ].flat();
    const head = wavHeader("int16", 1, RATE, 30000, chunks);
    writeFileSync(inFolder("told.wav"), Buffer.concat([head, Buffer.alloc(60000)]));
    const { out } = wring("info", "told.wav");
    expect(out).toContain("WAV, 16 bit, 48000 Hz, 1 channel, 0:00.625, 30000 frames");
    expect(out).toContain("original time: 10:00:00.000");
    expect(out).toContain("description: Last boat");
    expect(out).toContain("marker 0:00.250: Gull");
    expect(wring("info", "missing.wav").error).toContain("missing.wav");
    writeFileSync(inFolder("letter.flac"), "Dear all, this is a letter.");
    expect(wring("info", "letter.flac").status).toBe(1);
    if (!existsSync("/usr/bin/ffmpeg")) return skip();
    for (const [name, codec] of [
      ["held.flac", "flac"],
      ["held.m4a", "aac"]
    ]) {
      spawnSync("ffmpeg", ["-v", "error", "-y", "-i", inFolder("held.wav"), inFolder(name)]);
      expect(wring("info", name).out).toMatch(
        new RegExp(`${codec}, 48000 Hz, 1 channel, 0:00\\.625, 30011 frames`, "i")
      );
      const [row] = JSON.parse(wring("measure", name, "--json").out) as { frames: number; rmsDbfs: number }[];
      expect(row.frames).toBe(30011);
      expect(row.rmsDbfs).toBeCloseTo(-23, 0);
    }
    const whole = readFileSync(inFolder("held.flac"));
    writeFileSync(inFolder("cut.flac"), whole.subarray(0, whole.length * 0.7));
    expect(wring("measure", "cut.flac").error).toMatch(
      /"cut\.flac" cannot be used: it is cut off: 0\.\d s of 0\.6 s/
    );
  });

  it("the JSON Schema in docs is the one that the chain files' schema gives", () => {
    const written: unknown = JSON.parse(readFileSync(path.join(root, "docs/chain.schema.json"), "utf8"));
    expect(written).toEqual(JSON.parse(JSON.stringify(chainJsonSchema())));
  });
});
