// npm run demo: the main job on the demo data, from a fresh clone.
import { ensureBuilt, ensureInstalled, run } from "./setup.mjs";

ensureInstalled();
await ensureBuilt();
run(process.execPath, ["examples/ternhaven/demo.mjs"]);
