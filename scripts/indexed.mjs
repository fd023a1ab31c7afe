// Checks the files of session, server, pages' state and routes as if every index might miss (noUncheckedIndexedAccess). The
// arithmetic of sound is left out: there every index is counted.
import path from "node:path";
import ts from "typescript";
import { root } from "./prepare.mjs";

const FOLDERS = [
  "src/lib/core/session",
  "src/lib/server",
  "src/lib/api",
  "src/lib/ui",
  "src/routes",
  "src/hooks.server.ts"
];
// Reads and writes samples and bytes by computed places.
const ARITHMETIC = ["src/lib/server/media/overviewFile.ts", "src/lib/server/media/conform.ts"];

const { config } = ts.readConfigFile(path.join(root, "tsconfig.json"), ts.sys.readFile);
const { options, fileNames } = ts.parseJsonConfigFileContent(config, ts.sys, root);
const program = ts.createProgram(fileNames, { ...options, noUncheckedIndexedAccess: true, noEmit: true });
const inside = (file) =>
  FOLDERS.some((folder) => file.startsWith(path.join(root, folder))) &&
  !ARITHMETIC.some((name) => file === path.join(root, name));
const found = program
  .getSourceFiles()
  .filter(({ fileName }) => inside(fileName))
  .flatMap((source) => program.getSemanticDiagnostics(source));
if (found.length > 0) {
  const host = { getCanonicalFileName: (f) => f, getCurrentDirectory: () => root, getNewLine: () => "\n" };
  console.error(ts.formatDiagnostics(found, host));
  process.exit(1);
}
