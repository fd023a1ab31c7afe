// What sliders and arrow keys do with a number parameter.
import type { NumberParam } from "$lib/core/effects/description";
import { formatDb } from "$lib/core/units/decibels";

const STEPS = 1000;

function toScale(param: NumberParam, value: number): number {
  if (param.scale === "log") return Math.log(value / param.min) / Math.log(param.max / param.min);
  return (value - param.min) / (param.max - param.min);
}

/** Slider position, 0 to 1000, of a value. */
export function sliderOf(param: NumberParam, value: number): number {
  return Math.round(toScale(param, value) * STEPS);
}

/** Value of a slider position, rounded to the decimals that are shown. */
export function valueOfSlider(param: NumberParam, position: number): number {
  const t = position / STEPS;
  const raw =
    param.scale === "log"
      ? param.min * (param.max / param.min) ** t
      : param.min + t * (param.max - param.min);
  return rounded(param, raw);
}

export function rounded(param: NumberParam, value: number): number {
  const within = Math.min(param.max, Math.max(param.min, value));
  return Number(within.toFixed(param.decimals));
}

/** The value after one arrow key; a tenth of a step when fine. On a logarithmic scale never less than is visible. */
export function stepped(param: NumberParam, value: number, direction: 1 | -1, fine: boolean): number {
  const relative = param.scale === "log" ? Math.max(param.step, value * 0.05) : param.step;
  const smallest = 10 ** -param.decimals;
  return rounded(param, value + direction * Math.max(smallest, fine ? relative / 10 : relative));
}

export function textOf(param: NumberParam, value: number): string {
  if (value === param.off) return "off";
  const signed = param.unit === "dB" && param.min < 0 && param.max > 0;
  return `${formatDb(value, param.decimals, signed)}${param.unit ? ` ${param.unit}` : ""}`;
}

/** A typed value within the parameter's range; undefined when it is none. "1.2k" and "1.2 kHz" are 1200, "off" where it can be off. */
export function parseValue(param: NumberParam, text: string): number | undefined {
  if (text.trim().toLowerCase() === "off") return param.off;
  const match = /^\s*([+-]?\d*[.,]?\d+)\s*(k)?(.*)$/i.exec(text);
  const [, digits = "", thousands, rest = ""] = match ?? [];
  const unit = rest.trim().toLowerCase();
  if (!match || (unit !== "" && unit !== param.unit.toLowerCase())) return undefined;
  const value = Number(digits.replace(",", ".")) * (thousands ? 1000 : 1);
  return Number.isFinite(value) && value >= param.min && value <= param.max ? value : undefined;
}

/** "500", "2k": a frequency on an axis. */
export function hertzText(hertz: number): string {
  return hertz >= 1000 ? `${hertz / 1000}k` : String(hertz);
}
