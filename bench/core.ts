// Speed of the core against native references, paired in one run. With an argument only the parts whose names contain it.
import { rmSync } from "node:fs";
import { effectParts } from "./core/effects";
import { overview, resampling, wavSamples } from "./core/formats";
import { loudness } from "./core/measures";
import { folder } from "./core/setup";

const parts: Readonly<Record<string, () => void>> = {
  loudness,
  ...effectParts,
  resampling,
  wav: wavSamples,
  overview
};

const only = process.argv[2] ?? "";
for (const [name, run] of Object.entries(parts)) if (name.includes(only)) run();
rmSync(folder, { recursive: true, force: true });
