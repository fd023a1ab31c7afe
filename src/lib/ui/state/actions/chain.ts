// The chain of what is on the bench, and who else hears it.
import { asOne, type SingleCommand } from "$lib/core/session/commands";
import { MIX, stepsOfChain } from "$lib/core/session/owners";
import { notices } from "../../shared/notices.svelte";
import type { Editor } from "../editor.svelte";
import type { Action } from "./action";
import { always, beyond, withClip, renderable, restorable, treated, chained } from "./when";
import { newId } from "../editing";
import { sharers } from "$lib/core/session/lookup";
import { makeIndependent, restoreSelection } from "../restoring";
import { copyTreatment } from "../treatments";
import { keepVersion } from "../versions";

/** Does something once what a menu was opened on has come to the bench. */
const onTarget = (act: (editor: Editor) => unknown) => (editor: Editor) => {
  const { target, selection } = editor;
  if (target?.table === "tracks" || target?.table === "recordings")
    selection.chooseOwner({ table: target.table, id: target.id });
  act(editor);
};

export const chain: readonly Action[] = [
  {
    id: "render",
    name: "Render the selected clips…",
    keys: "r",
    enabled: renderable,
    run: (e) => (e.dialog = "render")
  },
  {
    id: "restore",
    name: "Restore the selected clips",
    enabled: restorable,
    run: restoreSelection
  },
  {
    id: "versions",
    name: "Versions of the clip",
    keys: "Alt+v",
    enabled: (e) => withClip(e) || e.panel === "versions",
    run: (e) => (e.panel = e.panel === "versions" ? null : "versions")
  },
  {
    id: "history",
    name: "History of the clip: everything that made its sound",
    keys: "Alt+h",
    enabled: (e) => withClip(e) || e.panel === "history",
    run: (e) => (e.panel = e.panel === "history" ? null : "history")
  },
  {
    id: "keepVersion",
    name: "Keep this state of the clip as a version",
    keys: "Shift+v",
    enabled: withClip,
    run: (e) => {
      const { clip } = e.selection;
      if (!clip) return;
      e.panel = "versions";
      keepVersion(e, clip).catch((error: unknown) => notices.fault(error));
    }
  },
  {
    id: "ringOut",
    name: "Ring out: let the tail sound on, or not",
    keys: "Shift+o",
    enabled: withClip,
    run: (e) => {
      const { clip, clipIds } = e.selection;
      if (!clip) return;
      const ringOut = clip.ringOut ? null : { frames: null };
      e.session.run({ type: "clip.set", clipIds: [...clipIds], ringOut });
    }
  },
  {
    id: "chainAnew",
    name: "Chains begin anew where the selected clips were cut",
    enabled: beyond,
    run: (e) => e.session.run({ type: "clip.set", clipIds: [...e.selection.clipIds], heard: null })
  },
  {
    id: "squareOne",
    name: "Square one: take all treatment off the selected clips",
    enabled: withClip,
    run: (e) => e.session.run({ type: "clip.squareOne", clipIds: [...e.selection.clipIds] })
  },
  {
    id: "allClips",
    name: "Treat all clips of the recording with these steps…",
    enabled: treated,
    run: (e) => (e.dialog = "allClips")
  },
  {
    id: "independent",
    name: "Make the selected clips independent of others of their recording",
    enabled: (e) => e.selection.clip !== undefined && sharers(e.session.shown, e.selection.clip).length > 0,
    run: makeIndependent
  },
  {
    id: "measure",
    name: "Measure and normalize the clip…",
    keys: "n",
    enabled: withClip,
    run: (e) => (e.dialog = "measure")
  },
  {
    id: "examine",
    name: "Examine what is on the bench",
    keys: "Alt+e",
    enabled: always,
    run: (e) => (e.panel = e.panel === "examine" ? null : "examine")
  },
  { id: "preset", name: "Save the chain as a preset…", enabled: chained, run: (e) => (e.dialog = "preset") },
  {
    id: "copyTreatment",
    name: "Copy the treatment",
    keys: "y",
    enabled: always,
    run: onTarget(copyTreatment)
  },
  {
    id: "pasteTreatment",
    name: "Paste the treatment…",
    keys: "u",
    enabled: always,
    run: onTarget((e) => (e.dialog = "paste"))
  },
  {
    id: "takeOff",
    name: "Take treatment off…",
    keys: "Shift+u",
    enabled: always,
    run: onTarget((e) => (e.dialog = "takeOff"))
  },
  {
    id: "mixChain",
    name: "Put the mix on the bench",
    enabled: always,
    run: (e) => e.selection.chooseOwner(MIX)
  },
  {
    id: "link",
    name: "Link: let the selected clips share the first one's chain",
    enabled: (e) => e.selection.clipIds.length > 1 && chained(e),
    run: (e) => {
      const [from, ...clipIds] = e.selection.clipIds;
      if (from !== undefined && clipIds.length > 0) e.session.run({ type: "chain.link", from, clipIds });
    }
  },
  {
    id: "unlink",
    name: "Unlink: give each selected clip a chain of its own",
    enabled: (e) =>
      e.selection.clipIds.some((id) => {
        const chain = e.session.shown.get("clips", id)?.chain ?? null;
        return chain !== null && e.session.shown.uses("chains", chain) > 1;
      }),
    run: (e) => {
      const { shown } = e.session;
      const shares = e.selection.clipIds.flatMap((id) => shown.get("clips", id) ?? []);
      const commands = shares
        .filter((clip) => clip.chain !== null && shown.uses("chains", clip.chain) > 1)
        // The last of all that share it keeps it.
        .filter((clip, i, all) => {
          const own = all.filter((one) => one.chain === clip.chain);
          const every = clip.chain !== null && own.length === shown.uses("chains", clip.chain);
          return !every || own.at(-1) !== clip || own.length === 1;
        })
        .map((clip): SingleCommand => ({
          type: "chain.unlink",
          clipId: clip.id,
          chainId: newId(),
          stepIds: stepsOfChain(shown, clip.chain).map(() => newId())
        }));
      const command = asOne(commands, e.session.document, "give each clip a chain of its own");
      if (command) e.session.run(command);
    }
  }
];
