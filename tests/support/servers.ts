import { createServer, type IncomingMessage, type RequestListener, type Server, type ServerResponse } from "node:http";
import type { AddressInfo } from "node:net";
import { serve } from "@hono/node-server";
import express from "express";
import fastify, { type FastifyError, type FastifyReply, type FastifyRequest } from "fastify";
import { Hono } from "hono";
import type { Flags } from "iudex";
import { allOf, anyOf, fetchGate, is, nodeGate, not } from "iudex/http";
import { onTestFinished } from "vitest";

/** What every one of the servers below does, so that they must answer alike. */
export const pageFlags = ["zone-fares", "seat-map"];

export interface Running {
  readonly address: string;
  /** How often a context was gathered. */
  gathered(): number;
  readonly failures: unknown[];
  /** Stops as the framework says that one should; it waits for the answers that are under way. */
  stop(): Promise<void>;
}

interface Person {
  readonly account: { readonly id: string };
}

class Gathering {
  count = 0;
  readonly failures: unknown[] = [];

  contextOf(id: string | undefined): Promise<Person> {
    this.count++;
    if (id === "broken") return Promise.reject(new Error("nobody knows this person"));
    return Promise.resolve({ account: { id: id ?? "nobody" } });
  }
}

export type StartServer = (flags: Flags) => Promise<Running>;

const twice = (pinned: { value(flag: string): unknown; revision: string }) => ({
  first: pinned.value("hold-minutes"),
  second: pinned.value("hold-minutes"),
  revision: pinned.revision,
});

const joined = {
  both: allOf("zone-fares", not("storm-mode")),
  either: anyOf("zone-fares", is("seat-map", "tour")),
  // Nobody defines it, so neither it nor its opposite can be judged.
  unknown: "nobody-defines-this",
  notUnknown: not("nobody-defines-this"),
};

function forRequests<Request extends IncomingMessage | { readonly raw: IncomingMessage }>(flags: Flags) {
  const gathering = new Gathering();
  const header = (request: Request) => {
    const { headers } = "raw" in request ? request.raw : (request as IncomingMessage);
    return String(headers["person"] ?? "");
  };
  const gate = nodeGate<undefined, Request>(flags, {
    context: (request) => gathering.contextOf(header(request) || undefined),
    verdictHeader: true,
    onFailure: (error) => gathering.failures.push(error),
  });
  return { gathering, gate };
}

async function listening(server: Server, gathering: Gathering): Promise<Running> {
  await new Promise<void>((resolve) => server.listen(0, "127.0.0.1", resolve));
  onTestFinished(
    () =>
      new Promise<void>((resolve) => {
        server.closeAllConnections();
        server.close(() => resolve());
      }),
  );
  const { port } = server.address() as AddressInfo;
  return {
    address: `http://127.0.0.1:${port}`,
    gathered: () => gathering.count,
    failures: gathering.failures,
    stop: () => stopped(server),
  };
}

function stopped(server: Server): Promise<void> {
  return new Promise((resolve) => server.close(() => resolve()));
}

