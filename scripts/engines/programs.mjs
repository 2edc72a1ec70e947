// The engines of Debian that the tests of shelves drive for real: found, or installed where this machine lets us.
import { spawnSync } from "node:child_process";
import { accessSync, constants, readdirSync } from "node:fs";
import { delimiter, join } from "node:path";

/** Program by engine, with the package that brings it. */
const engines = {
  nginx: { package: "nginx-light", programs: ["nginx"] },
  redis: { package: "redis-server", programs: ["redis-server"] },
  postgres: { package: "postgresql", programs: ["postgres", "initdb"] },
};

/** Where Debian puts programs that are not on everybody's PATH. */
function places() {
  const versions = "/usr/lib/postgresql";
  const postgres = namesIn(versions).map((version) => join(versions, version, "bin"));
  return [...(process.env.PATH ?? "").split(delimiter), "/usr/sbin", "/usr/local/sbin", ...postgres];
}

function namesIn(folder) {
  try {
    return readdirSync(folder).sort().reverse();
  } catch {
    return [];
  }
}

/** The path of a program; undefined where there is none. */
export function findProgram(name) {
  return places()
    .map((folder) => join(folder, name))
    .find((path) => {
      try {
        accessSync(path, constants.X_OK);
        return true;
      } catch {
        return false;
      }
    });
}

/** The engines that are not here. */
export function missingEngines() {
  return Object.entries(engines)
    .filter(([, { programs }]) => programs.some((name) => findProgram(name) === undefined))
    .map(([engine]) => engine);
}

/** Installs what is missing if this is a Debian on which we may; gives what is missing still. */
export function ensureEngines() {
  const missing = missingEngines();
  if (missing.length === 0 || process.getuid?.() !== 0 || !works("apt-get", ["--version"])) return missing;
  console.log(`Installing Debian's ${missing.join(", ")} for the tests of shelves …`);
  const quiet = ["-qq", "-o", "Dpkg::Use-Pty=0"];
  if (!works("apt-get", [...quiet, "update"])) return missing;
  const packages = missing.map((engine) => engines[engine].package);
  works("apt-get", [...quiet, "install", "--yes", "--no-install-recommends", ...packages]);
  return missingEngines();
}

function works(command, words) {
  // Programs only: nothing is to be started as a service of this machine.
  const env = { ...process.env, DEBIAN_FRONTEND: "noninteractive", RUNLEVEL: "1" };
  return spawnSync(command, words, { stdio: ["ignore", "ignore", "inherit"], env }).status === 0;
}
