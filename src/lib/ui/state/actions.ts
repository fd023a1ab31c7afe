// Everything that can be done, by name: the field of actions, the keys and the buttons use the same list.
import { MIX } from "$lib/core/session/owners";
import { programmeEnd } from "$lib/core/session/lookup";
import type { Editor } from "./editor.svelte";
import {
  addTrack,
  duplicate,
  newId,
  rangeOfSelection,
  removeSelected,
  setRangeEdge,
  splitAtPlayhead
} from "./editing";

export interface Action {
  readonly id: string;
  readonly name: string;
  /** Keys as tinykeys writes them. */
  readonly keys?: string;
  readonly enabled: (editor: Editor) => boolean;
  readonly run: (editor: Editor) => void;
}

const always = () => true;
const withClip = (editor: Editor) => editor.selection.clip !== undefined;
const restorable = (editor: Editor) => Boolean(editor.selection.clip?.render);
const treated = (editor: Editor) => (editor.selection.clip?.steps.length ?? 0) > 0;
const chained = (editor: Editor) => editor.selection.subject.steps.length > 0;
const withTrack = (editor: Editor) => editor.selection.found !== undefined;
const chosenStep = (editor: Editor) => {
  const { subject, stepId } = editor.selection;
  return subject.steps.find((step) => step.id === stepId);
};

