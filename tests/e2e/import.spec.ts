import { execFileSync } from "node:child_process";
import { existsSync } from "node:fs";
import { dB, peakOf } from "../core/analysis";
import { riff } from "../core/wavBytes";
import {
  clip,
  exported,
  expect,
  importFiles,
  newProject,
  noiseFile,
  recording,
  saved,
  test,
  toneFile,
  type TestFile,
  place,
  shelf
} from "./wring";

const bad = (name: string, bytes: Uint8Array): TestFile => ({
  name,
  mimeType: "audio/wav",
  buffer: Buffer.from(bytes)
});

test("several files at once become recordings; one click or a drag puts them on a track", async ({
  page
}) => {
  await newProject(page, "Import");
  await importFiles(
    page,
    toneFile("Low tone.wav", -20),
    noiseFile("Hiss.wav", 4),
    toneFile("High tone.wav", -9, 2)
  );
  for (const name of ["Low tone", "Hiss", "High tone"]) await expect(recording(page, name)).toBeVisible();
  await expect(recording(page, "High tone")).toContainText("0:02.0 mono 48k");

  await place(page, "Hiss");
  await expect(clip(page, "Hiss")).toBeVisible();
  await shelf(page, true);
  await recording(page, "Low tone").dragTo(page.locator("[data-lane]").first(), {
    targetPosition: { x: 400, y: 20 }
  });
  await expect(clip(page, "Low tone")).toBeVisible();
  await expect(page.getByRole("button", { name: "Undo: add Low tone" })).toBeVisible();
  const label = await clip(page, "Low tone").getAttribute("aria-label");
  expect(label).not.toContain("starts at 0:00.000");
});

test("a FLAC and the sound of a video become recordings, are there after a reload, and sound in the export", async ({
  page
}) => {
  test.skip(!existsSync("/usr/bin/ffmpeg"), "ffmpeg is not installed");
  const tone = toneFile("x.wav", -12, 3).buffer;
  // MP4 cannot be written to a pipe; Matroska can.
  const coded = (...how: string[]) =>
    execFileSync("ffmpeg", ["-v", "error", ...how, "pipe:1"], { input: tone, maxBuffer: 2 ** 26 });
  const picture = ["-f", "lavfi", "-i", "testsrc=s=64x64:r=25:d=2"];
  await newProject(page, "Formats");
  await importFiles(
    page,
    { name: "Take.flac", mimeType: "audio/flac", buffer: coded("-i", "pipe:0", "-f", "flac") },
    {
      name: "Scene.mkv",
      mimeType: "video/x-matroska",
      buffer: coded(
        "-i",
        "pipe:0",
        ...picture,
        "-af",
        "volume=-6dB",
        "-c:a",
        "flac",
        "-c:v",
        "mpeg4",
        "-f",
        "matroska"
      )
    }
  );
  await expect(recording(page, "Take")).toContainText("0:03.0 mono 48k");
  await expect(recording(page, "Scene")).toBeVisible();
  await place(page, "Take");
  await saved(page);
  await page.reload();
  await expect(clip(page, "Take")).toBeVisible();
  const { left } = await exported(page);
  expect(dB(peakOf(left, 24000, 120000))).toBeCloseTo(-12, 1);
});

test("files dropped on the window are imported", async ({ page }) => {
  await newProject(page, "Drop");
  const { buffer } = toneFile("x.wav", -13);
  const transfer = await page.evaluateHandle(
    (bytes) => {
      const data = new DataTransfer();
      data.items.add(new File([new Uint8Array(bytes)], "Dropped.wav", { type: "audio/wav" }));
      return data;
    },
    [...buffer]
  );
  await page.dispatchEvent(".screen", "drop", { dataTransfer: transfer });
  await expect(recording(page, "Dropped")).toBeVisible();
});

