// A clip whose sound was made by 1,000 processes in twenty renders: told by the core, and opened in a browser.
import { mkdtempSync, rmSync } from "node:fs";
import { tmpdir } from "node:os";
import path from "node:path";
import { performance } from "node:perf_hooks";
import { chromium } from "@playwright/test";
import { documentOf, newClip, newProject, newRecording, newTrack } from "../src/lib/core/session/make";
import { historyOf } from "../src/lib/core/session/processes";
import type { Recording } from "../src/lib/core/session/schema";
import { noise } from "../tests/core/signals";
import { wavBytes } from "../tests/core/wavBytes";
import { call, importFile, SERVER_BASE, withServer } from "./server";
import { median, row } from "./table";

const RATE = 48000;
const RENDERS = 20;
const STEPS = 50;
const OPENED = 5;

/** Recordings that were rendered one from the other, all of the same audio. */
function descended(first: string, media: string | null): Recording[] {
  const idOf = (i: number) => (i === 0 ? first : `${first}-r${i}`);
  return Array.from({ length: RENDERS }, (_, i) =>
    newRecording(
      idOf(i + 1),
      { name: `Take ${i + 1}`, media, frames: RATE, channels: 1, sampleRate: RATE, kind: "render" },
      {
        text: "Gain",
        source: idOf(i),
        window: { offset: 0, length: RATE },
        steps: Array.from({ length: STEPS }, () => ({
          effect: "gain",
          on: true,
          params: { gainDb: 1 },
          span: null
        }))
      }
    )
  );
}

const facts = { name: "Take 0", media: null, frames: RATE, channels: 1, sampleRate: RATE, kind: "import" };
const deep = documentOf(newProject("Deep", RATE), {
  tracks: [newTrack("t", "Track", 1)],
  clips: [newClip("k", "t", { id: `r-r${RENDERS}`, name: "k", frames: RATE }, 0)],
  recordings: [newRecording("r", { ...facts, kind: "import" }), ...descended("r", null)]
});
const clip = deep.get("clips", "k");
if (!clip) throw new Error("There is no clip.");
const begin = performance.now();
historyOf(deep, clip);
row("history of 1,000 processes, told by the core", performance.now() - begin, "ms", undefined, 200);

const folder = mkdtempSync(path.join(tmpdir(), "wring-bench-history-"));
await withServer(folder, 1, async () => {
  const { id } = await call<{ id: string }>("/api/projects", { name: "Deep", sampleRate: RATE });
  const url = `/api/projects/${id}`;
  const bytes = new Uint8Array(
    wavBytes({ channels: [noise(RATE, 0.3, 1)], sampleRate: RATE, kind: "float32" })
  );
  const first = await importFile(id, "Take 0.wav", bytes);
  const stored = await call<{ document: { recordings: Recording[] } }>(url);
  const media = stored.document.recordings.find((recording) => recording.id === first)?.media ?? null;
  const last = `${first}-r${RENDERS}`;
  const commands = [
    ...descended(first, media).map((recording) => ({ type: "recording.add", recording })),
    {
      type: "clip.add",
      clip: newClip("deep", "track-1", { id: last, name: "Deep", frames: RATE }, 0),
      chain: null
    }
  ];
  const { revision } = await call<{ revision: number }>(url);
  const wish = {
    editId: "deep",
    base: revision,
    wish: { command: { type: "compound", name: "deep", commands } }
  };
  const { refused } = await call<{ refused: { error: string }[] }>(`${url}/edits`, {
    page: "bench",
    known: revision,
    edits: [wish]
  });
  if (refused[0]) throw new Error(refused[0].error);
  const browser = await chromium.launch({ executablePath: "/usr/bin/chromium", args: ["--no-sandbox"] });
  try {
    const page = await browser.newPage({ viewport: { width: 1280, height: 800 } });
    await page.goto(`${SERVER_BASE}/projects/${id}`);
    await page.getByRole("button", { name: /^Deep, starts at/ }).click();
    await page.waitForTimeout(2500);
    const opened: number[] = [];
    for (let i = 0; i < OPENED; i++) {
      opened.push(
        await page.evaluate(async () => {
          const press = () =>
            document.body.dispatchEvent(
              new KeyboardEvent("keydown", { code: "KeyH", key: "h", altKey: true, bubbles: true })
            );
          const from = performance.now();
          press();
          // Until it is there, and has been painted.
          while (document.querySelectorAll('[aria-label="Processes"] .process').length < 1000)
            await new Promise((r) => setTimeout(r, 1));
          await new Promise((r) => requestAnimationFrame(() => setTimeout(r)));
          const took = performance.now() - from;
          press();
          return took;
        })
      );
      await page.waitForTimeout(300);
    }
    row("history of 1,000 processes, from the key until it is painted", median(opened), "ms", undefined, 200);
  } finally {
    await browser.close();
  }
});
rmSync(folder, { recursive: true, force: true });
