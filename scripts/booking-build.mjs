// Builds the booking example: the service by the compiler, the page by Vite; only if something has changed.
import { existsSync, statSync, writeFileSync } from "node:fs";
import { join } from "node:path";
import { newestIn, root, runTool } from "./setup.mjs";

const example = join(root, "examples/booking");
const stamp = join(example, "dist", ".built");

export function buildBooking() {
  const sources = [join(example, "server"), join(example, "page"), join(root, "dist")];
  const newest = Math.max(...sources.map(newestIn));
  if (existsSync(stamp) && statSync(stamp).mtimeMs >= newest) return;
  console.log("Building the booking example …");
  runTool("tsc", ["-p", join(example, "tsconfig.json")]);
  runTool("vite", ["build", "--config", join(example, "page/vite.config.ts"), "--logLevel", "warn"]);
  writeFileSync(stamp, "");
}
