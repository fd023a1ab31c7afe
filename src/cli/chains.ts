// Chains by file or by the name of a preset.
import { existsSync, readFileSync } from "node:fs";
import path from "node:path";
import { findEffect, effects, recordingsOf } from "$lib/core/effects/registry";
import { FACTORY_PRESETS } from "$lib/core/presets/factory";
import { parseChainFile } from "$lib/core/session/chainFile";
import { newRecipeStep, newStep } from "$lib/core/session/make";
import type { RecipeStep, Step } from "$lib/core/session/schema";
import { config } from "$lib/server/config";
import { CouldNot, UsageFault } from "./outcome";

export interface NamedChain {
  readonly name: string;
  /** Where it comes from: with Wring, or saved in the data folder. */
  readonly from: "built-in" | "saved";
  /** For the settings of one effect that come with Wring: which. */
  readonly effect: string | null;
  readonly steps: readonly RecipeStep[];
}

/** All presets: those of the effects, then the saved ones when there is a data folder. */
export async function allPresets(): Promise<NamedChain[]> {
  const builtIn = effects.flatMap((effect) =>
    effect.presets.map((preset): NamedChain => ({
      name: preset.name,
      from: "built-in",
      effect: effect.id,
      steps: [newRecipeStep(effect.id, preset.params)]
    }))
  );
  const chains = FACTORY_PRESETS.map(({ name, steps }): NamedChain => ({
    name,
    from: "built-in",
    effect: null,
    steps
  }));
  const own = [...builtIn, ...chains];
  // Asking for presets must not make a data folder.
  if (!existsSync(path.join(config.dataFolder, "wring.sqlite"))) return own;
  // The database is loaded only when it is there to be asked: it costs a second.
  const { savedPresets } = await import("$lib/server/db/savedPresets");
  const saved = await savedPresets(config.dataFolder);
  return [
    ...own,
    ...saved.map((p): NamedChain => ({ name: p.name, from: "saved", effect: null, steps: p.steps }))
  ];
}

async function presetNamed(wanted: string): Promise<readonly RecipeStep[]> {
  const lower = wanted.toLowerCase();
  const found = (await allPresets()).filter(
    (p) =>
      p.name.toLowerCase() === lower || (p.effect !== null && `${p.effect}/${p.name}`.toLowerCase() === lower)
  );
  if (found.length === 0) throw new CouldNot(`There is no preset named "${wanted}"; "presets" lists them`);
  const saved = found.find((p) => p.from === "saved");
  if (found.length > 1 && !saved)
    throw new CouldNot(
      `"${wanted}" is the name of several presets; say which: ${found.map((p) => `"${p.effect}/${p.name}"`).join(", ")}`
    );
  return (saved ?? found[0]).steps;
}

function stepsOfFile(file: string): readonly RecipeStep[] {
  let text: string;
  try {
    text = readFileSync(file, "utf8");
  } catch {
    throw new CouldNot(`The chain "${file}" cannot be read`);
  }
  try {
    return parseChainFile(text).steps.map((s) => ({
      ...newRecipeStep(s.effect, s.params, s.on),
      span: s.span ?? null
    }));
  } catch (error) {
    throw new CouldNot(`The chain "${file}" cannot be used: ${(error as Error).message}`, { cause: error });
  }
}

/** Steps of --chain or --preset, with ids; undefined when neither is given. Paths of recordings count from the chain file's folder. */
export async function chainOf(
  chain: string | undefined,
  preset: string | undefined
): Promise<Step[] | undefined> {
  if (chain !== undefined && preset !== undefined)
    throw new UsageFault("--chain and --preset cannot be used together");
  if (chain === undefined && preset === undefined) return undefined;
  const recipe = chain !== undefined ? stepsOfFile(chain) : await presetNamed(preset ?? "");
  const folder = chain !== undefined ? path.dirname(chain) : ".";
  const asks = recipe.findIndex((step) => step.on && step.params.source === "ask");
  if (asks >= 0)
    throw new CouldNot(
      `Step ${asks + 1} of the chain asks for a noise profile and has none: "learn-noise" makes one from a stretch with noise alone`
    );
  return recipe.map((step, i) => {
    const params = { ...step.params };
    for (const param of findEffect(step.effect)?.params ?? [])
      if (param.kind === "recording" && typeof params[param.id] === "string" && params[param.id] !== "")
        params[param.id] = path.resolve(folder, String(params[param.id]));
    return { ...newStep(`step-${i}`, step.effect, params, step.on), span: step.span };
  });
}

/** Files of the recordings that steps ask for. @throws CouldNot when one is missing */
export function recordingFiles(steps: readonly Step[]): Record<string, string> {
  const files: Record<string, string> = {};
  for (const file of steps.flatMap(recordingsOf)) {
    if (!existsSync(file)) throw new CouldNot(`The recording "${file}" that the chain asks for is not there`);
    files[file] = file;
  }
  return files;
}

/** Whether sound that is equal on both sides may come out different. */
export function widens(steps: readonly Step[]): boolean {
  return steps.some((step) => {
    const effect = step.on ? findEffect(step.effect) : undefined;
    return (
      effect?.widens?.({
        ...Object.fromEntries(effect.params.map((p) => [p.id, p.default])),
        ...step.params
      }) ?? false
    );
  });
}