const startNode: StartServer = (flags) => {
  const { gate, gathering } = forRequests<IncomingMessage>(flags);
  const text = (words: string) => (_: IncomingMessage, response: ServerResponse) => response.end(words);
  const routes: Record<
    string,
    (request: IncomingMessage, response: ServerResponse, next: (error?: Error) => void) => void
  > = {
    "/open": gate.closedUnless("zone-fares"),
    "/while": gate.closedWhile("storm-mode", { status: 503 }),
    "/both": gate.closedUnless(joined.both),
    "/either": gate.closedUnless(joined.either),
    "/unknown": gate.closedUnless(joined.unknown),
    "/not-unknown": gate.closedUnless(joined.notUnknown),
    "/own": gate.closedUnless("zone-fares", {
      handler: (_request, response) => response.writeHead(410).end("gone"),
    }),
    "/divert": gate.divert("zone-fares", { to: text("new"), otherwise: text("old") }),
    "/values": gate.values({ only: pageFlags }),
    "/seen": gate.seen({ only: pageFlags }),
    "/script": (request, response) => response.end(gate.pageScript(request, { only: pageFlags, nonce: "bm9uY2U=" })),
    "/changes": gate.changes({ only: pageFlags, every: 200, maxListeners: 100 }),
  };
  const listener: RequestListener = (request, response) => {
    const answerOf = (asked: IncomingMessage) => ({
      ...twice(gate.of(asked)),
      current: flags.current().value("hold-minutes"),
    });
    const failed = (error: Error) => void response.writeHead(500).end(error.message);
    gate.run(request, response, (error) => {
      const route = routes[request.url ?? ""];
      const judgesItself = request.url === "/open" || request.url === "/divert";
      if (error && !judgesItself) failed(error);
      else if (request.url === "/twice") setTimeout(() => response.end(JSON.stringify(answerOf(request))), 5);
      else if (route) route(request, response, (fault) => void (fault ? failed(fault) : response.end("open")));
      else response.writeHead(404).end("no route");
    });
  };
  return listening(createServer(listener), gathering);
};

const startExpress: StartServer = (flags) => {
  const { gate, gathering } = forRequests<express.Request>(flags);
  const app = express();
  const open: express.RequestHandler = (_, response) => void response.send("open");
  app.get("/open", gate.closedUnless("zone-fares"), open);
  app.get(
    "/divert",
    gate.divert("zone-fares", {
      to: (_, response) => response.send("new"),
      otherwise: (_, response) => response.send("old"),
    }),
  );
  app.use(gate.run);
  app.get("/while", gate.closedWhile("storm-mode", { status: 503 }), open);
  app.get("/both", gate.closedUnless(joined.both), open);
  app.get("/either", gate.closedUnless(joined.either), open);
  app.get("/unknown", gate.closedUnless(joined.unknown), open);
  app.get("/not-unknown", gate.closedUnless(joined.notUnknown), open);
  app.get(
    "/own",
    gate.closedUnless("zone-fares", { handler: (_, response) => response.status(410).send("gone") }),
    open,
  );
  app.get("/values", gate.values({ only: pageFlags }));
  app.all("/seen", gate.seen({ only: pageFlags }));
  app.get("/script", (request, response) => {
    response.send(gate.pageScript(request, { only: pageFlags, nonce: "bm9uY2U=" }));
  });
  app.get("/changes", gate.changes({ only: pageFlags, every: 200, maxListeners: 100 }));
  app.get("/twice", (request, response) => {
    setTimeout(() => response.json({ ...twice(gate.of(request)), current: flags.current().value("hold-minutes") }), 5);
  });
  const failed: express.ErrorRequestHandler = (error: Error, _request, response, _next) =>
    void response.status(500).send(error.message);
  app.use(failed);
  return listening(createServer(app), gathering);
};

