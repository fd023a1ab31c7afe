// What an action is about when it is not what is selected: what a menu was opened on, else what lies nearest to the selection.
import type { Recording, Section, Track } from "$lib/core/session/schema";
import type { Editor } from "./editor.svelte";

/** The track of the menu, of the bench, or of the selected clip. */
export function trackOf({ target, selection, session }: Editor): Track | undefined {
  const { owner } = selection.subject;
  const id =
    target?.table === "tracks" ? target.id : owner.table === "tracks" ? owner.id : selection.found?.track.id;
  return id === undefined ? undefined : session.shown.get("tracks", id);
}

/** The recording of the menu, of the bench, or of the selected clip. */
export function recordingOf({ target, selection, session }: Editor): Recording | undefined {
  const { owner } = selection.subject;
  const id =
    target?.table === "recordings"
      ? target.id
      : owner.table === "recordings"
        ? owner.id
        : selection.clip?.recordingId;
  return id === undefined ? undefined : session.shown.get("recordings", id);
}

/** The section of the menu, or the one in which the playhead stands. */
export function sectionOf({ target, transport, session }: Editor): Section | undefined {
  if (target?.table === "sections") return session.shown.get("sections", target.id);
  const at = transport.position;
  for (const section of session.shown.values("sections"))
    if (section.start <= at && at < section.start + section.length) return section;
  return undefined;
}
