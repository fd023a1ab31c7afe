// Playing, and comparing before with after.
import { programmeEnd } from "$lib/core/session/lookup";
import { notices } from "../../shared/notices.svelte";
import { nextClip, preview, previewable } from "../previewing";
import type { Action } from "./action";
import { always, chained, severalClips } from "./when";

export const playing: readonly Action[] = [
  { id: "play", name: "Play or stop", keys: "Space", enabled: always, run: (e) => e.transport.toggle() },
  { id: "start", name: "Go to the start", keys: "Home", enabled: always, run: (e) => e.goTo(0) },
  {
    id: "end",
    name: "Go to the end",
    keys: "End",
    enabled: always,
    run: (e) => e.goTo(programmeEnd(e.session.document))
  },
  {
    id: "loop",
    name: "Loop the range on or off",
    keys: "Shift+Space",
    enabled: always,
    run: (e) => (e.transport.looping = !e.transport.looping)
  },
  {
    id: "preview",
    name: "Preview what is on the bench, round and round",
    keys: "Alt+p",
    enabled: previewable,
    run: preview
  },
  {
    id: "nextClip",
    name: "Go on to the next of the selected clips",
    keys: "PageDown",
    enabled: severalClips,
    run: (e) => nextClip(e, 1)
  },
  {
    id: "clipBefore",
    name: "Go back to the one before of the selected clips",
    keys: "PageUp",
    enabled: severalClips,
    run: (e) => nextClip(e, -1)
  },
  {
    id: "listen",
    name: "Switch between before and after",
    keys: "b",
    enabled: chained,
    run: (e) => e.hearing.toggle()
  },
  ...["before", "after", "the third candidate", "the fourth candidate"].map((name, i): Action => ({
    id: `hear-${i + 1}`,
    name: `Hear ${name}`,
    keys: String(i + 1),
    // While clips are pulled digits choose another rule for the drop.
    enabled: (e) => i < e.hearing.candidates.length && e.pull.ids.size === 0,
    run: (e) => e.hearing.choose(i)
  })),
  {
    id: "equal",
    name: "Compare at equal loudness, on or off",
    keys: "q",
    enabled: always,
    run: (e) => (e.hearing.equalLoudness = !e.hearing.equalLoudness)
  },
  {
    id: "difference",
    name: "Hear only the difference, on or off",
    keys: "Alt+q",
    enabled: chained,
    run: (e) => (e.hearing.difference = !e.hearing.difference)
  },
  {
    id: "background",
    name: "Compute steps that need a whole clip by themselves, on or off",
    enabled: always,
    run: ({ preferences }) => {
      preferences.background = !preferences.background;
      notices.news(
        preferences.background
          ? "After a change, steps that need a whole clip are computed by themselves; until then the clip sounds as before."
          : "Steps that need a whole clip are computed when it is about to sound."
      );
    }
  },
  {
    id: "dearest",
    name: "Render what costs most while it plays…",
    enabled: always,
    run: (e) => (e.dialog = "dearest")
  },
  {
    id: "keepState",
    name: "Keep the present state of the chain for comparing",
    keys: "Alt+k",
    enabled: always,
    run: (e) => e.hearing.keep()
  }
];
