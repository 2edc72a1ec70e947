// Debian's Chromium, for the tests and pictures of pages: found, or installed where this machine lets us.
import { spawnSync } from "node:child_process";
import { accessSync, constants } from "node:fs";
import { delimiter, join } from "node:path";

const names = ["chromium", "chromium-browser"];

/** The path of Chromium: that of IUDEX_CHROMIUM, or the first on the PATH; undefined where there is none. */
export function findChromium() {
  const wanted = process.env.IUDEX_CHROMIUM;
  if (wanted) return wanted;
  for (const folder of (process.env.PATH ?? "").split(delimiter)) {
    for (const name of names) if (isProgram(join(folder, name))) return join(folder, name);
  }
  return undefined;
}

function isProgram(path) {
  try {
    accessSync(path, constants.X_OK);
    return true;
  } catch {
    return false;
  }
}

/** Installs Debian's Chromium if it is missing and this is a Debian on which we may; gives its path, if there is one. */
export function ensureChromium() {
  const found = findChromium();
  if (found) return found;
  if (process.getuid?.() !== 0 || !works("apt-get", ["--version"])) return undefined;
  console.log("Installing Debian's Chromium for the tests of pages …");
  const packages = ["chromium", "fonts-dejavu-core"];
  const quiet = ["-qq", "-o", "Dpkg::Use-Pty=0"];
  if (!works("apt-get", [...quiet, "update"])) return undefined;
  works("apt-get", [...quiet, "install", "--yes", "--no-install-recommends", ...packages]);
  return findChromium();
}

function works(command, words) {
  const env = { ...process.env, DEBIAN_FRONTEND: "noninteractive" };
  return spawnSync(command, words, { stdio: ["ignore", "ignore", "inherit"], env }).status === 0;
}
