import type { FastifyInstance, FastifyReply, FastifyRequest } from "fastify";
import type { Flags } from "iudex";
import type { NodeGate } from "iudex/http";
import type { BookingCatalogue } from "./catalogue.js";
import type { Clock } from "./clock.js";
import { signedInCookie } from "./context.js";
import { deskPath } from "./crew-desk.js";
import { type Party, type Quote, quoteByPortPair, quoteByZone } from "./fares.js";
import { pageFlags } from "./page-catalogue.js";
import type { Records } from "./records.js";
import type { Store } from "./store.js";
import { type Crossing, crossingBy, crossingsOf } from "./timetable.js";
import { isCrew, travellerBy } from "./travellers.js";

export interface Services {
  readonly flags: Flags<BookingCatalogue>;
  readonly gate: NodeGate<BookingCatalogue, FastifyRequest>;
  readonly store: Store;
  readonly clock: Clock;
  readonly records: Records | undefined;
}

/** The routes of the service. Flags decide in them the way in which an `if` would. */
export function addBookingRoutes(app: FastifyInstance, services: Services): void {
  const { gate, flags } = services;
  const every = flags.allowsLocalOverrides ? 1_000 : 15_000;
  app.get("/api/flags", { preHandler: gate.values({ only: pageFlags }) }, never);
  app.post("/api/flags/seen", { preHandler: gate.seen({ only: pageFlags }) }, never);
  app.get("/api/flags/changes", { preHandler: gate.changes({ only: pageFlags, every }) }, never);
  addSession(app, services);
  addCrossings(app, services);
  addHolds(app, services);
  addHarbour(app, services);
}

/** The middleware in front has answered. */
function never(): void {}

const signInBody = { type: "object", required: ["id"], properties: { id: { type: "string" } } };

function addSession(app: FastifyInstance, { clock, flags }: Services): void {
  app.get("/api/session", (request) => {
    const traveller = travellerBy(request.cookies[signedInCookie]);
    return {
      traveller: traveller ? { id: traveller.account.id, name: traveller.name, plan: traveller.account.plan } : null,
      today: clock.today(),
      time: clock.isMadeUp ? clock.inWords() : null,
      developer: flags.allowsLocalOverrides,
      desk: traveller && isCrew(traveller) ? `${deskPath}/` : null,
    };
  });
  app.post<{ Body: { id: string } }>("/api/session", { schema: { body: signInBody } }, (request, reply) => {
    const traveller = travellerBy(request.body.id);
    if (!traveller) return reply.code(404).send({ message: "We know nobody by that number. Try A-17." });
    reply.setCookie(signedInCookie, traveller.account.id, { path: "/", httpOnly: true, sameSite: "lax" });
    return { id: traveller.account.id, name: traveller.name };
  });
  app.delete("/api/session", (_request, reply) => {
    reply.clearCookie(signedInCookie, { path: "/" });
    return {};
  });
}

/** Each once, as a text; what is given twice is a list, and refused. */
const searchQuery = {
  type: "object",
  required: ["from", "to", "date"],
  properties: {
    from: { type: "string" },
    to: { type: "string" },
    date: { type: "string", pattern: "^[0-9]{4}-[0-9]{2}-[0-9]{2}$" },
    passengers: { type: "string" },
    vehicle: { type: "string" },
  },
};

const quoteQuery = {
  type: "object",
  properties: { ...searchQuery.properties, crossing: { type: "string" } },
};

interface Search {
  readonly from: string;
  readonly to: string;
  readonly date: string;
  readonly passengers?: string;
  readonly vehicle?: string;
}

function addCrossings(app: FastifyInstance, { gate, store, clock }: Services): void {
  app.get<{ Querystring: Search }>("/api/crossings", { schema: { querystring: searchQuery } }, (request) => {
    const pinned = gate.of(request);
    const rules = { inWinter: pinned.value("winter-timetable"), ports: pinned.value("check-in").ports };
    const quote = pinned.value("zone-fares") ? quoteByZone : quoteByPortPair;
    const party = partyOf(request.query);
    const crossings = crossingsOf(request.query, rules).map((crossing) => ({
      ...crossing,
      quote: quote(crossing, party),
      taken: store.taken(crossing.id, clock.now()),
    }));
    return { ports: rules.ports, crossings };
  });

  // The same question on its own, answered by the old engine or the new one.
  const answerBy =
    (quote: (crossing: Crossing, party: Party) => Quote) => (request: FastifyRequest, reply: FastifyReply) => {
      const { crossing, ...search } = request.query as Search & { crossing?: string };
      const found = crossingBy(crossing ?? "");
      return found
        ? reply.send(quote(found, partyOf(search)))
        : reply.code(404).send({ message: "There is no such crossing." });
    };
  const byEngine = gate.divert("zone-fares", { to: answerBy(quoteByZone), otherwise: answerBy(quoteByPortPair) });
  app.get("/api/quote", { preHandler: byEngine, schema: { querystring: quoteQuery } }, never);
}

