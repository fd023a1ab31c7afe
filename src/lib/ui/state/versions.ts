// Kept states of the clip on the bench.
import type { SingleCommand } from "$lib/core/session/commands";
import type { Clip, Version } from "$lib/core/session/schema";
import type { Editor } from "./editor.svelte";
import { newId } from "./editing";

const idsFor = (version: Version) => ({ chainId: newId(), stepIds: version.steps.map(() => newId()) });

/** Keeps the clip's chain as it is now. */
export function keepVersion({ session, analysis }: Editor, clip: Clip): boolean {
  const taken = new Set(clip.versions?.map(({ name }) => name));
  let n = 1;
  while (taken.has(`State ${n}`)) n++;
  const lufs = analysis.output?.integratedLufs;
  return session.run({
    type: "version.keep",
    clipId: clip.id,
    version: {
      id: newId(),
      name: `State ${n}`,
      made: new Date().toISOString(),
      lufs: lufs !== undefined && Number.isFinite(lufs) ? lufs : null
    }
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
