// Writes what docs/ has of the effects: effects.md with a picture of each, made by the core, and the JSON Schema of chain files.
import { mkdirSync, writeFileSync } from "node:fs";
import { effects } from "../src/lib/core/effects/registry";
import { chainJsonSchema } from "../src/lib/core/session/chainFile";
import { effectsPage } from "./effectsPage";
import { pictureOf } from "./pictures";

mkdirSync("docs/effects", { recursive: true });
for (const effect of effects) writeFileSync(`docs/effects/${effect.id}.svg`, pictureOf(effect));
writeFileSync("docs/effects.md", effectsPage());
writeFileSync("docs/chain.schema.json", `${JSON.stringify(chainJsonSchema(), null, 2)}\n`);
