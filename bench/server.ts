// A server of its own for a benchmark, over a copy of a data folder or an empty one.
import { spawn } from "node:child_process";
import type { JobView } from "../src/lib/api/jobs";

const PORT = 4698;
/** Bytes that are sent at once. */
const PIECE = 32_000_000;
export const SERVER_BASE = `http://127.0.0.1:${PORT}`;

export async function call<T>(url: string, body?: unknown): Promise<T> {
  const answer = await fetch(SERVER_BASE + url, {
    method: body === undefined ? "GET" : "POST",
    headers: { "content-type": "application/json" },
    body: body === undefined ? null : JSON.stringify(body)
  });
  if (!answer.ok) throw new Error(`${url}: ${await answer.text()}`);
  return (await answer.json()) as T;
}

/** Sends a file. Returns the id of the job that imports it. */
export async function sendFile(projectId: string, name: string, file: Blob): Promise<string> {
  const encode = (text: string) => Buffer.from(text).toString("base64");
  const created = await fetch(`${SERVER_BASE}/api/uploads`, {
    method: "POST",
    headers: {
      "tus-resumable": "1.0.0",
      "upload-length": String(file.size),
      "upload-metadata": `projectId ${encode(projectId)},filename ${encode(name)}`
    }
  });
  const address = created.headers.get("location");
  if (!address) throw new Error(`${name} was refused: ${await created.text()}`);
  let sent = created;
  for (let at = 0; at < file.size; at += PIECE)
    sent = await fetch(new URL(address, `${SERVER_BASE}/api/uploads/`), {
      method: "PATCH",
      headers: {
        "tus-resumable": "1.0.0",
        "upload-offset": String(at),
        "content-type": "application/offset+octet-stream"
      },
      body: file.slice(at, at + PIECE)
    });
  const job = sent.headers.get("x-job");
  if (job === null) throw new Error(`${name} was refused: ${await sent.text()}`);
  return job;
}

/** Waits until a file is imported. Returns the recording's id. */
export async function imported(job: string): Promise<string> {
  for (;;) {
    const { endedAt, error, result } = await call<JobView>(`/api/jobs/${job}`);
    if (error !== null) throw new Error(error);
    if (endedAt !== null) return (result as { recordingId: string }).recordingId;
    await new Promise((resolve) => setTimeout(resolve, 100));
  }
}

/** Sends a file and waits until it is imported. Returns the recording's id. */
export async function importFile(
  projectId: string,
  name: string,
  bytes: Uint8Array<ArrayBuffer>
): Promise<string> {
  return imported(await sendFile(projectId, name, new Blob([bytes])));
}

/** Runs a server with so many threads while `work`, which is told its process, is done. */
export async function withServer<T>(
  data: string,
  threads: number,
  work: (pid: number) => Promise<T>
): Promise<T> {
  const server = spawn(process.execPath, ["server/index.mjs"], {
    env: {
      ...process.env,
      NODE_ENV: "production",
      PORT: String(PORT),
      WRING_DATA: data,
      WRING_THREADS: String(threads),
      WRING_LOG: "silent"
    },
    stdio: ["ignore", "ignore", "inherit", "ipc"]
  });
  await new Promise((resolve) => server.once("message", resolve));
  try {
    return await work(server.pid ?? NaN);
  } finally {
    server.kill();
    // It makes a backup before it ends.
    await new Promise((resolve) => server.once("exit", resolve));
  }
}
