// Playing, and comparing before with after.
import { programmeEnd } from "$lib/core/session/lookup";
import type { Action } from "./action";
import { always, chained } from "./when";

export const playing: readonly Action[] = [
  { id: "play", name: "Play or stop", keys: "Space", enabled: always, run: (e) => e.transport.toggle() },
  { id: "start", name: "Go to the start", keys: "Home", enabled: always, run: (e) => e.transport.locate(0) },
  {
    id: "end",
    name: "Go to the end",
    keys: "End",
    enabled: always,
    run: (e) => e.transport.locate(programmeEnd(e.session.document))
  },
  {
    id: "loop",
    name: "Loop the range on or off",
    keys: "Shift+Space",
    enabled: always,
    run: (e) => (e.transport.looping = !e.transport.looping)
  },
  {
    id: "listen",
    name: "Switch between before and after",
    keys: "b",
    enabled: chained,
    run: (e) => e.transport.switchListening()
  },
  {
    id: "equal",
    name: "Compare at equal loudness, on or off",
    keys: "q",
    enabled: chained,
    run: (e) => (e.transport.equalLoudness = !e.transport.equalLoudness)
  }
];
