import { fileURLToPath } from "node:url";
import type { FastifyInstance, FastifyReply, FastifyRequest } from "fastify";
import { deskHandler } from "iudex/desk";
import type { Clock } from "./clock.js";
import { signedInCookie } from "./context.js";
import { isCrew, travellerBy } from "./travellers.js";

/** Where the crew look at the flags, and change them. */
export const deskPath = "/crew/flags";

const people = fileURLToPath(new URL("../../../ternhaven/people/passengers.csv", import.meta.url));

interface CrewDesk {
  readonly folder: string;
  readonly environment: string;
  readonly clock: Clock;
  /** What was written down of who got what, and of what came of it. */
  readonly weighing: { readonly verdicts: string; readonly outcomes: string } | undefined;
}

/** The desk, behind the line's own sign-in: for the crew, and nobody else is to know of it. */
export async function addCrewDesk(
  app: FastifyInstance,
  { folder, environment, clock, weighing }: CrewDesk,
): Promise<void> {
  const desk = deskHandler({
    folder,
    at: deskPath,
    environment,
    clock: clock.now,
    people: [people],
    weighing: weighing && { ...weighing, better: { booked: "more", minutes: "fewer" } },
    who: ({ headers }) => {
      const traveller = travellerBy(app.parseCookie(headers.cookie ?? "")[signedInCookie]);
      return traveller && isCrew(traveller) ? { name: traveller.name, may: ["look", "suspend", "change"] } : undefined;
    },
  });
  app.addHook("onClose", () => desk.close());
  await app.register(async (scope) => {
    // The desk reads what is sent to it itself.
    scope.removeAllContentTypeParsers();
    scope.addContentTypeParser("*", (_request, _body, done) => done(null));
    const hand = (request: FastifyRequest, reply: FastifyReply) => {
      reply.hijack();
      desk(request.raw, reply.raw);
    };
    scope.all(deskPath, hand);
    scope.all(`${deskPath}/*`, hand);
  });
}
