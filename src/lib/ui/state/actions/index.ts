// Everything that can be done, by name: the field of actions, the keys and the buttons use the same list.
import type { Action } from "./action";
import { chain } from "./chain";
import { clips } from "./clips";
import { fades } from "./fades";
import { history } from "./history";
import { joins } from "./joins";
import { playing } from "./playing";
import { project } from "./project";
import { range } from "./range";
import { recordings } from "./recordings";
import { sections } from "./sections";
import { steps } from "./steps";
import { tracks } from "./tracks";
import { view } from "./view";

export type { Action } from "./action";

/** The table of contents, in the order in which they are offered. */
export const actions: readonly Action[] = [
  ...playing,
  ...range,
  ...history,
  ...chain,
  ...steps,
  ...clips,
  ...fades,
  ...joins,
  ...tracks,
  ...recordings,
  ...sections,
  ...view,
  ...project
];

/** The action of an id. */
export function actionOf(id: string): Action {
  const action = actions.find((a) => a.id === id);
  if (!action) throw new Error(`There is no action "${id}".`);
  return action;
}

const SIGNS: Record<string, string> = {
  $mod: "Ctrl",
  ArrowLeft: "←",
  ArrowRight: "→",
  ArrowUp: "↑",
  ArrowDown: "↓",
  "": "+"
};

/** "$mod+Shift+z" → "Ctrl Shift Z". */
export function keyText(keys: string): string {
  return keys
    .split("+")
    .map((k) => SIGNS[k] ?? (k.length === 1 ? k.toUpperCase() : k.replace(/^Digit/, "")))
    .filter((k, i, all) => !(k === "+" && all[i - 1] === "+"))
    .join(" ");
}
