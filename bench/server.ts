// A server of its own for a benchmark, over a copy of a data folder or an empty one.
import { spawn } from "node:child_process";

const PORT = 4698;
const base = `http://127.0.0.1:${PORT}`;

export async function call<T>(url: string, body?: unknown): Promise<T> {
  const answer = await fetch(base + url, {
    method: body === undefined ? "GET" : "POST",
    headers: { "content-type": "application/json" },
    body: body === undefined ? null : JSON.stringify(body)
  });
  if (!answer.ok) throw new Error(`${url}: ${await answer.text()}`);
  return (await answer.json()) as T;
}

/** Sends a file and waits until it is imported. Returns the recording's id. */
export async function importFile(projectId: string, name: string, bytes: Uint8Array): Promise<string> {
  const encode = (text: string) => Buffer.from(text).toString("base64");
  const created = await fetch(`${base}/api/uploads`, {
    method: "POST",
    headers: {
      "tus-resumable": "1.0.0",
      "upload-length": String(bytes.length),
      "upload-metadata": `projectId ${encode(projectId)},filename ${encode(name)}`
    }
  });
  const address = created.headers.get("location");
  if (!address) throw new Error(`${name} was refused: ${await created.text()}`);
  await fetch(new URL(address, base), {
    method: "PATCH",
    headers: {
      "tus-resumable": "1.0.0",
      "upload-offset": "0",
      "content-type": "application/offset+octet-stream"
    },
    body: new Uint8Array(bytes)
  });
  for (;;) {
    const { document } = await call<{ document: { recordings: { id: string; name: string }[] } }>(
      `/api/projects/${projectId}`
    );
    const found = document.recordings.find((one) => one.name === name.replace(/\.wav$/, ""));
    if (found) return found.id;
    await new Promise((resolve) => setTimeout(resolve, 50));
  }
}

/** Runs a server with so many threads while `work` is done. */
export async function withServer<T>(data: string, threads: number, work: () => Promise<T>): Promise<T> {
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
    return await work();
  } finally {
    server.kill();
    // It makes a backup before it ends.
    await new Promise((resolve) => server.once("exit", resolve));
  }
}
