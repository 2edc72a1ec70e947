// npm run demo:fleet: one shelf, three followers and a publisher on the ferry's definitions.
import { ensureBuilt, ensureInstalled, run } from "./setup.mjs";

ensureInstalled();
await ensureBuilt();
run(process.execPath, ["examples/fleet/demo.mjs"]);