function partyOf({ passengers = "1", vehicle = "" }: Pick<Search, "passengers" | "vehicle">): Party {
  return { passengers: Math.min(9, Math.max(1, Math.trunc(Number(passengers)) || 1)), vehicle: vehicle === "yes" };
}

/** What is no such object is refused by the server, with a sentence on what is missing. */
const holdBody = {
  type: "object",
  required: ["crossing", "seat", "passengers", "vehicle"],
  properties: {
    crossing: { type: "string" },
    seat: { type: "string" },
    passengers: { type: "integer", minimum: 1, maximum: 9 },
    vehicle: { type: "boolean" },
  },
};

interface HoldRequest {
  readonly crossing: string;
  readonly seat: string;
  readonly passengers: number;
  readonly vehicle: boolean;
}

function addHolds(app: FastifyInstance, { gate, store, clock, records }: Services): void {
  const heldAt = new Map<string, number>();
  const stormy = (_request: FastifyRequest, reply: FastifyReply) =>
    reply
      .code(503)
      .header("retry-after", "3600")
      .send({ message: "The boats stay in harbour; booking is closed until the storm has passed." });

  const open = gate.closedWhile("storm-mode", { handler: stormy });
  app.post<{ Body: HoldRequest }>("/api/holds", { preHandler: open, schema: { body: holdBody } }, (request, reply) => {
    const { crossing: id, seat, passengers, vehicle } = request.body;
    const crossing = crossingBy(id);
    if (!crossing || !/^[FQS][1-8]$/.test(seat))
      return reply.code(404).send({ message: "There is no such crossing or seat." });
    if (crossing.date < clock.today()) return reply.code(410).send({ message: "That day is over." });
    const pinned = gate.of(request);
    const quote = pinned.value("zone-fares") ? quoteByZone : quoteByPortPair;
    const { crowns } = quote(crossing, partyOf({ passengers: String(passengers), vehicle: vehicle ? "yes" : "" }));
    const until = clock.now() + pinned.value("hold-minutes") * 60_000;
    const traveller = travellerBy(request.cookies[signedInCookie])?.account.id ?? null;
    const hold = store.hold({ crossing: id, seat, traveller, crowns, until }, clock.now());
    if (hold) heldAt.set(hold.id, clock.now());
    // How long is told as well: the clock of whoever looks may be another.
    return hold
      ? { ...hold, left: hold.until - clock.now() }
      : reply.code(409).send({ message: "Somebody else has just taken that seat." });
  });

  app.post<{ Params: { id: string } }>("/api/holds/:id/pay", { preHandler: open }, (request, reply) => {
    const hold = store.find(request.params.id);
    if (!hold) return reply.code(404).send({ message: "There is no such hold." });
    if (hold.state === "held" && hold.until <= clock.now())
      return reply.code(410).send({ message: "The hold has run out." });
    if (hold.state !== "held") return reply.code(409).send({ message: "That is paid already." });
    store.move(hold.id, "paid");
    const minutes = (clock.now() - (heldAt.get(hold.id) ?? clock.now())) / 60_000;
    heldAt.delete(hold.id);
    records?.note(hold.traveller, clock.now(), { booked: undefined, crowns: hold.crowns, minutes });
    return { ...hold, state: "paid" };
  });

  app.post<{ Params: { id: string } }>("/api/holds/:id/check-in", (request, reply) => {
    const hold = store.find(request.params.id);
    if (hold?.state !== "paid") return reply.code(409).send({ message: "Only what is paid can be checked in." });
    const { lanes } = gate.of(request).value("check-in");
    store.move(hold.id, "checked-in");
    return { ...hold, state: "checked-in", lane: (Number(hold.seat.slice(1)) % lanes) + 1 };
  });
}

/** Fixed berths, seen by those who steer. */
const berths = [
  { berth: "North mole", boat: "MV Kittiwake", draught: "3.9 m" },
  { berth: "Middle quay", boat: "MV Razorbill", draught: "4.4 m" },
  { berth: "Fish steps", boat: "empty", draught: "2.8 m" },
];

function addHarbour(app: FastifyInstance, { gate }: Services): void {
  app.get("/api/duty-desk", (request) => ({ open: gate.of(request).value("duty-desk") }));
  app.get("/api/check-in", (request) => gate.of(request).value("check-in"));
  // The address itself is closed, not only the link to it.
  app.get("/api/berths", { preHandler: gate.closedUnless("berth-view") }, () => berths);
}
