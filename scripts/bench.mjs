// npm run bench: ratios, each measured in one run against a stated baseline. `-- --json FILE` keeps the figures.
import { ensureBuilt, ensureInstalled, run } from "./setup.mjs";

ensureInstalled();
await ensureBuilt();
run(process.execPath, ["bench/index.mjs", ...process.argv.slice(2)]);