export const actions: readonly Action[] = [
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
    id: "rangeFrom",
    name: "Range begins at the playhead",
    keys: ",",
    enabled: always,
    run: (e) => setRangeEdge(e, "from")
  },
  {
    id: "rangeTo",
    name: "Range ends at the playhead",
    keys: ".",
    enabled: always,
    run: (e) => setRangeEdge(e, "to")
  },
  { id: "rangeClip", name: "Range over the selected clip", enabled: withClip, run: rangeOfSelection },
  {
    id: "noRange",
    name: "Remove the range",
    enabled: (e) => e.selection.range !== null,
    run: (e) => (e.selection.range = null)
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
  },
  {
    id: "undo",
    name: "Undo",
    keys: "$mod+z",
    enabled: (e) => e.session.undoName !== null,
    run: (e) => e.session.undo()
  },
  {
    id: "redo",
    name: "Redo",
    keys: "$mod+Shift+z",
    enabled: (e) => e.session.redoName !== null,
    run: (e) => e.session.redo()
  },
  { id: "render", name: "Render the clip…", keys: "r", enabled: treated, run: (e) => (e.dialog = "render") },
  {
    id: "restore",
    name: "Restore the clip",
    enabled: restorable,
    run: (e) => e.selection.clip && e.session.run({ type: "clip.restore", clipIds: [e.selection.clip.id] })
  },
  {
    id: "measure",
    name: "Measure and normalize the clip…",
    keys: "n",
    enabled: withClip,
    run: (e) => (e.dialog = "measure")
  },
  { id: "preset", name: "Save the chain as a preset…", enabled: chained, run: (e) => (e.dialog = "preset") },
  {
    id: "clearChain",
    name: "Remove all steps of what is on the bench",
    enabled: chained,
    run: (e) =>
      e.session.run({
        type: "chain.replace",
        owner: e.selection.subject.owner,
        chainId: newId(),
        steps: [],
        source: ""
      })
  },
  {
    id: "mixChain",
    name: "Put the mix on the bench",
    enabled: always,
    run: (e) => e.selection.chooseOwner(MIX)
  },
  {
    id: "trackChain",
    name: "Put the clip's track on the bench",
    enabled: withTrack,
    run: (e) =>
      e.selection.found && e.selection.chooseOwner({ table: "tracks", id: e.selection.found.track.id })
  },
  {
    id: "recordingChain",
    name: "Put the clip's recording on the bench",
    enabled: withClip,
    run: (e) =>
      e.selection.clip && e.selection.chooseOwner({ table: "recordings", id: e.selection.clip.recordingId })
  },
  {
    id: "spanRange",
    name: "The chosen step treats the range only",
    enabled: (e) => chosenStep(e) !== undefined && e.selection.range !== null,
    run: (e) => {
      const step = chosenStep(e);
      const { range, subject } = e.selection;
      if (step && range)
        e.session.run({
          type: "span.set",
          steps: [{ owner: subject.owner, stepId: step.id }],
          range: { ...range }
        });
    }
  },
  {
    id: "spanWhole",
    name: "The chosen step treats all of the sound",
    enabled: (e) => chosenStep(e)?.span !== null && chosenStep(e) !== undefined,
    run: (e) => {
      const step = chosenStep(e);
      const { owner } = e.selection.subject;
      if (step) e.session.run({ type: "span.set", steps: [{ owner, stepId: step.id }], range: null });
    }
  },
  {
    id: "link",
    name: "Let the selected clips share the first one's chain",
    enabled: (e) => e.selection.clipIds.length > 1 && chained(e),
    run: (e) => {
      const [from, ...clipIds] = e.selection.clipIds;
      if (from !== undefined && clipIds.length > 0) e.session.run({ type: "chain.link", from, clipIds });
    }
  },
  {
    id: "unlink",
    name: "Give the clip a chain of its own",
    enabled: (e) => {
      const chain = e.selection.clip?.chain;
      return chain !== null && chain !== undefined && e.session.shown.uses("chains", chain) > 1;
    },
    run: (e) => {
      const { clip } = e.selection;
      if (clip)
        e.session.run({
          type: "chain.unlink",
          clipId: clip.id,
          chainId: newId(),
          stepIds: clip.steps.map(() => newId())
        });
    }
  },
  { id: "split", name: "Split the clip at the playhead", keys: "x", enabled: withClip, run: splitAtPlayhead },
  { id: "duplicate", name: "Duplicate the clip", keys: "d", enabled: withClip, run: duplicate },
  { id: "remove", name: "Remove the selected clips", keys: "Delete", enabled: withClip, run: removeSelected },
  {
    id: "mute",
    name: "Mute or unmute the selected clips",
    keys: "m",
    enabled: withClip,
    run: (e) =>
      e.session.run({ type: "clip.set", clipIds: [...e.selection.clipIds], muted: !e.selection.clip?.muted })
  },
  { id: "track", name: "Add a track", keys: "t", enabled: always, run: addTrack },
  {
    id: "section",
    name: "Name the range as a section…",
    enabled: (e) => e.selection.range !== null,
    run: (e) => (e.dialog = "section")
  },
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
  { id: "taller", name: "Draw waveforms taller", enabled: always, run: (e) => e.view.taller(2) },
  { id: "lower", name: "Draw waveforms lower", enabled: always, run: (e) => e.view.taller(0.5) },
  {
    id: "shelf",
    name: "Show or hide the shelf",
    keys: "s",
    enabled: always,
    run: (e) => (e.shelfOpen = !e.shelfOpen)
  },
  {
    id: "export",
    name: "Export the mix…",
    keys: "e",
    enabled: (e) => programmeEnd(e.session.document) > 0,
    run: (e) => (e.dialog = "export")
  },
  {
    id: "shortcuts",
    name: "Show all keys",
    keys: "Shift+?",
    enabled: always,
    run: (e) => (e.dialog = "shortcuts")
  },
  {
    id: "actions",
    name: "Find an action",
    keys: "$mod+k",
    enabled: always,
    run: (e) => (e.dialog = "actions")
  }
];

/** The action of an id. */
export function actionOf(id: string): Action {
  const action = actions.find((a) => a.id === id);
  if (!action) throw new Error(`There is no action "${id}".`);
  return action;
}

/** "$mod+Shift+z" → "Ctrl Shift Z". */
export function keyText(keys: string): string {
  return keys
    .split("+")
    .map((k) => (k === "" ? "+" : k === "$mod" ? "Ctrl" : k.length === 1 ? k.toUpperCase() : k))
    .filter((k, i, all) => !(k === "+" && all[i - 1] === "+"))
    .join(" ");
}
