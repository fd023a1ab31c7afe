// Taking renders away, and clips away from what others do to their recording.
import { asOne, type SingleCommand } from "$lib/core/session/commands";
import { stepsOfOwner } from "$lib/core/session/owners";
import type { Clip } from "$lib/core/session/schema";
import type { Editor } from "./editor.svelte";
import { newId } from "./editing";

/** Restores those of the selected clips that are rendered. */
export function restoreSelection({ session, selection }: Editor): void {
  const clipIds = selection.clipIds.filter((id) => session.document.get("clips", id)?.render);
  if (clipIds.length > 0) session.run({ type: "clip.restore", clipIds });
}

/** Gives the selected clips recording entries of their own on the same audio, one for each recording that they show. */
export function makeIndependent({ session, selection }: Editor): void {
  const groups = new Map<string, Clip[]>();
  for (const id of selection.clipIds) {
    const clip = session.document.get("clips", id);
    if (!clip) continue;
    const { recordingId } = clip.content;
    groups.set(recordingId, [...(groups.get(recordingId) ?? []), clip]);
  }
  const names = new Set([...session.document.values("recordings")].map(({ name }) => name));
  const commands = [...groups].flatMap(([recordingId, clips]): SingleCommand[] => {
    const recording = session.document.get("recordings", recordingId);
    if (!recording) return [];
    let n = 2;
    while (names.has(`${recording.name} (${n})`)) n++;
    const name = `${recording.name} (${n})`.slice(0, 120);
    names.add(name);
    // The first part is the id of the audio.
    const [audio = recordingId] = /^[0-9a-f]{24}/.exec(recordingId) ?? [];
    const steps = stepsOfOwner(session.document, { table: "recordings", id: recordingId });
    return [
      {
        type: "clip.independent",
        clipIds: clips.map(({ id }) => id),
        recordingId: `${audio}-${newId().slice(0, 8)}`,
        name,
        chainId: newId(),
        stepIds: steps.map(() => newId())
      }
    ];
  });
  const command = asOne(commands, session.document);
  if (command) session.run(command);
}
