// A level that sounds are brought to, as it is typed: "integrated=-16".
import { NORMALIZE_TARGETS, type NormalizeTarget } from "$lib/core/effects/normalize";
import { numberOf } from "./args";
import { UsageFault } from "./outcome";

/** @throws UsageFault */
export function targetOf(text: string | undefined): { target: NormalizeTarget; level: number } {
  const [name, level, ...more] = (text ?? "").split("=");
  if (!(name in NORMALIZE_TARGETS) || level === undefined || more.length > 0)
    throw new UsageFault(
      `--to is one of ${Object.keys(NORMALIZE_TARGETS)
        .map((t) => `${t}=…`)
        .join(", ")}, not "${text ?? ""}"`
    );
  return { target: name as NormalizeTarget, level: numberOf(`--to ${name}`, level) };
}
