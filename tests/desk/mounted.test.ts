import { cp } from "node:fs/promises";
import { createServer, type IncomingMessage } from "node:http";
import type { AddressInfo } from "node:net";
import { serve } from "@hono/node-server";
import express from "express";
import fastify from "fastify";
import { Hono } from "hono";
import { deskHandler, type Visitor } from "iudex/desk";
import { describe, expect, it, onTestFinished } from "vitest";
import { send } from "../support/desk.ts";
import { demoFolder, folderWith } from "../support/folders.ts";

const visitorOf = (name: string | null | undefined): Visitor | undefined =>
  name ? { name, may: ["look", "suspend", "change"] } : undefined;

const byHeader = ({ headers }: IncomingMessage) => visitorOf(headers["x-crew"] as string | undefined);

/** Each gives its address, the desk below /desk, and something of the program's own beside it. */
const servers: Readonly<Record<string, (folder: string, drafts: string) => Promise<string>>> = {
  async Express(folder, drafts) {
    const desk = deskHandler({ folder, drafts, who: byHeader });
    const app = express();
    // What reads bodies may stand in front.
    app.use(express.json());
    app.use("/desk", desk);
    app.get("/own", (_request, response) => void response.send("own"));
    const server = app.listen(0, "127.0.0.1");
    await new Promise((done) => server.once("listening", done));
    onTestFinished(async () => {
      await desk.close();
      server.closeAllConnections();
      server.close();
    });
    return `http://127.0.0.1:${(server.address() as AddressInfo).port}`;
  },
  async Fastify(folder, drafts) {
    const desk = deskHandler({ folder, drafts, at: "/desk", who: byHeader });
    const app = fastify({ forceCloseConnections: true });
    app.get("/own", () => "own");
    await app.register(async (scope) => {
      scope.removeAllContentTypeParsers();
      scope.addContentTypeParser("*", (_request, _body, done) => done(null));
      for (const path of ["/desk", "/desk/*"])
        scope.all(path, (request, reply) => {
          reply.hijack();
          desk(request.raw, reply.raw);
        });
    });
    onTestFinished(async () => {
      await desk.close();
      await app.close();
    });
    return app.listen({ port: 0, host: "127.0.0.1" });
  },
  async Hono(folder, drafts) {
    const desk = deskHandler<Request>({
      folder,
      drafts,
      at: "/desk",
      who: ({ headers }) => visitorOf(headers.get("x-crew")),
    });
    const app = new Hono();
    app.get("/own", (c) => c.text("own"));
    app.all("/desk", (c) => desk.fetch(c.req.raw));
    app.all("/desk/*", (c) => desk.fetch(c.req.raw));
    const server = serve({ fetch: app.fetch, port: 0, hostname: "127.0.0.1" });
    await new Promise((done) => server.once("listening", done));
    onTestFinished(async () => {
      await desk.close();
      server.close();
    });
    return `http://127.0.0.1:${(server.address() as AddressInfo).port}`;
  },
  async "node:http"(folder, drafts) {
    const desk = deskHandler({ folder, drafts, at: "/desk/", who: byHeader });
    const server = createServer((request, response) => {
      if (request.url === "/own") response.end("own");
      else desk(request, response);
    });
    await new Promise<void>((done) => server.listen(0, "127.0.0.1", done));
    onTestFinished(async () => {
      await desk.close();
      server.closeAllConnections();
      server.close();
    });
    return `http://127.0.0.1:${(server.address() as AddressInfo).port}`;
  },
};

describe.each(Object.keys(servers))("behind %s", (name) => {
  it("the desk stands under its path, behind the program's own sign-in, and nowhere else", async () => {
    const folder = await folderWith({});
    await cp(demoFolder, folder, { recursive: true });
    const drafts = await folderWith({});
    const address = await servers[name]!(folder, drafts);
    const crew = { "x-crew": "Ylva" };
    expect((await send("GET", `${address}/own`, {})).text).toBe("own");
    const bare = await send("GET", `${address}/desk`, crew);
    expect([bare.status, bare.headers.location]).toEqual([308, "/desk/"]);
    expect((await send("GET", `${address}/desk/`, crew)).text).toContain("<title>The desk</title>");
    expect((await send("GET", `${address}/desk/`, {})).status).toBe(404);
    expect((await send("GET", `${address}/desktop`, crew)).status).toBe(404);
    const { token } = (await send("GET", `${address}/desk/api/session`, crew)).body;
    const headers = { ...crew, "desk-token": token, origin: address, "content-type": "application/json" };
    const stop = JSON.stringify({ flag: "storm-mode", note: "Grüße von der Brücke" });
    const stopped = await send("POST", `${address}/desk/api/suspend`, headers, stop);
    expect([stopped.status, stopped.body.written]).toEqual([200, true]);
    const { suspended } = (await send("GET", `${address}/desk/api/set`, crew)).body;
    expect(suspended.data.suspended["storm-mode"]).toMatchObject({ who: "Ylva", note: "Grüße von der Brücke" });
    const change = JSON.stringify({ change: { change: "flag", flag: "zone-fares", owner: "quay-team" } });
    expect((await send("POST", `${address}/desk/api/draft/add`, headers, change)).body.changes).toHaveLength(1);
  });
});

it("takes the host of a request of the Fetch standard from its address", async () => {
  const desk = deskHandler<Request>({ folder: await folderWith({}), at: "/desk", who: () => visitorOf("Ylva") });
  onTestFinished(() => desk.close());
  const statusAt = async (address: string) => (await desk.fetch(new Request(address))).status;
  expect(await statusAt("http://localhost/desk/api/session")).toBe(200);
  expect(await statusAt("http://harbour.example/desk/api/session")).toBe(404);
});

it("finds nothing where the program fails at saying who asks, and says no more", async () => {
  const failures: unknown[] = [];
  const who = (): Visitor => {
    throw new Error("the directory is down: secret");
  };
  const desk = deskHandler({ folder: await folderWith({}), at: "/desk", who, failed: (error) => failures.push(error) });
  onTestFinished(() => desk.close());
  const answer = await desk.fetch(new Request("http://localhost/desk/api/session"));
  expect([answer.status, (await answer.text()).includes("secret")]).toEqual([404, false]);
  expect(failures).toEqual([expect.objectContaining({ message: "the directory is down: secret" })]);
});
