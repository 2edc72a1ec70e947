import { fileURLToPath } from "node:url";
import { parseArgs } from "node:util";
import { bookingService } from "./app.js";
import { Clock, storyTime } from "./clock.js";

const here = (path: string) => fileURLToPath(new URL(path, import.meta.url));

const { values: switches } = parseArgs({ options: { "real-time": { type: "boolean", default: false } } });
const startsAt = switches["real-time"] ? undefined : storyTime;
const environment = process.env["BOOKING_ENVIRONMENT"] ?? "local";
const app = await bookingService({
  flags: process.env["BOOKING_FLAGS"] ?? here("../../../ternhaven/flags"),
  environment,
  page: here("../page"),
  database: process.env["BOOKING_DATABASE"] ?? here("../../var/booking.sqlite"),
  records: process.env["BOOKING_RECORDS"] ?? here("../../var"),
  startsAt,
  log: console.log,
});

const port = Number(process.env["PORT"] ?? 4410);
const address = await app.listen({ port, host: "127.0.0.1" }).catch(async (error: Error) => {
  console.error(
    `The port ${port} cannot be had (${error.message}); say another one: PORT=4411 npm run example:booking`,
  );
  await app.close();
  process.exit(1);
});
console.log(`Ternhaven Ferries takes bookings at ${address} (${environment}). Ctrl-C ends it.`);
if (startsAt !== undefined)
  console.log(
    `In it, it is ${new Clock(startsAt).inWords()}. For the real time: npm run example:booking -- --real-time`,
  );

for (const signal of ["SIGINT", "SIGTERM"] as const) {
  process.once(signal, () => {
    app.close().then(() => console.log("The desk is closed."));
  });
}
