// Delivering from the command line, as a user does: from a data folder that a server may be working on.
import { spawnSync } from "node:child_process";
import { existsSync, mkdtempSync, readdirSync, rmSync, writeFileSync } from "node:fs";
import { tmpdir } from "node:os";
import path from "node:path";
import { afterAll, beforeAll, describe, expect, it } from "vitest";

const root = path.resolve(import.meta.dirname, "../..");
const folder = mkdtempSync(path.join(tmpdir(), "wring-cli-deliver-"));
const out = path.join(folder, "out");

function wring(...args: string[]): { status: number | null; out: string; error: string } {
  const run = spawnSync(process.execPath, [path.join(root, "build/cli/main.mjs"), ...args], {
    cwd: folder,
    encoding: "utf8",
    env: { ...process.env, WRING_DATA: path.join(folder, "data") }
  });
  return { status: run.status, out: run.stdout, error: run.stderr };
}

beforeAll(() => {
  spawnSync(process.execPath, [path.join(root, "scripts/wring.mjs"), "--help"], { cwd: root });
  spawnSync(process.execPath, [path.join(root, "build/worker/seed.mjs")], {
    env: { ...process.env, WRING_DATA: path.join(folder, "data"), WRING_LOG: "silent" }
  });
}, 240000);

afterAll(() => rmSync(folder, { recursive: true, force: true }));

describe("wring deliver", () => {
  it("writes a range at a level, and puts a number behind a name that is taken", () => {
    const args = [
      "deliver",
      "Last Boat to Varnsey",
      "--what",
      "0:02..0:08",
      "--to",
      "integrated=-20",
      "-o",
      out
    ];
    const first = wring(...args, "--json");
    expect([first.error, first.status]).toEqual(["", 0]);
    const [made] = JSON.parse(first.out) as {
      file: string;
      frames: number;
      sampleRate: number;
      levels: { integratedLufs: number };
    }[];
    expect(made?.file).toBe(path.join(out, "Last Boat to Varnsey range.wav"));
    expect(made?.frames).toBe(6 * 48000);
    expect(made?.levels.integratedLufs).toBeCloseTo(-20, 1);
    const second = wring(...args);
    expect(second.out).toContain("Last Boat to Varnsey range 2.wav");
    const measured = wring("measure", path.join(out, "Last Boat to Varnsey range 2.wav"), "--json");
    expect(measured.out).toMatch(/"integratedLufs": -20/);
  }, 120000);

  it.skipIf(!existsSync("/usr/bin/ffprobe"))("writes tags and a cover into what it is told to", () => {
    const cover = path.join(folder, "cover.picture");
    const png =
      "iVBORw0KGgoAAAANSUhEUgAAAAEAAAABCAYAAAAfFcSJAAAADUlEQVR42mNk+M9QDwADhgGAWjR9awAAAABJRU5ErkJggg==";
    writeFileSync(cover, Buffer.from(png, "base64"));
    const tags = ["--tag", "title=Last boat = gone; over", "--tag", "album=Varnsey", "--cover", cover];
    const what = ["--what", "0:02..0:03", "--as", "opus:64", "--name", "tagged"];
    const run = wring("deliver", "Last Boat to Varnsey", ...what, ...tags, "-o", out);
    expect([run.error, run.status]).toEqual(["", 0]);
    const asked = ["-v", "error", "-of", "json", "-show_streams", path.join(out, "tagged.opus")];
    const { streams } = JSON.parse(spawnSync("ffprobe", asked, { encoding: "utf8" }).stdout) as {
      streams: { codec_name: string; tags?: Record<string, string> }[];
    };
    expect(streams.map(({ codec_name: name }) => name)).toEqual(["opus", "png"]);
    expect(streams[0]?.tags).toMatchObject({ title: "Last boat = gone; over", album: "Varnsey" });
  });

  it.each([
    [["Last Boat to Varnsey", "--tag", "singer=Ida", "-o", out], /--tag is NAME=TEXT with title, artist/, 2],
    [["Last Boat to Varnsey", "--tag", `title=${"x".repeat(201)}`, "-o", out], /title: .*200/, 2],
    [["Last Boat to Varnsey", "--as", "mp3", "--cover", "gone.png", "-o", out], /"gone.png" is not there/, 1],
    [
      ["Last Boat to Varnsey", "--as", "mp3", "--cover", import.meta.filename, "-o", out],
      /is no PNG or JPEG picture/,
      1
    ],
    [["Nobody's project", "-o", out], /There is no project named "Nobody's project"/, 1],
    [["Last Boat to Varnsey"], /deliver wants -o DIR/, 2],
    [["Last Boat to Varnsey", "--what", "all", "-o", out], /--what is mix, sections/, 2],
    [["Last Boat to Varnsey", "--as", "flac32", "-o", out], /--as is one of wav16/, 2],
    [["Last Boat to Varnsey", "--rate", "96000", "--as", "mp3", "-o", out], /MP3 has no 96 kHz/, 2],
    [["Last Boat to Varnsey", "--preset", "nothing", "-o", out], /no delivery settings named "nothing"/, 1]
  ])("refuses %o in a sentence", (args, sentence, status) => {
    const before = existsSync(out) ? readdirSync(out) : [];
    const run = wring("deliver", ...args);
    expect(run.error).toMatch(sentence);
    expect([run.status, existsSync(out) ? readdirSync(out) : []]).toEqual([status, before]);
  });
});
