// Stands for an effect that this version does not have: its steps are kept as they are, and let sound through.
import type { EffectDescription } from "./description";

const made = new Map<string, EffectDescription>();

/** The stand-in for an effect of this id; the same one each time. */
export function unknownEffect(id: string): EffectDescription {
  const known = made.get(id);
  if (known) return known;
  const effect: EffectDescription = {
    id,
    name: id,
    group: "unknown",
    help: `This version of Wring has no effect "${id}". The step is kept as it is and does nothing.`,
    keywords: [],
    params: [],
    presets: [],
    summary: () => "unknown here: kept, does nothing",
    latency: () => 0,
    settle: () => 0,
    create: () => ({ process: () => undefined, release: () => undefined })
  };
  made.set(id, effect);
  return effect;
}
