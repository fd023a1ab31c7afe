// Writes what docs/ has from the code: effects.md with a picture of each effect, format.md, the JSON Schema of chain files.
import { mkdirSync, writeFileSync } from "node:fs";
import { effects } from "../src/lib/core/effects/registry";
import { chainJsonSchema } from "../src/lib/core/session/chainFile";
import { formatPage } from "./formatPage";
import { effectsPage } from "./effectsPage";
import { pictureOf } from "./pictures";

mkdirSync("docs/effects", { recursive: true });
for (const effect of effects) writeFileSync(`docs/effects/${effect.id}.svg`, pictureOf(effect));
writeFileSync("docs/effects.md", effectsPage());
writeFileSync("docs/format.md", formatPage());
writeFileSync("docs/chain.schema.json", `${JSON.stringify(chainJsonSchema(), null, 2)}\n`);
