// Kept states of the clip on the bench.
import type { SingleCommand } from "$lib/core/session/commands";
import { stateOf } from "$lib/core/session/clipState";
import { alike } from "$lib/core/session/equal";
import type { ResolvedClip } from "$lib/core/session/lookup";
import type { Clip, Version } from "$lib/core/session/schema";
import type { Editor } from "./editor.svelte";
import { newId } from "./editing";

/** So long a version waits for the loudness that it is kept with. */
const PATIENCE_MS = 4000;

const idsFor = (version: Version) => ({ chainId: newId(), stepIds: version.steps.map(() => newId()) });

/** The loudness of the clip on the bench behind its chain, when that is measured within a moment; null: not known, or silence. */
async function loudnessOf(
  { session, selection, analysis }: Editor,
  clip: ResolvedClip
): Promise<number | null> {
  const same = () => selection.clip?.id === clip.id && alike(selection.clip.steps, clip.steps);
  await Promise.race([analysis.settled(), new Promise((resolve) => setTimeout(resolve, PATIENCE_MS))]);
  if (!same() || analysis.progress < 1 || analysis.partly || session.dragging) return null;
  // As renders are measured: without the clip's gain and fades.
  const lufs = analysis.stages.at(-1)?.measurement?.integratedLufs;
  return lufs !== undefined && Number.isFinite(lufs) ? lufs : null;
}

/** Keeps the clip's chain as it is now. Resolves to false when it could not be kept. */
export async function keepVersion(editor: Editor, clip: ResolvedClip): Promise<boolean> {
  const { session } = editor;
  const state = stateOf(clip);
  const lufs = await loudnessOf(editor, clip);
  const now = session.document.get("clips", clip.id);
  if (!now) return false;
  const taken = new Set(now.versions?.map(({ name }) => name));
  let n = 1;
  while (taken.has(`State ${n}`)) n++;
  return session.run({
    type: "version.keep",
    clipId: clip.id,
    version: {
      id: newId(),
      name: `State ${n}`,
      made: new Date().toISOString(),
      lufs
    },
    state
  });
}

/** Goes back to a version; the present state is kept first, when no version is like it. */
export function goBack({ session }: Editor, clip: Clip, version: Version): boolean {
  return session.run({ type: "version.use", clipId: clip.id, versionId: version.id, ...idsFor(version) });
}

/** Puts a version on a track of its own, at the same time. Selects both. */
export function putBeside({ session, selection, view }: Editor, clip: Clip, version: Version): void {
  const seed = newId();
  const command: SingleCommand = {
    type: "version.beside",
    clipId: clip.id,
    versionId: version.id,
    trackId: newId(),
    seed,
    ...idsFor(version)
  };
  if (!session.run(command)) return;
  view.track = command.trackId;
  const made = [...session.document.values("clips")].find((one) => one.track === command.trackId);
  if (made) selection.chooseAll([clip.id, made.id]);
}
