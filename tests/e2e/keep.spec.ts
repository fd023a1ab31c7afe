// What people did stays: without a connection, beside another page, through an interrupted upload, in the bin.
import { closeSync, openSync, readFileSync, writeSync } from "node:fs";
import path from "node:path";
import {
  addStep,
  clip,
  collect,
  expect,
  expectAccessible,
  heard,
  heardFrames,
  listen,
  importAll,
  importFiles,
  newProject,
  noiseFile,
  openDemo,
  ownServer,
  projectWithClip,
  recording,
  saved,
  tapRing,
  test,
  toneFile,
  type,
  place,
  pick,
  shelf,
  undo
} from "./wring";

test.describe("without a connection", () => {
  // The browser logs each request that found no one.
  test.use({ ignoreConsole: /ERR_FAILED|ERR_INTERNET_DISCONNECTED|ERR_CONNECTION/ });

  test("edits are kept, the header counts them, leaving asks; they are saved when it is back, and are there after a reload", async ({
    page
  }) => {
    await projectWithClip(page, "Away", toneFile("Tone away.wav", -22));
    await saved(page);
    await page.route("**/edits", (route) => route.abort());
    await type(page, "Clip gain", "-3");
    await expect(page.locator(".saved")).toHaveText("1 change not saved yet: no connection");
    await type(page, "Clip gain", "-7.5");
    await type(page, "Name of the clip", "Kept");
    await expect(page.locator(".saved")).toHaveText("3 changes not saved yet: no connection");
    let asked = false;
    page.once("dialog", (dialog) => {
      asked = dialog.type() === "beforeunload";
      void dialog.dismiss();
    });
    await page.close({ runBeforeUnload: true });
    await expect.poll(() => asked).toBe(true);
    await page.unroute("**/edits");
    await saved(page);
    await page.reload();
    await clip(page, "Kept").click();
    await expect(page.getByRole("textbox", { name: "Clip gain" })).toHaveValue("-7.5 dB");
  });

  test("an edit whose answer was lost is made once", async ({ page }) => {
    await projectWithClip(page, "Answer lost", toneFile("Tone lost.wav", -23));
    await saved(page);
    let lost = 0;
    await page.route("**/edits", async (route) => {
      if (lost++ < 2) {
        await route.fetch();
        await route.abort();
      } else await route.continue();
    });
    await page.keyboard.press("t");
    await saved(page);
    await expect(page.getByRole("group", { name: /^Track Track/ })).toHaveCount(2);
    await page.reload();
    await expect(page.getByRole("group", { name: /^Track Track/ })).toHaveCount(2);
  });

  test("an upload goes on where it was, also after the page was loaded anew", async ({ page }) => {
    await projectWithClip(page, "Interrupted", toneFile("Tone first.wav", -24));
    await page.route("**/api/uploads/*", (route) => route.abort());
    await importFiles(page, noiseFile("Interrupted take.wav", 91, 20));
    await expect(page.getByRole("region", { name: "Files to import" })).toContainText("Interrupted take.wav");
    await page.waitForTimeout(1500);
    await page.reload();
    await expect(page.getByRole("region", { name: "Files to import" })).toContainText("Interrupted take.wav");
    await page.unroute("**/api/uploads/*");
    await shelf(page, true);
    await expect(recording(page, "Interrupted take")).toBeVisible({ timeout: 30000 });
    await expect(page.getByRole("region", { name: "Work under way" })).toBeHidden({ timeout: 30000 });
    await page.reload();
    await shelf(page, true);
    await expect(recording(page, "Interrupted take")).toBeVisible();
    await expect(page.getByRole("region", { name: "Work under way" })).toBeHidden();
  });

  test("short files whose answer was lost come in once, also after the page was loaded anew; one undo takes them back", async ({
    page
  }) => {
    await newProject(page, "Lost answers");
    let asked = 0;
    await page.route(/\/files$/, async (route) => {
      asked++;
      await route.fetch();
      await route.abort();
    });
    await importFiles(page, noiseFile("Pier.wav", 93), noiseFile("Quay.wav", 94));
    await expect(recording(page, "Pier")).toBeVisible();
    await expect(recording(page, "Quay")).toBeVisible();
    await expect.poll(() => asked).toBeGreaterThan(1);
    await page.reload();
    await expect.poll(() => asked).toBeGreaterThan(2);
    await page.unroute(/\/files$/);
    await expect(page.getByRole("region", { name: "Work under way" })).toBeHidden({ timeout: 60000 });
    await expect(page.getByLabel("Recordings").getByRole("group")).toHaveCount(2);
    await expect(page.getByText(/is the same sound as/)).toHaveCount(0);
    await undo(page).click();
    await expect(page.getByText("No recordings yet.")).toBeVisible();
    await page.getByRole("button", { name: /^Redo: import Pier, and 1 more/ }).click();
    await expect(recording(page, "Quay")).toBeVisible();
    await saved(page);
    await page.reload();
    await expect(page.getByLabel("Recordings").getByRole("group")).toHaveCount(2);
    await expect(page.getByRole("region", { name: "Work under way" })).toBeHidden();
  });
});

