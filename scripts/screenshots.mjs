// npm run screenshots: takes the pictures of docs/screenshots anew, from the demo, at 1280 × 800.
import { mkdtempSync, rmSync } from "node:fs";
import { tmpdir } from "node:os";
import path from "node:path";
import { spawn } from "node:child_process";
import { build, debianPackages, install, must, root } from "./prepare.mjs";

install();
build();
if (debianPackages({ chromium: "chromium" }).length > 0) {
  console.error("Pictures cannot be taken: chromium is not installed.");
  process.exit(1);
}
const { chromium } = await import("@playwright/test");
const data = mkdtempSync(path.join(tmpdir(), "wring-screenshots-"));
const port = 4699;
must(process.execPath, ["build/worker/seed.mjs"], { env: { ...process.env, WRING_DATA: data } });
const server = spawn(process.execPath, ["server/index.mjs"], {
  cwd: root,
  env: { ...process.env, NODE_ENV: "production", WRING_DATA: data, PORT: String(port), WRING_LOG: "silent" },
  stdio: ["ignore", "ignore", "inherit", "ipc"]
});
await new Promise((resolve) => server.once("message", resolve));
const browser = await chromium.launch({
  executablePath: process.env.CHROMIUM ?? "/usr/bin/chromium",
  args: ["--no-sandbox", "--autoplay-policy=no-user-gesture-required"]
});
const page = await browser.newPage({ viewport: { width: 1280, height: 800 } });
const shot = async (name) => {
  await page.waitForTimeout(400);
  await page.screenshot({ path: path.join(root, `docs/screenshots/${name}.png`) });
};
const clip = (name) => page.getByRole("button", { name: new RegExp(`^${name}, starts at`) });
const step = (name) => page.getByRole("listitem").filter({ hasText: name }).getByRole("button").first();
const levels = async () => {
  // The measurement begins a moment after the change.
  await page.waitForTimeout(300);
  await page.getByText("measuring levels…").waitFor({ state: "hidden" });
  await page.waitForTimeout(300);
};
const undo = async () => {
  // Keys typed into a field are the field's.
  await page.evaluate(() => document.activeElement instanceof HTMLElement && document.activeElement.blur());
  await page.keyboard.press("Control+z");
};
const add = async (letters) => {
  const field = page.getByRole("combobox", { name: "Add a step" });
  await field.click();
  await field.pressSequentially(letters);
  await field.press("Enter");
  await levels();
};

await page.goto(`http://127.0.0.1:${port}/`);
await shot("home");
await page.goto(`http://127.0.0.1:${port}/`);
await page
  .getByRole("link", { name: /Last Boat to Varnsey/ })
  .first()
  .click();
