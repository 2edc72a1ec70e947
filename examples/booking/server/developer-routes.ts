import { readFile, rm, writeFile } from "node:fs/promises";
import { join } from "node:path";
import type { FastifyInstance, FastifyRequest } from "fastify";
import { formatExplanation } from "iudex";
import type { Services } from "./booking-routes.js";
import { contextOf, signedInCookie, triedCookie } from "./context.js";
import { travellers } from "./travellers.js";

type FlagName = Parameters<Services["flags"]["value"]>[0];

/** What the drawer asks for. Added only where the environment lets a developer override flags. */
export function addDeveloperRoutes(app: FastifyInstance, services: Services, folder: string): void {
  const { flags, gate, clock } = services;

  app.get("/api/developer", async (request) => ({
    environment: flags.environment,
    revision: flags.revision,
    clock: { now: new Date(clock.now()).toISOString(), moved: clock.moved !== 0 },
    travellers: travellers.map(({ name, account }) => ({ id: account.id, name, plan: account.plan })),
    context: contextOf(request, true),
    tried: request.cookies[triedCookie] !== undefined,
    flags: flagRows(services, request),
  }));

  app.get<{ Params: { flag: string } }>("/api/developer/why/:flag", (request, reply) => {
    if (!flags.names.includes(request.params.flag)) return reply.code(404).send({ message: "There is no such flag." });
    const explanation = gate.of(request).explain(request.params.flag as FlagName);
    return { text: formatExplanation(explanation!, { zone: "Atlantic/Faroe" }), explanation };
  });

  app.post<{ Body: { id?: string; attributes?: object } }>("/api/developer/me", (request, reply) => {
    const { id, attributes } = request.body;
    const cookie = { path: "/", sameSite: "lax" } as const;
    if (id === "") reply.clearCookie(signedInCookie, cookie);
    else if (id !== undefined) reply.setCookie(signedInCookie, id, { ...cookie, httpOnly: true });
    if (attributes) reply.setCookie(triedCookie, JSON.stringify(attributes), cookie);
    else reply.clearCookie(triedCookie, cookie);
    return {};
  });

  app.post<{ Body: { at?: string | null } }>("/api/developer/clock", (request, reply) => {
    const { at } = request.body;
    const epoch = at ? Date.parse(at) : undefined;
    if (Number.isNaN(epoch)) return reply.code(400).send({ message: "That is no instant." });
    clock.moveTo(epoch);
    return {};
  });

  const local = new LocalOverrides(join(folder, "overrides.local.yaml"));
  app.post<{ Body: { flag: string; value: unknown } }>("/api/developer/overrides", async (request, reply) => {
    const { flag, value } = request.body;
    if (!flags.names.includes(flag)) return reply.code(404).send({ message: "There is no such flag." });
    await local.set(flag, value);
    return {};
  });
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

/** The developer's own file beside the shared ones; the library sees it as it sees any save. */
class LocalOverrides {
  readonly #file: string;
  #writing: Promise<void> = Promise.resolve();

  constructor(file: string) {
    this.#file = file;
  }

  /** One after the other; null takes the override off. */
  set(flag: string, value: unknown): Promise<void> {
    const write = async () => {
      const overrides = await this.#read();
      if (value === null) delete overrides[flag];
      else overrides[flag] = value;
      // JSON is YAML.
      if (Object.keys(overrides).length === 0) await rm(this.#file, { force: true });
      else await writeFile(this.#file, `${JSON.stringify({ iudex: 1, overrides }, undefined, 2)}\n`);
    };
    this.#writing = this.#writing.then(write, write);
    return this.#writing;
  }

  async #read(): Promise<Record<string, unknown>> {
    try {
      return (JSON.parse(await readFile(this.#file, "utf8")) as { overrides: Record<string, unknown> }).overrides;
    } catch {
      return {};
    }
  }
}
