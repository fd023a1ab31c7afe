import type { EffectDescription, Param } from "../src/lib/core/effects/description";
import { mustLearn } from "../src/lib/core/effects/learning";
import { effects } from "../src/lib/core/effects/registry";
import { captionOf } from "./pictures";

const RATE = 48000;

function range(p: Param): string {
  if (p.kind === "number")
    return `${p.min} to ${p.max}${p.unit ? ` ${p.unit}` : ""}${p.off === undefined ? "" : `; ${p.off} is off`}`;
  if (p.kind === "choice") return p.choices.map((c) => `\`${c.value}\``).join(", ");
  if (p.kind === "switch") return "`true`, `false`";
  return p.kind === "recording" ? "a recording" : "text";
}

function cells(params: readonly Param[]): string {
  const rows = params.map(
    (p) => `| \`${p.id}\` | ${p.name} | ${range(p)} | ${String(p.default) || "none"} | ${p.help} |`
  );
  return ["| id | name | values | default | what it does |", "| --- | --- | --- | --- | --- |", ...rows].join(
    "\n"
  );
}

function parameters(effect: EffectDescription): string {
  if (effect.params.length === 0) return "It has no parameters.";
  const groups = [...new Set(effect.params.map((p) => p.group))];
  if (groups.length < 2) return cells(effect.params);
  // Groups are alike but for their number: one stands for all.
  const first = effect.params.filter((p) => p.group === groups[0]);
  return `${groups.length} bands, each with these parameters; the number at the end of the id is the band's.\n\n${cells(first)}`;
}

function timing(effect: EffectDescription): string {
  const params = Object.fromEntries(effect.params.map((p) => [p.id, p.default]));
  const frames = effect.latency(RATE);
  const tail = (effect.tail?.(params, RATE) ?? 0) / RATE;
  const learns = mustLearn({ effect: effect.id, on: true, params });
  return [
    `Latency ${frames} frames at 48 kHz, compensated`,
    tail > 0 ? `rings on for ${tail.toFixed(1)} s by default` : "",
    learns ? "hears the whole clip once before it begins" : ""
  ]
    .filter(Boolean)
    .join("; ");
}

function section(effect: EffectDescription): string {
  const presets = effect.presets.map((p) => p.name).join(", ");
  return `## ${effect.name}

${effect.help} \`${effect.id}\`. ${timing(effect)}.

![${effect.name}: ${captionOf(effect)}](effects/${effect.id}.svg)

*${captionOf(effect)}*

${parameters(effect)}
${presets ? `\nPresets: ${presets}.\n` : ""}`;
}

/** docs/effects.md. */
export function effectsPage(): string {
  const list = effects.map((e) => `- [${e.name}](#${e.name.toLowerCase().replaceAll(" ", "-")}): ${e.help}`);
  return `# Effects

Generated from the core by \`npm run docs\`; the pictures show what its own code does to a test signal.

${list.join("\n")}

${effects.map(section).join("\n")}`;
}