const startFastify: StartServer = async (flags) => {
  const { gate, gathering } = forRequests<FastifyRequest>(flags);
  const app = fastify();
  app.addHook("onRequest", (request, reply, done) => {
    if (request.url === "/open" || request.url === "/divert") done();
    else gate.run(request, reply, done);
  });
  const open = () => "open";
  app.get("/open", { preHandler: gate.closedUnless("zone-fares") }, open);
  app.get("/while", { preHandler: gate.closedWhile("storm-mode", { status: 503 }) }, open);
  app.get("/both", { preHandler: gate.closedUnless(joined.both) }, open);
  app.get("/either", { preHandler: gate.closedUnless(joined.either) }, open);
  app.get("/unknown", { preHandler: gate.closedUnless(joined.unknown) }, open);
  app.get("/not-unknown", { preHandler: gate.closedUnless(joined.notUnknown) }, open);
  app.get(
    "/own",
    {
      preHandler: gate.closedUnless("zone-fares", {
        handler: (_, reply: FastifyReply) => reply.code(410).send("gone"),
      }),
    },
    open,
  );
  const answer = (words: string) => (_: FastifyRequest, reply: FastifyReply) => void reply.send(words);
  app.get("/divert", { preHandler: gate.divert("zone-fares", { to: answer("new"), otherwise: answer("old") }) }, open);
  app.get("/values", gate.values({ only: pageFlags }));
  app.route({ method: ["GET", "POST"], url: "/seen", handler: gate.seen({ only: pageFlags }) });
  app.get("/script", (request) => gate.pageScript(request, { only: pageFlags, nonce: "bm9uY2U=" }));
  app.get("/changes", gate.changes({ only: pageFlags, every: 200, maxListeners: 100 }));
  app.get("/twice", async (request) => {
    await new Promise((resolve) => setTimeout(resolve, 5));
    return { ...twice(gate.of(request)), current: flags.current().value("hold-minutes") };
  });
  app.setErrorHandler((error: FastifyError, _request, reply) =>
    reply.code(error.statusCode ?? 500).send(error.message),
  );
  await app.listen({ port: 0, host: "127.0.0.1" });
  onTestFinished(() => {
    app.server.closeAllConnections();
    return app.close();
  });
  const { port } = app.server.address() as AddressInfo;
  return {
    address: `http://127.0.0.1:${port}`,
    gathered: () => gathering.count,
    failures: gathering.failures,
    stop: () => app.close(),
  };
};

const startHono: StartServer = async (flags) => {
  const gathering = new Gathering();
  const gate = fetchGate(flags, {
    context: (request) => gathering.contextOf(request.headers.get("person") ?? undefined),
    isStopping: () => !server.listening,
    verdictHeader: true,
    onFailure: (error) => gathering.failures.push(error),
  });
  const app = new Hono();
  const open = () => new Response("open");
  const get = (path: string, handler: (request: Request) => Response | Promise<Response>) =>
    app.get(path, (c) => handler(c.req.raw));
  get("/open", gate.closedUnless("zone-fares", open));
  get("/while", gate.closedWhile("storm-mode", open, { status: 503 }));
  get("/both", gate.closedUnless(joined.both, open));
  get("/either", gate.closedUnless(joined.either, open));
  get("/unknown", gate.closedUnless(joined.unknown, open));
  get("/not-unknown", gate.closedUnless(joined.notUnknown, open));
  get("/own", gate.closedUnless("zone-fares", open, { handler: () => new Response("gone", { status: 410 }) }));
  get("/divert", gate.divert("zone-fares", { to: () => new Response("new"), otherwise: () => new Response("old") }));
  get("/values", gate.values({ only: pageFlags }));
  const seen = gate.seen({ only: pageFlags });
  app.all("/seen", (c) => seen(c.req.raw));
  get(
    "/script",
    gate.pin(async (request) => new Response(await gate.pageScript(request, { only: pageFlags, nonce: "bm9uY2U=" }))),
  );
  get("/changes", gate.changes({ only: pageFlags, every: 200, maxListeners: 100 }));
  get(
    "/twice",
    gate.run(async (request) => {
      await new Promise((resolve) => setTimeout(resolve, 5));
      return Response.json({ ...twice(await gate.of(request)), current: flags.current().value("hold-minutes") });
    }),
  );
  app.onError((error) => new Response(error.message, { status: 500 }));
  const server: Server = await new Promise<Server>((resolve) => {
    const made = serve({ fetch: app.fetch, port: 0, hostname: "127.0.0.1" }, () => resolve(made as Server));
  });
  onTestFinished(
    () =>
      new Promise<void>((resolve) => {
        server.closeAllConnections();
        server.close(() => resolve());
      }),
  );
  const { port } = server.address() as AddressInfo;
  return {
    address: `http://127.0.0.1:${port}`,
    gathered: () => gathering.count,
    failures: gathering.failures,
    stop: () => stopped(server),
  };
};

export const servers: readonly (readonly [string, StartServer])[] = [
  ["node:http", startNode],
  ["Express", startExpress],
  ["Fastify", startFastify],
  ["Hono", startHono],
];