await clip("Engineer 2").waitFor();
await page.waitForTimeout(1500);
await levels();
await shot("edit");
await page.keyboard.press("p");
await page.getByText(/places will pop/).waitFor();
await levels();
await shot("joins");
await page.getByRole("button", { name: "Close the join check" }).click();
await page.keyboard.press("Escape");
await page.keyboard.press("a");
await clip("Engineer 2").click();
await levels();
await shot("bench");
await clip("Theme, close").click();
await add("ending that rings");
await page.getByRole("heading", { name: "Reverb" }).click();
await page.keyboard.press("Shift+O");
await page.keyboard.press("Shift+E");
await page.getByRole("combobox", { name: "Curve of the fade" }).selectOption("drawn");
await levels();
await shot("fades");
await page.keyboard.press("Shift+E");
for (let i = 0; i < 3; i++) await undo();
await clip("Engineer 2").click();
await levels();
await step("Parametric EQ").click();
await shot("eq");
await page.getByRole("combobox", { name: "Add a step" }).click();
await shot("add-step");
await page.keyboard.press("Escape");
await page.getByRole("textbox", { name: "Range from", exact: true }).fill("0:53");
await page.keyboard.press("Enter");
await page.getByRole("textbox", { name: "Range to", exact: true }).fill("0:56");
await page.keyboard.press("Enter");
await clip("Engineer 2").click();
await page.keyboard.press("z");
await add("gain");
await shot("span");
await undo();
await page.keyboard.press("a");
await page.getByRole("button", { name: "Shelf", exact: true }).click();
await page.getByRole("group", { name: "Engineer interview (too low)" }).hover();
await page.getByRole("button", { name: "Treat Engineer interview (too low) for all its clips" }).click();
await add("hum");
await shot("recording");
await undo();
await page.getByRole("button", { name: "Hide the shelf" }).click();
await clip("Engineer 2").click();
await levels();
await page.keyboard.press("Alt+k");
await page.getByRole("button", { name: "Compare: Compare" }).click();
await page.getByRole("row", { name: /state 1/ }).waitFor();
await page.waitForTimeout(1500);
await shot("compare");
await page.keyboard.press("Escape");
await page.keyboard.press("Alt+e");
await page.getByText(/In mono, as it leaves/).waitFor();
await shot("examine");
await page.keyboard.press("Alt+e");
await clip("Engineer 1").click();
await levels();
await page.keyboard.press("Shift+V");
await page.getByRole("textbox", { name: /^Name of version/ }).waitFor();
await shot("versions");
await page.keyboard.press("Alt+h");
await page.getByRole("list", { name: "Processes" }).waitFor();
await shot("history");
await page.keyboard.press("Alt+h");
await undo();
await page.getByRole("link", { name: "Presets", exact: true }).click();
await page.getByRole("button", { name: "Speech for the web" }).click();
await page.waitForTimeout(500);
await shot("presets");
await page.getByRole("link", { name: "Batch", exact: true }).click();
await page.getByRole("combobox", { name: "Preset" }).selectOption({ label: "Speech for the web" });
await page.getByText("Bring each to a level last, by one gain").click();
await page.getByRole("button", { name: "None" }).click();
await page.getByRole("radio", { name: "Recordings" }).click();
for (const name of ["Narrator 1", "Narrator 2", "Narrator 3", "Narrator 4", "Narrator 5"])
  await page.getByRole("checkbox", { name: new RegExp(name) }).check();
await page.getByRole("button", { name: "Treat 5 recordings" }).click();
await page.getByText("5 done").waitFor({ timeout: 60000 });
await page
  .getByRole("button", { name: /^Dismiss/ })
  .first()
  .click();
await shot("batch");
await undo();
// It is the result of work that ended meanwhile: that is asked for.
await page.getByRole("dialog").getByRole("button", { name: "Undo", exact: true }).click();
await page.getByRole("link", { name: "Edit", exact: true }).click();
await clip("Engineer 2").waitFor();
await clip("Engineer 2").click();
await page.getByRole("button", { name: "Render…" }).click();
await shot("render");
await page.keyboard.press("Escape");
await page.getByRole("link", { name: "Deliver", exact: true }).click();
await page.getByText(/^Sections, /).click();
await page.getByRole("combobox", { name: "Preset" }).click();
await page.getByText("Spoken word for the web").click();
await page.getByRole("button", { name: "Deliver 4 files" }).click();
await page.getByRole("link", { name: "Save all 4 as ZIP" }).waitFor({ timeout: 120000 });
await shot("deliver");
await page.getByRole("link", { name: "Edit", exact: true }).click();
await clip("Engineer 2").waitFor();
await page.getByRole("button", { name: "Shelf", exact: true }).click();
await page.getByRole("group", { name: "Engineer interview (too low)" }).hover();
await page.waitForTimeout(800);
await shot("shelf");
await page.getByRole("button", { name: "Hide the shelf" }).click();
await page.evaluate(() => localStorage.setItem("wring.look", "dark"));
await page.reload();
await clip("Engineer 2").click();
await levels();
await shot("dark");
await browser.close();
server.kill("SIGTERM");
// It makes a backup before it ends.
await new Promise((resolve) => server.once("exit", resolve));
rmSync(data, { recursive: true, force: true });
