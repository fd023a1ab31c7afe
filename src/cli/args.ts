import { parseArgs, type ParseArgsConfig } from "node:util";
import { parseTime } from "$lib/core/units/time";
import { UsageFault } from "./outcome";

type Options = NonNullable<ParseArgsConfig["options"]>;

export interface Parsed {
  readonly files: readonly string[];
  text(name: string): string | undefined;
  /** All values of an option that may be given more than once. */
  all(name: string): readonly string[];
  flag(name: string): boolean;
  /** Seconds of an option: "12.5", "1:02.5", "250 ms". */
  seconds(name: string): number | undefined;
}

/** Values that begin with a minus and a digit are numbers, not options: "--ceiling -1" becomes "--ceiling=-1". */
function joined(args: readonly string[], options: Options): string[] {
  const out: string[] = [];
  for (let i = 0; i < args.length; i++) {
    const name = args[i].startsWith("--") ? args[i].slice(2) : "";
    const wantsText = Object.hasOwn(options, name) && options[name].type === "string";
    if (wantsText && /^-[\d.]/.test(args[i + 1] ?? "")) out.push(`${args[i]}=${args[++i]}`);
    else out.push(args[i]);
  }
  return out;
}

/** Parses options and files. @throws UsageFault naming what is unknown or missing */
export function parse(args: readonly string[], options: Options): Parsed {
  let read: ReturnType<typeof parseArgs>;
  try {
    read = parseArgs({ args: joined(args, options), options, allowPositionals: true, strict: true });
  } catch (error) {
    throw new UsageFault((error as Error).message.split(". ")[0].replace(/\.$/, ""));
  }
  const value = (name: string) => (read.values as Record<string, unknown>)[name];
  return {
    files: read.positionals,
    text: (name) => value(name) as string | undefined,
    all: (name) => (value(name) as readonly string[] | undefined) ?? [],
    flag: (name) => value(name) === true,
    seconds(name) {
      const text = value(name) as string | undefined;
      if (text === undefined) return undefined;
      const seconds = parseTime(text);
      if (seconds === undefined || seconds < 0)
        throw new UsageFault(`--${name} wants a time such as 12.5 or 1:02.5, not "${text}"`);
      return seconds;
    }
  };
}

/** A number of an option's text. @throws UsageFault */
export function numberOf(name: string, text: string): number {
  const value = Number(text);
  if (text.trim() === "" || !Number.isFinite(value))
    throw new UsageFault(`${name} wants a number, not "${text}"`);
  return value;
}
