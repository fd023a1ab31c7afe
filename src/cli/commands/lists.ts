// What there is: effects and presets.
import { effects } from "$lib/core/effects/registry";
import type { Param } from "$lib/core/effects/description";
import { parse } from "../args";
import { allPresets } from "../chains";
import { UsageFault, type Command } from "../outcome";
import { columns, json } from "../report";

function jsonParam(p: Param): Record<string, unknown> {
  const numeric =
    p.kind === "number"
      ? { unit: p.unit, min: p.min, max: p.max, off: p.off ?? null }
      : { unit: "", min: null, max: null, off: null };
  const choices =
    p.kind === "choice" ? p.choices.map((c) => c.value) : p.kind === "switch" ? [true, false] : null;
  return { id: p.id, name: p.name, kind: p.kind, ...numeric, default: p.default, choices, help: p.help };
}

function range(p: Param): string {
  if (p.kind === "number")
    return `${p.min} … ${p.max}${p.unit ? ` ${p.unit}` : ""}${p.off === undefined ? "" : `; ${p.off}: off`}`;
  if (p.kind === "choice") return p.choices.map((c) => c.value).join(" | ");
  if (p.kind === "switch") return "true | false";
  return p.kind === "recording" ? "a WAV file" : "text";
}

function noFiles(files: readonly string[], name: string): void {
  if (files.length > 0) throw new UsageFault(`${name} wants no files`);
}

export const effectsList: Command = {
  usage: "effects [--json]",
  summary: "every effect with its parameters",
  help: [
    "  --json   an array of effects: id, name, help, params (id, name, kind, unit, min, max, off, default, choices, help)"
  ],
  run(args) {
    const options = parse(args, { json: { type: "boolean" } });
    noFiles(options.files, "effects");
    if (options.flag("json"))
      return json(
        effects.map((e) => ({ id: e.id, name: e.name, help: e.help, params: e.params.map(jsonParam) }))
      );
    return effects
      .map((e) => {
        const rows = e.params.map((p) => [`  ${p.id}`, range(p), String(p.default) || '""']);
        return `${e.id}: ${e.help}\n${rows.length > 0 ? columns(rows) : ""}`;
      })
      .join("\n");
  }
};

export const presetsList: Command = {
  usage: "presets [--json]",
  summary: "every preset: those of the effects and the saved ones",
  help: [
    "  --json   an array of presets: name, from (built-in or saved), effect, steps",
    "",
    "Saved presets are those of the data folder (WRING_DATA, or `data`)."
  ],
  async run(args) {
    const options = parse(args, { json: { type: "boolean" } });
    noFiles(options.files, "presets");
    const presets = await allPresets();
    if (options.flag("json")) return json(presets);
    return columns([
      ["name", "effects", "from"],
      ...presets.map((p) => [
        p.effect ? `${p.effect}/${p.name}` : p.name,
        p.steps.map((s) => s.effect).join(" → "),
        p.from
      ])
    ]);
  }
};
