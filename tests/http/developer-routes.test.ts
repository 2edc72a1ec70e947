import { createServer, request, type Server } from "node:http";
import type { AddressInfo } from "node:net";
import { getRequestListener } from "@hono/node-server";
import express from "express";
import fastify from "fastify";
import { Hono } from "hono";
import { expect, onTestFinished, test } from "vitest";

// What docs/security.md recommends for a developer's routes: the check belongs to the routes, and the router says which they are.

const isOwn = (host: string | undefined) => host === "localhost";

/** A server whose developer's routes call back when somebody has got there. */
type Kind = (reached: () => void) => Promise<Server> | Server;

const kinds: Readonly<Record<string, Kind>> = {
  "Express: a router": (reached) => {
    const developer = express.Router();
    developer.use((asked, answer, next) => (isOwn(asked.headers.host) ? next() : void answer.sendStatus(403)));
    developer.post("/overrides", (_, answer) => {
      reached();
      answer.sendStatus(200);
    });
    const app = express();
    app.use("/api/developer", developer);
    return createServer(app);
  },
  "Fastify: a plugin": async (reached) => {
    const app = fastify();
    await app.register(
      async (developer) => {
        developer.addHook("onRequest", async (asked, reply) => {
          if (!isOwn(asked.headers.host)) await reply.code(403).send();
        });
        developer.post("/overrides", async () => reached());
      },
      { prefix: "/api/developer" },
    );
    await app.ready();
    onTestFinished(() => app.close());
    return app.server;
  },
  "Hono: an app of its own": (reached) => {
    const developer = new Hono();
    developer.use(async (c, next) => (isOwn(c.req.header("host")) ? next() : c.body(null, 403)));
    developer.post("/overrides", (c) => {
      reached();
      return c.body(null, 200);
    });
    const app = new Hono();
    app.route("/api/developer", developer);
    return createServer(getRequestListener(app.fetch, { overrideGlobalObjects: false }));
  },
};

const addresses = (port: number) => [
  "/api/developer/overrides",
  "/api/%64eveloper/overrides",
  "/%61pi/developer/overrides",
  "/api/developer/%6fverrides",
  "/api%2fdeveloper%2foverrides",
  "/api/%2564eveloper/overrides",
  "//api/developer/overrides",
  "/api//developer//overrides",
  "/api/./developer/overrides",
  "/api/x/../developer/overrides",
  "/api/x/%2e%2e/developer/overrides",
  "/API/DEVELOPER/OVERRIDES",
  "/api/developer/overrides/",
  `http://127.0.0.1:${port}/api/developer/overrides`,
  `http://localhost/api/developer/overrides`,
  "/api/developer/overrides?x=1",
  "/api/developer/overrides;x",
  "/api/developer/overrides#x",
];

test.each(Object.entries(kinds))(
  "%s is reached under no other name, however its address is written",
  async (_, kind) => {
    let reached = 0;
    const server = await kind(() => reached++);
    await new Promise<void>((resolve) => server.listen(0, "127.0.0.1", resolve));
    onTestFinished(() => void server.close());
    const { port } = server.address() as AddressInfo;
    const post = (path: string, host: string) =>
      new Promise<number>((resolve, reject) => {
        const asked = request(
          { host: "127.0.0.1", port, path, method: "POST", headers: { host }, agent: false },
          (answer) => resolve(answer.resume().statusCode!),
        );
        asked.on("error", reject).end();
      });
    for (const path of addresses(port)) await post(path, "evil.example");
    expect(reached).toBe(0);
    expect(await post("/api/developer/overrides", "localhost")).toBe(200);
    expect(reached).toBe(1);
  },
);
