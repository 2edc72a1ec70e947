// Programs of this machine, and Debian's packages where this machine lets us install them.
import { spawnSync } from "node:child_process";
import { accessSync, constants } from "node:fs";
import { delimiter, join } from "node:path";

/** The path of the first program that is there by one of these names; undefined where none is. */
export function findProgram(names, more = []) {
  const folders = [...(process.env.PATH ?? "").split(delimiter), ...more];
  return folders.flatMap((folder) => names.map((name) => join(folder, name))).find(isProgram);
}

function isProgram(path) {
  try {
    accessSync(path, constants.X_OK);
    return true;
  } catch {
    return false;
  }
}

/** Installs packages, if this is a Debian on which we may. */
export function installPackages(packages, what) {
  if (process.getuid?.() !== 0 || !works("apt-get", ["--version"])) return;
  console.log(`Installing Debian's ${what} …`);
  const quiet = ["-qq", "-o", "Dpkg::Use-Pty=0"];
  if (works("apt-get", [...quiet, "update"]))
    works("apt-get", [...quiet, "install", "--yes", "--no-install-recommends", ...packages]);
}

function works(command, words) {
  const env = { ...process.env, DEBIAN_FRONTEND: "noninteractive" };
  return spawnSync(command, words, { stdio: ["ignore", "ignore", "inherit"], env }).status === 0;
}
