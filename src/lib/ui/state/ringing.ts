// How long clips ring after their ends, by their sound: heard on the server.
import { partOf } from "$lib/core/render/soundPart";
import { asOne, type SingleCommand } from "$lib/core/session/commands";
import { resolveClip } from "$lib/core/session/lookup";
import { listen } from "$lib/playback/listen";
import { notices } from "../shared/notices.svelte";
import type { Editor } from "./editor.svelte";

/**
 * Measures how long the selected clips ring, and sets it: one edit.
 * @param report told the share that is done
 */
export async function measureRings(
  { session, selection }: Editor,
  report: (share: number) => void
): Promise<void> {
  const clips = selection.clipIds.flatMap((id) => session.document.get("clips", id) ?? []);
  const frames: number[] = [];
  for (const [i, clip] of clips.entries()) {
    // As it sounds live: a render ends where its ring-out was cut.
    const part = partOf({ ...resolveClip(session.document, clip), ringOut: { frames: null }, render: null });
    const signal = new AbortController().signal;
    const last = await listen(session.projectId, { kind: "ring", part }, signal, ({ share }) =>
      report((i + share) / clips.length)
    );
    if (last.type !== "ring") throw new Error("Wring's server answered something else than was asked.");
    frames.push(last.frames);
  }
  const commands = clips.flatMap(({ id }, i): SingleCommand[] =>
    session.document.get("clips", id) && frames[i]
      ? [{ type: "clip.set", clipIds: [id], ringOut: { frames: frames[i] } }]
      : []
  );
  const what = clips.length === 1 ? (clips[0]?.name ?? "the clip") : `${clips.length} clips`;
  const command = asOne(commands, session.document, `${what}: ring out as measured`);
  if (command) session.run(command);
  const silent = clips.filter((_, i) => frames[i] === 0).map(({ name }) => name);
  if (silent.length > 0)
    notices.news(
      `${silent.join(", ")}: nothing rings after the end, 60 dB under the peak. It is left as it was.`
    );
}