test("bad files get one sentence each; the good one among them is imported", async ({ page }) => {
  await newProject(page, "Bad input");
  const good = toneFile("Good.wav", -17);
  await importFiles(
    page,
    bad("empty.wav", new Uint8Array(0)),
    bad("letter.wav", new TextEncoder().encode("Dear all, this is not a sound at all.")),
    bad("cut.wav", good.buffer.subarray(0, 5000)),
    bad("nine.wav", riff({ channels: 9 })),
    bad("nan.wav", riff({ tag: 3, bits: 32, floats: [0, NaN, 0] })),
    good
  );
  // One message of all that were refused, in the page's top line; the sentences are listed when one asks.
  const messages = page.getByRole("region", { name: "Messages" });
  await expect(messages.getByRole("alert")).toHaveCount(1);
  await expect(messages.getByRole("alert")).toContainText("5 problems");
  const line = await messages.boundingBox();
  const timeline = await page.getByRole("main").boundingBox();
  expect((line?.y ?? 0) + (line?.height ?? 0)).toBeLessThanOrEqual(timeline?.y ?? 0);
  await messages.getByRole("button", { name: /^All \d/ }).click();
  const all = messages.getByRole("group", { name: "All messages" });
  for (const sentence of [
    '"empty.wav" was not imported: it is empty.',
    '"letter.wav" was not imported: it holds no sound that can be read.',
    '"cut.wav" was not imported: it is truncated',
    '"nine.wav" was not imported: it has 9 channels',
    '"nan.wav" was not imported: sample 1'
  ])
    await expect(all.getByRole("listitem").filter({ hasText: sentence })).toBeVisible();
  await all.getByRole("listitem").filter({ hasText: "letter.wav" }).getByRole("button").click();
  await expect(messages.getByRole("alert")).toContainText("4 problems");
  await page.keyboard.press("Escape");
  await expect(all).toHaveCount(0);
  await messages.getByRole("button", { name: "Dismiss these messages" }).click();
  await expect(messages.getByRole("alert")).toHaveCount(0);
  await expect(recording(page, "Good")).toBeVisible();
  await importFiles(page, { ...good, name: "Good again.wav" });
  await expect(
    page.getByText('"Good again.wav" is the same sound as "Good", which is here already: nothing was added.')
  ).toBeVisible();
  await expect(page.getByLabel("Recordings").getByRole("group")).toHaveCount(1);
});

test("a file beyond the space for data is refused before it is sent", async ({ page }) => {
  await newProject(page, "Full");
  await page.route("**/api/uploads", async (route) => {
    // A file of five gigabytes need not exist for its size to be announced.
    await route.continue({ headers: { ...route.request().headers(), "upload-length": "5000000000" } });
  });
  await importFiles(page, toneFile("Long.wav", -31, 20));
  await expect(page.getByRole("region", { name: "Messages" }).getByRole("alert")).toContainText(
    /"Long\.wav" was not imported: it needs 5\.0 GB, but only [0-9.]+ [MG]B/
  );
});

// Short files come many in one request, a long one by itself in parts.
for (const [kind, seconds] of [
  ["short", 1],
  ["long", 20]
] as const)
  test(`an upload shows its progress and can be cancelled; nothing is kept: a ${kind} file`, async ({
    page
  }) => {
    await newProject(page, `Cancel ${kind}`);
    let release: () => void = () => undefined;
    const held = new Promise<void>((resolve) => (release = resolve));
    const sending = kind === "short" ? /\/files$/ : /\/api\/uploads\/./;
    await page.route(sending, async (route) => {
      if (["POST", "PATCH"].includes(route.request().method())) await held;
      await route.continue().catch(() => undefined);
    });
    await importFiles(page, toneFile("Slow.wav", -33, seconds));
    await page.getByRole("button", { name: "Cancel: Upload Slow.wav" }).click();
    await expect(page.getByText("Upload Slow.wav: cancelled, nothing was kept.")).toBeVisible();
    release();
    await expect(page.getByRole("region", { name: "Work under way" })).toBeHidden();
    await expect(page.getByText("No recordings yet.")).toBeVisible();
  });

test("all files that are not in yet are given up at once: told once, and what is in stays", async ({
  page
}) => {
  await newProject(page, "Cancel all");
  let release: () => void = () => undefined;
  const held = new Promise<void>((resolve) => (release = resolve));
  let requests = 0;
  await page.route(/\/files$/, async (route) => {
    requests++;
    if (requests > 1) await held;
    await route.continue().catch(() => undefined);
  });
  const files = Array.from({ length: 40 }, (_, i) => noiseFile(`Wave ${i + 1}.wav`, 300 + i, 0.2));
  await importFiles(page, ...files);
  const rows = page.getByRole("region", { name: "Files to import" });
  await expect(rows.getByRole("status")).toHaveText("Importing: 16 of 40 files are done");
  await rows.getByRole("button", { name: "Cancel all" }).click();
  await expect(page.getByText("24 files: cancelled, nothing was kept of them.")).toBeVisible();
  await expect(page.getByText(/^Upload Wave/)).toHaveCount(0);
  release();
  await expect(page.getByRole("region", { name: "Work under way" })).toBeHidden({ timeout: 30000 });
  await expect(page.getByLabel("Recordings").getByRole("group")).toHaveCount(16);
  await page.reload();
  await expect(page.getByLabel("Recordings").getByRole("group")).toHaveCount(16);
  await expect(page.getByRole("region", { name: "Work under way" })).toBeHidden();
});
