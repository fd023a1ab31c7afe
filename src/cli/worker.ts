// The thread that runs one command. The process around it stays free to notice that it is to stop.
import { parentPort, workerData } from "node:worker_threads";
import { sentenceOf } from "$lib/server/faults";
import { batch } from "./commands/batch";
import { deliver } from "./commands/deliver";
import { effectsList, presetsList } from "./commands/lists";
import { examine } from "./commands/examine";
import { info } from "./commands/info";
import { learnNoise } from "./commands/learnNoise";
import { measure } from "./commands/measure";
import { normalize } from "./commands/normalize";
import { render } from "./commands/render";
import { CouldNot, UsageFault, type Command, type Message, type Printed, type Work } from "./outcome";

const commands: Readonly<Record<string, Command>> = {
  measure,
  render,
  normalize,
  batch,
  effects: effectsList,
  presets: presetsList,
  "learn-noise": learnNoise,
  examine,
  info,
  deliver
};

const PROGRESS_MS = 100;

function send(message: Message): void {
  parentPort?.postMessage(message);
}

let last = 0;
const work: Work = {
  temporary: (path) => send({ kind: "temporary", path }),
  kept: (path) => send({ kind: "kept", path }),
  progress(what, share) {
    const now = Date.now();
    if (now - last < PROGRESS_MS) return;
    last = now;
    send({ kind: "progress", text: `${what} ${Math.round(share * 100)} %` });
  }
};

function overview(): string {
  const list = Object.entries(commands).map(([name, c]) => `  ${name.padEnd(12)} ${c.summary}`);
  return `wring: measures and treats sound files.\n\n${list.join("\n")}\n\n"wring COMMAND --help" tells more. Exit status: 0 done, 1 could not, 2 wrong use.\n`;
}

async function main([name, ...args]: readonly string[]): Promise<string | Printed> {
  if (name === undefined) throw new UsageFault("a command is missing; --help lists them");
  if (name === "--help" || name === "-h" || name === "help") return overview();
  const command = Object.hasOwn(commands, name) ? commands[name] : undefined;
  if (!command) throw new UsageFault(`there is no command "${name}"; --help lists them`);
  if (args.includes("--help") || args.includes("-h"))
    return `wring ${command.usage}\n\n${command.help.join("\n")}\n`;
  return command.run(args, work);
}

try {
  const made = await main(workerData as string[]);
  const { out, error } = typeof made === "string" ? { out: made, error: "" } : made;
  send({ kind: "done", status: error === "" ? 0 : 1, out, error });
} catch (error) {
  const status = error instanceof UsageFault ? 2 : 1;
  const known = error instanceof UsageFault || error instanceof CouldNot;
  const why = known
    ? (error as Error).message
    : (sentenceOf(error) ?? String(error instanceof Error ? error.message : error));
  send({ kind: "done", status, out: "", error: why.split("\n")[0] });
}
