// Writes what docs/ has from the code: effects.md with a picture of each effect, format.md, the JSON Schemas of chain files and of files of presets.
import { mkdirSync, writeFileSync } from "node:fs";
import { effects } from "../src/lib/core/effects/registry";
import { presetsJsonSchema } from "../src/lib/core/presets/presetsFile";
import { chainJsonSchema } from "../src/lib/core/session/chainFile";
import { formatPage } from "./formatPage";
import { effectsPage } from "./effectsPage";
import { pictureOf } from "./pictures";

mkdirSync("docs/effects", { recursive: true });
for (const effect of effects) writeFileSync(`docs/effects/${effect.id}.svg`, pictureOf(effect));
writeFileSync("docs/effects.md", effectsPage());
writeFileSync("docs/format.md", formatPage());
writeFileSync("docs/presets.schema.json", `${JSON.stringify(presetsJsonSchema(), null, 2)}\n`);
writeFileSync("docs/chain.schema.json", `${JSON.stringify(chainJsonSchema(), null, 2)}\n`);
