import cookies from "@fastify/cookie";
import fastify, { type FastifyError, type FastifyInstance, type FastifyReply, type FastifyRequest } from "fastify";
import { followFlags, type Keys } from "iudex";
import { nodeGate } from "iudex/http";
import { addBookingRoutes, type Services } from "./booking-routes.js";
import { catalogue } from "./catalogue.js";
import { Clock } from "./clock.js";
import { contextOf } from "./context.js";
import { addCrewDesk } from "./crew-desk.js";
import { addDeveloperRoutes } from "./developer-routes.js";
import { addPage } from "./page.js";
import { Records } from "./records.js";
import { Store } from "./store.js";

export interface BookingOptions {
  /** The definition folder. */
  readonly flags: string;
  readonly environment: string;
  /** The built page; none for a service on its own. */
  readonly page?: string | undefined;
  /** The SQLite file, or `:memory:`. */
  readonly database: string;
  /** The time at which its clock starts, in epoch milliseconds; the real time if left out. */
  readonly startsAt?: number | undefined;
  /** The folder of what is written down for weighing; nothing is if left out. */
  readonly records?: string | undefined;
  readonly keysForPasses?: Keys | undefined;
  readonly log?: ((line: string) => void) | undefined;
}

/** What is wrong with what somebody sent, in words for people; anything else is the service's own affair. */
function answerFault(error: FastifyError, _request: FastifyRequest, reply: FastifyReply): FastifyReply {
  const status = error.statusCode ?? 500;
  if (status >= 500) return reply.code(status).send({ message: "Something went wrong at the desk." });
  return reply.code(status).send({ message: error.validation ? wordsFor(error.validation) : error.message });
}

function wordsFor([fault]: NonNullable<FastifyError["validation"]>): string {
  const field = fault?.instancePath.slice(1) || String(fault?.params["missingProperty"] ?? "");
  const inWords = field === "" ? "what was sent" : `“${field}”`;
  if (field === "passengers") return "“passengers” is a number from one to nine; ring us for more.";
  return fault?.keyword === "required" ? `There is no ${inWords}.` : `The desk cannot read ${inWords}.`;
}

/** The booking service, ready to listen. */
export async function bookingService(options: BookingOptions): Promise<FastifyInstance> {
  const { environment, keysForPasses, log = () => {} } = options;
  const clock = new Clock(options.startsAt);
  const flags = await followFlags(options.flags, { environment, catalogue, keysForPasses, clock: clock.now });
  flags.on("change", ({ summary }) => log(summary));
  flags.on("rejected", ({ summary }) => log(summary));
  flags.on("problem", ({ message }) => log(message));

  const gate = nodeGate<typeof catalogue, FastifyRequest>(flags, {
    context: (request) => contextOf(request, flags.allowsLocalOverrides),
    verdictHeader: flags.allowsLocalOverrides,
    onFailure: (error) => log(String(error)),
  });
  const records = options.records === undefined ? undefined : new Records(options.records);
  records?.follow(flags);
  const services: Services = { flags, gate, store: new Store(options.database), clock, records };

  const app = fastify({ forceCloseConnections: true, ajv: { customOptions: { coerceTypes: false } } });
  app.addHook("onClose", async () => {
    services.store.close();
    await flags.close();
    await records?.close();
  });
  await app.register(cookies);
  app.setErrorHandler(answerFault);
  app.addHook("preHandler", (request, reply, next) => {
    // By the route that was found: its address may be written in many ways.
    if (request.routeOptions.url?.startsWith("/api/")) gate.pin(request, reply, next);
    else next();
  });
  addBookingRoutes(app, services);
  if (flags.allowsLocalOverrides)
    await app.register(async (routes) => addDeveloperRoutes(routes, services, options.flags));
  await addCrewDesk(app, { folder: options.flags, environment, clock, weighing: records?.files });
  if (options.page !== undefined) await addPage(app, services, options.page);
  return app;
}
