// npm run demo: the made-up feature "Last Boat to Varnsey", in a data folder of its own.
import path from "node:path";
import { build, install, must, present, root, serve } from "./prepare.mjs";

const data = path.resolve(root, process.env.WRING_DEMO_DATA ?? "demo-data");
install();
build();
if (!present(path.join(data, "wring.sqlite"))) console.log("Making the demo's sounds…");
must(process.execPath, ["build/worker/seed.mjs"], { env: { ...process.env, WRING_DATA: data } });
serve(data, process.env.PORT ?? 4680);
