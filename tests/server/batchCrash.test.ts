// The real server, killed at ten random moments of a batch: each is carried out once, whole, as one edit.
import { rmSync } from "node:fs";
import { afterAll, expect, it } from "vitest";
import type { BatchView } from "../../src/lib/api/batches";
import type { JobsView } from "../../src/lib/api/jobs";
import type { ProjectState } from "../../src/lib/api/types";
import type { Entry } from "../../src/lib/core/session/replica";
import { newClip } from "../../src/lib/core/session/make";
import { randomOf } from "../support/randomCommands";
import { newFolder, ServerProcess } from "../support/serverProcess";
import { noise } from "../core/signals";
import { wav16 } from "../core/wavBytes";

const KILLS = 10;
const SOUNDS = 4;
const data = newFolder("batch-crash");
const server = new ServerProcess(data, 4687);
const random = randomOf(11);

afterAll(async () => {
  await server.stop("SIGKILL");
  rmSync(data, { recursive: true, force: true });
});

const until = async <T>(ask: () => Promise<T>, over: (value: T) => boolean): Promise<T> => {
  for (;;) {
    const value = await ask();
    if (over(value)) return value;
    await new Promise((resolve) => setTimeout(resolve, 30));
  }
};

it(`killed ${KILLS} times, carries every batch out once`, { timeout: 600000 }, async () => {
  await server.start();
  const projectId = await server.newProject("Batches");
  const url = `/api/projects/${projectId}`;
  const ids: string[] = [];
  for (let i = 0; i < SOUNDS; i++) {
    const job = await server.import(projectId, `Voice ${i}.wav`, wav16(noise(48000 * 4, 0.2, 90 + i), 48000));
    ids.push((job.result as { recordingId: string }).recordingId);
  }
  const source = { id: ids[0] ?? "", name: "Voice", frames: 48000 * 4 };
  await server.edit(projectId, {
    command: { type: "clip.add", clip: newClip("a", "track-1", source, 0), chain: null }
  });
  for (let kill = 0; kill < KILLS; kill++) {
    const steps = [
      { effect: "gain", on: true, params: { gainDb: -1 - kill / 10 }, span: null },
      { effect: "compressor", on: true, params: { thresholdDb: -30 }, span: null }
    ];
    const items = [...ids.slice(1).map((id) => ({ kind: "recording", id })), { kind: "clip", id: "a" }];
    const order = { name: `Round ${kill}`, steps, recordings: [], level: null, mode: "replace", items };
    const batch = await server.post<BatchView>(`${url}/batches`, order);
    await new Promise((resolve) => setTimeout(resolve, 20 + random() * 700));
    await server.stop("SIGKILL");
    await server.start();
    const done = await until(
      async () => (await server.get<BatchView[]>(`${url}/batches`)).find((one) => one.id === batch.id),
      (one) => one !== undefined && one.applied !== "waiting"
    );
    expect(done?.items.map((item) => item.state)).toEqual(Array(SOUNDS).fill("done"));
    expect(done?.applied).toBe("applied");
    const entries = await server.get<Entry[]>(`${url}/edits?after=0`);
    expect(entries.filter((entry) => entry.label === `batch: Round ${kill}`)).toHaveLength(1);
  }
  await until(
    () => server.get<JobsView>(`${url}/jobs?since=2020-01-01T00:00:00Z`),
    (view) => view.open.length === 0
  );
  const { document } = await server.get<ProjectState>(url);
  // A treated recording for each sound and each round; the clip has a version of each.
  expect(document.recordings.filter((recording) => recording.kind === "render")).toHaveLength(KILLS * SOUNDS);
  expect(document.clips[0]?.versions).toHaveLength(KILLS);
});
