// npm test: all tests, from a fresh clone. Words behind -- go to the test runner.
import { ensureBuilt, ensureInstalled, runTool } from "./setup.mjs";

ensureInstalled();
ensureBuilt();
runTool("vitest", ["run", ...process.argv.slice(2)]);
