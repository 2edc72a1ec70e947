// What every script needs first: the dependencies installed and the library built, each only if it is not yet.
import { spawn, spawnSync } from "node:child_process";
import { existsSync, readdirSync, rmSync, statSync, writeFileSync } from "node:fs";
import { join } from "node:path";
import { fileURLToPath } from "node:url";

export const root = fileURLToPath(new URL("..", import.meta.url));
const npm = process.platform === "win32" ? "npm.cmd" : "npm";

/** Runs a program in the project's folder; ends this one if it fails. */
export function run(command, args, options = {}) {
  const { status, error } = spawnSync(command, args, { cwd: root, stdio: "inherit", ...options });
  if (error) console.error(`${command}: ${error.message}`);
  if (status !== 0) process.exit(status ?? 1);
}

/** Runs a program of an installed package. */
export function runTool(name, args, options) {
  run(join(root, "node_modules", ".bin", name), args, options);
}

/** As {@link run}, while this program goes on. */
function runBeside(command, args) {
  const child = spawn(command, args, { cwd: root, stdio: "inherit" });
  return new Promise((resolve) => {
    child.once("error", (error) => {
      console.error(`${command}: ${error.message}`);
      process.exit(1);
    });
    child.once("exit", (code) => (code === 0 ? resolve() : process.exit(code ?? 1)));
  });
}

export function ensureInstalled() {
  const installed = join(root, "node_modules", ".package-lock.json");
  const wanted = statSync(join(root, "package-lock.json")).mtimeMs;
  if (existsSync(installed) && statSync(installed).mtimeMs >= wanted) return;
  console.log("Installing what package-lock.json lists …");
  // Not `npm ci`: it refuses a lock file that lacks the binaries of other platforms, which some registries do not serve.
  run(npm, ["install", "--no-save", "--no-audit", "--no-fund", "--loglevel=error"]);
}

export async function ensureBuilt() {
  const stamp = join(root, "dist", ".built");
  const sources = ["src", "tsconfig.build.json", "scripts/bundle.mjs", "scripts/desk-build.mjs"].map((path) =>
    newestIn(join(root, path)),
  );
  if (existsSync(stamp) && statSync(stamp).mtimeMs >= Math.max(...sources)) return;
  await build();
}

/** The parts of a build, each in a process of its own, side by side. */
export async function build() {
  rmSync(join(root, "dist"), { recursive: true, force: true });
  const part = (name) => runBeside(process.execPath, [join(root, "scripts/build-part.mjs"), name]);
  const tsc = join(root, "node_modules", ".bin", "tsc");
  await Promise.all([runBeside(tsc, ["-p", "tsconfig.build.json"]), part("modules"), part("commonjs"), part("desk")]);
  await part("declarations");
  writeFileSync(join(root, "dist", ".built"), "");
}

export function newestIn(path) {
  const stat = statSync(path);
  let newest = stat.mtimeMs;
  if (!stat.isDirectory()) return newest;
  for (const entry of readdirSync(path)) newest = Math.max(newest, newestIn(join(path, entry)));
  return newest;
}
