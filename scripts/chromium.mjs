// Debian's Chromium, for the tests and pictures of pages: found, or installed where this machine lets us.
import { findProgram, installPackages } from "./debian.mjs";

/** The first is the browser without windows, which takes half the time of a processor. */
const packages = ["chromium-headless-shell", "chromium"];

/** The path of Chromium: that of IUDEX_CHROMIUM, or the first on the PATH; undefined where there is none. */
export function findChromium() {
  return process.env.IUDEX_CHROMIUM || findProgram([...packages, "chromium-browser"]);
}

/** Installs Debian's Chromium if it is missing and this is a Debian on which we may; gives its path, if there is one. */
export function ensureChromium() {
  for (const name of packages) {
    if (findChromium()) break;
    installPackages([name, "fonts-dejavu-core"], "Chromium for the tests of pages");
  }
  return findChromium();
}
