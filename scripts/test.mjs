// npm test: all tests, from a fresh clone. Words behind -- go to the test runner.
import { buildBooking } from "./booking-build.mjs";
import { ensureChromium } from "./chromium.mjs";
import { ensureBuilt, ensureInstalled, runTool } from "./setup.mjs";

ensureInstalled();
await ensureBuilt();
buildBooking();
const chromium = ensureChromium();
const missing =
  "Chromium is missing and could not be installed here, so the tests of the booking page are left out.\n" +
  "Install Debian's package chromium, or set IUDEX_CHROMIUM to the path of one.";
if (!chromium) console.warn(missing);
// On a machine that decides what lands, nothing may be left out.
if (!chromium && process.env.CI) process.exit(1);
runTool("vitest", ["run", ...process.argv.slice(2)]);
if (!chromium) console.warn(missing);
