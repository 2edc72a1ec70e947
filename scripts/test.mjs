// npm test: all tests, from a fresh clone. Words behind -- go to the test runner.

import { buildBooking } from "./booking-build.mjs";
import { ensureChromium } from "./chromium.mjs";
import { dayOf } from "./day/days.mjs";
import { ensureEngines } from "./engines/programs.mjs";
import { ensureBuilt, ensureInstalled, runTool } from "./setup.mjs";

ensureInstalled();
// What has to be fetched is fetched while the library is built.
const built = ensureBuilt();
const chromium = ensureChromium();
const engines = ensureEngines();
await built;
buildBooking();
const missing = [
  ...(chromium
    ? []
    : [
        "Chromium is missing and could not be installed here, so the tests of pages are left out.\n" +
          "Install Debian's package chromium-headless-shell or chromium, or set IUDEX_CHROMIUM to the path of one.",
      ]),
  ...engines.map(
    (engine) =>
      `${engine} is missing and could not be installed here, so the tests of shelves in it are named as skipped.\n` +
      "Install Debian's packages nginx-light, redis-server and postgresql.",
  ),
];
for (const words of missing) console.warn(words);
// On a machine that decides what lands, nothing may be left out.
if (missing.length > 0 && process.env.CI) process.exit(1);
const day = dayOf(process.env.IUDEX_DAY);
const held = `These tests are held on another day: IUDEX_DAY="${day.name}" npm test`;
console.log(held);
process.on("exit", () => console.log(held));
runTool("vitest", ["run", ...process.argv.slice(2)], { env: { ...process.env, ...day.env } });
for (const words of missing) console.warn(words);
