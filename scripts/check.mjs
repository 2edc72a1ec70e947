// npm run check: everything that can be checked without running the code.
import { ensureBuilt, ensureInstalled, run, runTool } from "./setup.mjs";

ensureInstalled();
await ensureBuilt();
const checks = [
  ["format, lint and import arrows", "biome", ["check", "--error-on-warnings", "."]],
  ["the core's types, without a platform's", "tsc", ["-p", "tsconfig.core.json"]],
  ["types", "tsc", ["-p", "tsconfig.json"]],
  ["the reference of the public interface", process.execPath, ["scripts/check-reference.mjs"]],
  ["every benchmark runs", process.execPath, ["bench/index.mjs", "--smoke"]],
  ["package", "publint", ["--strict"]],
  [
    "package types",
    "attw",
    ["--pack", ".", "--quiet", "--exclude-entrypoints", "./schema.json", "./answers.schema.json", "./desk.schema.json"],
  ],
];
for (const [what, tool, args] of checks) {
  console.log(`\n— ${what}`);
  if (tool === process.execPath) run(tool, args);
  else runTool(tool, args);
}
