// What is seen of the timeline, and what is open beside it.
import { videoClips } from "$lib/core/session/pictures";
import { DROP_RULES } from "$lib/core/session/drop";
import { RULE_NAMES } from "../preferences.svelte";
import type { Editor } from "../editor.svelte";
import { LANES } from "../layout.svelte";
import type { Action } from "./action";
import { always, withClip, withTargets } from "./when";

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
    id: "zoomSelection",
    name: "Zoom to what is selected",
    keys: "Shift+z",
    enabled: withTargets,
    run: (e) => {
      const parts = e.selection.range ? [e.selection.range] : e.selection.targets;
      e.view.show(Math.min(...parts.map((p) => p.from)), Math.max(...parts.map((p) => p.to)));
    }
  },
  { id: "zoomBack", name: "Back to the last view", keys: "v", enabled: always, run: (e) => e.view.back() },
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
    id: "pulls",
    name: "Pull clips, or select time",
    keys: "w",
    enabled: always,
    run: (e) => (e.preferences.pulls = e.preferences.pulls === "clips" ? "time" : "clips")
  },
  {
    id: "snapping",
    name: "Snapping on or off",
    keys: "Shift+s",
    enabled: always,
    run: (e) => (e.preferences.snapping = !e.preferences.snapping)
  },
  ...DROP_RULES.map((rule, i) => ({
    id: `rule-${rule}`,
    name: `Dropping: ${RULE_NAMES[rule]}`,
    keys: `Shift+Digit${i + 1}`,
    enabled: always,
    run: (e: Editor) => (e.preferences.rule = rule)
  })),
  {
    id: "shelf",
    name: "Show or hide the shelf",
    keys: "s",
    enabled: always,
    run: (e) => (e.shelfOpen = !e.shelfOpen)
  }
];
