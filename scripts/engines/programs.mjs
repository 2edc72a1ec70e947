// The engines of Debian that the tests of shelves drive for real: found, or installed where this machine lets us.
import { readdirSync } from "node:fs";
import { join } from "node:path";
import { findProgram as find, installPackages } from "../debian.mjs";

/** Programs by engine, with the package that brings them. */
const engines = {
  nginx: { package: "nginx-light", programs: ["nginx"] },
  redis: { package: "redis-server", programs: ["redis-server"] },
  postgres: { package: "postgresql", programs: ["postgres", "initdb"] },
};

/** Where Debian puts programs that are not on everybody's PATH. */
function places() {
  const versions = "/usr/lib/postgresql";
  return ["/usr/sbin", "/usr/local/sbin", ...namesIn(versions).map((version) => join(versions, version, "bin"))];
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
  return find([name], places());
}

/** The engines that are not here. */
export function missingEngines() {
  return Object.keys(engines).filter((engine) => engines[engine].programs.some((name) => !findProgram(name)));
}

/** Installs what is missing if this is a Debian on which we may; gives what is missing still. */
export function ensureEngines() {
  const missing = missingEngines();
  const packages = missing.map((engine) => engines[engine].package);
  if (missing.length > 0) installPackages(packages, `${missing.join(", ")} for the tests of shelves`);
  return missingEngines();
}
