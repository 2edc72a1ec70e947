import { fileURLToPath } from "node:url";
import { bookingService } from "./app.js";

const here = (path: string) => fileURLToPath(new URL(path, import.meta.url));

const environment = process.env["BOOKING_ENVIRONMENT"] ?? "local";
const app = await bookingService({
  flags: process.env["BOOKING_FLAGS"] ?? here("../../../ternhaven/flags"),
  environment,
  page: here("../page"),
  database: process.env["BOOKING_DATABASE"] ?? here("../../var/booking.sqlite"),
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

for (const signal of ["SIGINT", "SIGTERM"] as const) {
  process.once(signal, () => {
    app.close().then(() => console.log("The desk is closed."));
  });
}
