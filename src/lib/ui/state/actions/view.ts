// What is seen of the timeline, and what is open beside it.
import { videoClips } from "$lib/core/session/pictures";
import { LANES } from "../layout.svelte";
import type { Action } from "./action";
import { always, withClip } from "./when";

export const view: readonly Action[] = [
  { id: "zoomIn", name: "Zoom in", keys: "+", enabled: always, run: (e) => e.view.zoom(2) },
  { id: "zoomOut", name: "Zoom out", keys: "-", enabled: always, run: (e) => e.view.zoom(0.5) },
  { id: "zoomAll", name: "Show the whole programme", keys: "a", enabled: always, run: (e) => e.showAll() },
  {
    id: "zoomClip",
    name: "Zoom to the selected clip",
    keys: "z",
    enabled: withClip,
    run: (e) =>
      e.selection.clip &&
      e.view.show(e.selection.clip.start, e.selection.clip.start + e.selection.clip.length)
  },
  {
    id: "zoomRange",
    name: "Zoom to the range",
    enabled: (e) => e.selection.range !== null,
    run: (e) => e.selection.range && e.view.show(e.selection.range.from, e.selection.range.to)
  },
  {
    id: "picture",
    name: "Show or hide the picture of videos",
    enabled: (e) => videoClips(e.session.shown).length > 0,
    run: (e) => (e.layout.picture = !e.layout.picture)
  },
  { id: "taller", name: "Draw waveforms taller", enabled: always, run: (e) => e.view.taller(2) },
  { id: "lower", name: "Draw waveforms lower", enabled: always, run: (e) => e.view.taller(0.5) },
  {
    id: "lanesLow",
    name: "All lanes low",
    keys: "Alt+1",
    enabled: always,
    run: (e) => e.layout.setLanes(LANES.low)
  },
  {
    id: "lanesMiddle",
    name: "All lanes of middle height",
    keys: "Alt+2",
    enabled: always,
    run: (e) => e.layout.setLanes(LANES.middle)
  },
  {
    id: "lanesHigh",
    name: "All lanes high",
    keys: "Alt+3",
    enabled: always,
    run: (e) => e.layout.setLanes(LANES.high)
  },
  {
    id: "shelf",
    name: "Show or hide the shelf",
    keys: "s",
    enabled: always,
    run: (e) => (e.shelfOpen = !e.shelfOpen)
  }
];