test("undo asks before it takes back what another page did, and names it", async ({ page, context }) => {
  await projectWithClip(page, "Two pages", toneFile("Tone shared.wav", -25));
  await type(page, "Clip gain", "-2");
  await saved(page);
  const other = await context.newPage();
  await other.goto(page.url());
  await clip(other, "Tone shared").click();
  await type(other, "Name of the clip", "Renamed elsewhere");
  await expect(clip(page, "Renamed elsewhere")).toBeVisible();
  await page.keyboard.press("Escape");
  await page.getByRole("button", { name: "Undo: rename Tone shared" }).click();
  const question = page.getByRole("dialog");
  await expect(question).toContainText('Undo "rename Tone shared"?');
  await expect(question).toContainText("made on another page that has this project open");
  await expectAccessible(page, ".bx--modal.is-visible");
  await page.getByRole("button", { name: "Keep it" }).click();
  await expect(clip(page, "Renamed elsewhere")).toBeVisible();
  await page.getByRole("button", { name: "Undo: rename Tone shared" }).click();
  await page.getByRole("button", { name: "Undo", exact: true }).last().click();
  await expect(clip(page, "Tone shared")).toBeVisible();
  await expect(clip(other, "Tone shared")).toBeVisible();
  // Its own edit is next, and is taken back without asking.
  await page.getByRole("button", { name: "Undo: gain of Tone shared" }).click();
  await expect(page.getByRole("textbox", { name: "Clip gain" })).toHaveValue("0.0 dB");
});

test("a deleted project waits in the bin and comes back; what takes how much room is shown", async ({
  page
}) => {
  await projectWithClip(page, "Thrown away", toneFile("Tone bin.wav", -26));
  await saved(page);
  await page.goto("/");
  const row = page.getByRole("row").filter({ has: page.getByRole("link", { name: "Thrown away" }) });
  await row.getByRole("button", { name: /^Delete/ }).click();
  await page.getByRole("button", { name: "Delete", exact: true }).click();
  await expect(row).toBeHidden();
  await expectAccessible(page);
  await page.getByRole("button", { name: "Restore Thrown away" }).click();
  await row.getByRole("link").click();
  await expect(clip(page, "Tone bin")).toBeVisible();
  await page.goto("/space");
  await expect(page.getByRole("row", { name: /Recordings in use/ })).toContainText("MB");
  await expectAccessible(page);
});

test("a damaged recording is marked on the shelf and on its clips, and is whole again after its file was imported anew", async ({
  page
}) => {
  const file = toneFile("Fragile.wav", -27);
  await projectWithClip(page, "Damaged", file);
  await saved(page);
  const { id, media: hash } = await page.evaluate(async () => {
    const address = location.pathname.replace("/projects/", "/api/projects/");
    const state = (await (await fetch(address)).json()) as {
      document: { recordings: { id: string; media: string }[] };
    };
    return state.document.recordings[0] ?? { id: "", media: "" };
  });
  const stored = path.join(ownServer().data, "media", hash.slice(0, 2), `${hash}.wav`);
  // In place: whoever reads it meanwhile finds a whole file.
  const media = openSync(stored, "r+");
  writeSync(media, Uint8Array.of((readFileSync(stored)[1000] ?? 0) ^ 0xff), 0, 1, 1000);
  closeSync(media);
  await page.evaluate((recordingId) => fetch(`/api/recordings/${recordingId}/check`, { method: "POST" }), id);
  await expect(clip(page, "Fragile")).toHaveAttribute("aria-label", /the file of its recording is damaged/);
  await shelf(page, true);
  await expect(recording(page, "Fragile")).toContainText("its file is damaged: import it again");
  await expectAccessible(page);
  await importFiles(page, file);
  await expect(page.getByText('"Fragile" is whole again')).toBeVisible();
  await expect(recording(page, "Fragile")).not.toContainText("damaged");
});

