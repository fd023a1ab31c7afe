// The chain of what is on the bench, and who else hears it.
import { MIX } from "$lib/core/session/owners";
import type { Action } from "./action";
import { always, withClip, restorable, treated, chained } from "./when";
import { newId } from "../editing";

export const chain: readonly Action[] = [
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
  }
];
