// npm run example:booking: builds the booking example and starts it, from a fresh clone.
import { buildBooking } from "./booking-build.mjs";
import { ensureBuilt, ensureInstalled, run } from "./setup.mjs";

ensureInstalled();
await ensureBuilt();
buildBooking();
// The child hears of Ctrl-C itself and closes its files; this process only waits for it.
process.on("SIGINT", () => {});
process.on("SIGTERM", () => {});
run(process.execPath, ["examples/booking/dist/server/main.js", ...process.argv.slice(2)]);
