// npm start: Wring on the user's own data (folder `data`, or WRING_DATA).
import path from "node:path";
import { build, install, root, serve } from "./prepare.mjs";

install();
build();
serve(path.resolve(root, process.env.WRING_DATA ?? "data"), process.env.PORT ?? 4680);
