// npm run mutate: changes the core in thousands of small ways, one at a time, and looks whether a test notices. It takes
// hours, so it is no part of the tests. Words behind -- go to the mutation tester: --mutate "src/judge/**/*.ts".
import { ensureInstalled, runTool } from "./setup.mjs";

ensureInstalled();
runTool("stryker", ["run", ...process.argv.slice(2)]);
