import { DROP_RULES, type DropRule } from "$lib/core/session/drop";
import type { Editor } from "../../../state/editor.svelte";
import type { LanePoint } from "./gesture";

/** The rule of a drop: the one that is set, or that of the digit that is held. */
export function ruleOf({ preferences }: Editor, { digit }: Pick<LanePoint, "digit">): DropRule {
  return (digit === null ? undefined : DROP_RULES[Number(digit) - 1]) ?? preferences.rule;
}
