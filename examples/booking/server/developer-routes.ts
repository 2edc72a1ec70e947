import { join } from "node:path";
import type { FastifyInstance, FastifyRequest } from "fastify";
import { formatExplanation } from "iudex";
import type { Services } from "./booking-routes.js";
import { contextOf, signedInCookie, triedCookie } from "./context.js";
import { LocalOverrides, UnreadableFile } from "./local-overrides.js";
import { travellers } from "./travellers.js";

type FlagName = Parameters<Services["flags"]["value"]>[0];

/** What the drawer asks for, as a plugin of its own. Added only where the environment lets a developer override flags. */
export function addDeveloperRoutes(app: FastifyInstance, services: Services, folder: string): void {
  const { flags, gate, clock } = services;
  let refused: string | null = null;
  flags.on("rejected", ({ summary }) => {
    refused = summary;
  });
  flags.on("change", () => {
    refused = null;
  });
  // A page elsewhere could name this machine after itself and reach these routes through the browser of a developer. The
  // hook is of these routes, however their address was written, and not of addresses that look like theirs.
  app.addHook("onRequest", (request, reply, next) => {
    if (isHere(request)) next();
    else void reply.code(403).send({ message: "These routes are for this machine only." });
  });

  app.get("/api/developer", async (request) => ({
    environment: flags.environment,
    revision: flags.revision,
    clock: { now: new Date(clock.now()).toISOString(), moved: clock.isMoved },
    travellers: travellers.map(({ name, account }) => ({ id: account.id, name, plan: account.plan })),
    context: contextOf(request, true),
    tried: request.cookies[triedCookie] !== undefined,
    refused,
    flags: flagRows(services, request),
  }));

  app.get<{ Params: { flag: string } }>("/api/developer/why/:flag", (request, reply) => {
    if (!flags.names.includes(request.params.flag)) return reply.code(404).send({ message: "There is no such flag." });
    const explanation = gate.of(request).explain(request.params.flag as FlagName);
    return { text: formatExplanation(explanation!, { zone: "Atlantic/Faroe" }), explanation };
  });

  app.post<{ Body: { id?: string; attributes?: object } }>("/api/developer/me", bodyOf(meBody), (request, reply) => {
    const { id, attributes } = request.body;
    const cookie = { path: "/", sameSite: "lax" } as const;
    if (id === "") reply.clearCookie(signedInCookie, cookie);
    else if (id !== undefined) reply.setCookie(signedInCookie, id, { ...cookie, httpOnly: true });
    if (attributes) reply.setCookie(triedCookie, JSON.stringify(attributes), cookie);
    else reply.clearCookie(triedCookie, cookie);
    return {};
  });

  app.post<{ Body: { at?: string | null } }>("/api/developer/clock", bodyOf(clockBody), (request, reply) => {
    const { at } = request.body;
    const epoch = at ? Date.parse(at) : undefined;
    if (Number.isNaN(epoch)) return reply.code(400).send({ message: "That is not an instant." });
    clock.moveTo(epoch);
    return {};
  });

  const local = new LocalOverrides(join(folder, "overrides.local.yaml"));
  app.post<{ Body: Turned }>("/api/developer/overrides", bodyOf(turnedBody), async (request, reply) => {
    const { flag, value = null } = request.body;
    if (!flags.names.includes(flag)) return reply.code(404).send({ message: "There is no such flag." });
    try {
      await local.set(flag, value);
      return {};
    } catch (error) {
      if (!(error instanceof UnreadableFile)) throw error;
      return reply.code(409).send({ message: error.message });
    }
  });
}

interface Turned {
  readonly flag: string;
  readonly value?: unknown;
}

const meBody = { type: "object", properties: { id: { type: "string" }, attributes: { type: "object" } } };
const clockBody = { type: "object", properties: { at: { type: ["string", "null"] } } };
const turnedBody = { type: "object", required: ["flag"], properties: { flag: { type: "string" } } };

/** A body that is null, or anything but such an object, is refused with a sentence. */
function bodyOf(body: object) {
  return { schema: { body } };
}

const ownNames = new Set(["localhost", "127.0.0.1", "[::1]"]);

/** Asked by this machine under its own name, and by no page from elsewhere. */
function isHere({ headers }: FastifyRequest): boolean {
  const isOwn = (url: string) => URL.canParse(url) && ownNames.has(new URL(url).hostname);
  return isOwn(`http://${headers.host ?? ""}`) && (headers.origin === undefined || isOwn(headers.origin));
}

function flagRows({ flags, gate }: Services, request: FastifyRequest): object[] {
  const pinned = gate.of(request);
  return flags.names.map((each) => {
    const name = each as FlagName;
    const { value, variant, cause, rule, overriddenBy } = pinned.verdict<FlagName>(name);
    const { variants, values } = flags.possible(name);
    const sentence = flags.describe(name);
    return { name, value, variant, cause, rule, overriddenBy, sentence, choices: variants ?? values.filter(isSimple) };
  });
}

function isSimple(value: unknown): boolean {
  return typeof value !== "object";
}