test.describe("playing", () => {
  test.use({ ignoreConsole: /status of 5\d\d|ERR_FAILED/ });

  test("that cannot get its sound ends with a sentence, and is then stopped", async ({ page }) => {
    await openDemo(page);
    await page.route("**/api/recordings/*/chunks/**", (route) =>
      route.fulfill({ status: 503, json: { error: "The disk does not answer." } })
    );
    await page.reload();
    await expect(clip(page, "Engineer 2")).toBeVisible();
    await page.getByRole("button", { name: /^Play/ }).click();
    await expect(
      page.getByRole("alert").filter({ hasText: "The disk does not answer." }).first()
    ).toBeVisible();
    await expect(page.getByRole("button", { name: /^Play/ })).toBeVisible();
    await page.unroute("**/api/recordings/*/chunks/**");
    await page.getByRole("button", { name: /^Play/ }).click();
    await expect(page.getByRole("button", { name: /^Stop/ })).toBeVisible();
  });

  test("begins with what is about to sound: a later clip that must be heard as a whole first is not waited for", async ({
    page
  }) => {
    await tapRing(page);
    await projectWithClip(page, "Begins", toneFile("Now.wav", -18, 20));
    await importFiles(page, noiseFile("Later.wav", 93, 4));
    await expect(recording(page, "Later")).toBeVisible();
    await page.keyboard.press("End");
    await place(page, "Later");
    await addStep(page, "normal");
    await saved(page);
    const later = await page.evaluate(async () => {
      const address = location.pathname.replace("/projects/", "/api/projects/");
      const state = (await (await fetch(address)).json()) as {
        document: { recordings: { id: string; name: string }[] };
      };
      return state.document.recordings.find((r) => r.name === "Later")?.id;
    });
    // Its sound never comes.
    await page.route(`**/api/recordings/${later}/chunks/**`, () => undefined);
    await page.reload();
    await expect(clip(page, "Now")).toBeVisible();
    await page.keyboard.press("Home");
    await collect(page);
    await page.keyboard.press("Space");
    await expect(page.getByRole("button", { name: /^Stop/ })).toBeVisible();
    await expect.poll(async () => Math.max(0, ...(await heard(page)).left)).toBeGreaterThan(0.05);
    await page.unrouteAll({ behavior: "ignoreErrors" });
  });

  test("goes on, and is shown to, when a change cannot be taken over", async ({ page }) => {
    await tapRing(page);
    await projectWithClip(page, "Goes on", toneFile("Long tone.wav", -18, 30));
    await importFiles(page, noiseFile("Room.wav", 92, 1));
    await expect(recording(page, "Room")).toBeVisible();
    const room = await page.evaluate(async () => {
      const state = (await (
        await fetch(location.pathname.replace("/projects/", "/api/projects/"))
      ).json()) as { document: { recordings: { id: string; name: string }[] } };
      return state.document.recordings.find((r) => r.name === "Room")?.id;
    });
    await page.keyboard.press("Space");
    await expect(page.getByRole("button", { name: /^Stop/ })).toBeVisible();
    await page.route(`**/recordings/${room}/chunks/**`, (route) =>
      route.fulfill({ status: 503, json: { error: "The room cannot be read." } })
    );
    const field = page.getByRole("combobox", { name: "Add a step" });
    await field.click();
    await field.pressSequentially("convol");
    await field.press("Enter");
    await pick(page, "Impulse response", "Room");
    await expect(
      page.getByRole("alert").filter({ hasText: "The room cannot be read." }).first()
    ).toBeVisible();
    await expect(page.getByRole("button", { name: /^Stop/ })).toBeVisible();
    await collect(page);
    await listen(page, 0.3);
    const { left } = await heard(page);
    expect(Math.max(...left.slice(-2000))).toBeGreaterThan(0.05);
  });
});

test.describe("without the audio of a recording", () => {
  // The browser logs each refusal.
  test.use({ ignoreConsole: /status of 410/ });

  test("its clips are silent and it is named once; everything else plays, and it as well once it is there again", async ({
    page
  }) => {
    await tapRing(page);
    await projectWithClip(page, "Gone", toneFile("Tone there.wav", -20, 6));
    await importAll(page, noiseFile("Noise gone.wav", 77));
    await type(page, "Position", "3");
    await place(page, "Noise gone");
    await saved(page);
    const project = page.url().split("/").at(-1) ?? "";
    const { document } = (await (await page.request.get(`/api/projects/${project}`)).json()) as {
      document: { recordings: { id: string; name: string }[] };
    };
    const id = document.recordings.find(({ name }) => name === "Noise gone")?.id ?? "";
    expect(id).not.toBe("");
    const sentence = 'The audio of "Noise gone" is missing from the data folder. Import it again.';
    const gone = `**/api/recordings/${id}/chunks/**`;
    await page.route(gone, (route) => route.fulfill({ status: 410, json: { error: sentence } }));
    await page.reload();
    await expect(clip(page, "Noise gone")).toBeVisible();
    const playOver = async () => {
      await type(page, "Position", "3.5");
      await collect(page);
      await page.keyboard.press("Space");
      await expect.poll(() => heardFrames(page)).toBeGreaterThan(60000);
      await page.keyboard.press("Space");
      return Math.max(...(await heard(page)).left.slice(0, 60000));
    };
    // The tone alone, at -20 dBFS, and what is left of it in the crossfade.
    const alone = await playOver();
    expect(alone).toBeGreaterThan(0.02);
    expect(alone).toBeLessThan(0.101);
    await expect(page.getByText(`${sentence} Its clips are silent.`)).toHaveCount(1);
    await page.unroute(gone);
    expect(await playOver()).toBeGreaterThan(0.15);
  });
});
