// npm run torture: the server killed a hundred times, and three simulations of two pages with 2,500 edits each. Takes some minutes.
import path from "node:path";
import { build, install, must, root } from "./prepare.mjs";

install();
build();
must(
  path.join(root, "node_modules/.bin/vitest"),
  ["run", "tests/server/crash.test.ts", "tests/server/simulation.test.ts"],
  {
    env: {
      ...process.env,
      WRING_KILLS: process.env.WRING_KILLS ?? "100",
      WRING_SIMULATED_EDITS: "2500",
      WRING_SIMULATIONS: "3"
    }
  }
);
