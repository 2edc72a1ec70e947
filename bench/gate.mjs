// A gate and five asks, against the bare route: CPU time of the server's process for a request.
import { createServer } from "node:http";
import express from "express";
import fastify from "fastify";
import { Hono } from "hono";
import { fetchGate, nodeGate } from "iudex/http";
import { flagsFrom } from "iudex/testing";
import { middle, sized } from "./measure.mjs";
import { requestsTo } from "./requests.mjs";

const flags = flagsFrom({
  flags: Object.fromEntries(
    Array.from({ length: 5 }, (_, i) => [`flag-${i}`, { safe: 0, rules: [{ when: `trips > ${i * 20}`, give: i }] }]),
  ),
});
const names = flags.names;
const context = ({ headers }) => ({ trips: Number(headers["trips"] ?? 50) });

function answerOf(pinned) {
  let sum = 0;
  for (const name of names) sum += pinned.value(name);
  return String(sum);
}

const servers = {
  "node:http": async () => {
    const gate = nodeGate(flags, { context });
    const server = createServer((request, response) => {
      if (request.url === "/bare") response.end("150");
      else gate.pin(request, response, () => response.end(answerOf(gate.of(request))));
    });
    await new Promise((resolve) => server.listen(0, "127.0.0.1", resolve));
    return { port: server.address().port, close: () => server.close() };
  },
  Fastify: async () => {
    const gate = nodeGate(flags, { context: (request) => context(request) });
    const app = fastify();
    app.get("/bare", (_, reply) => reply.send("150"));
    app.get("/gate", { preHandler: gate.pin }, (request, reply) => reply.send(answerOf(gate.of(request))));
    await app.listen({ port: 0, host: "127.0.0.1" });
    return { port: app.server.address().port, close: () => app.close() };
  },
  Express: async () => {
    const gate = nodeGate(flags, { context });
    const app = express();
    app.get("/bare", (_, response) => response.send("150"));
    app.get("/gate", gate.pin, (request, response) => response.send(answerOf(gate.of(request))));
    const server = app.listen(0, "127.0.0.1");
    await new Promise((resolve) => server.once("listening", resolve));
    return { port: server.address().port, close: () => server.close() };
  },
};

/** In the style of the Fetch standard nothing is sent: a request is made, and answered. */
function hono() {
  const gate = fetchGate(flags, { context: ({ headers }) => ({ trips: Number(headers.get("trips") ?? 50) }) });
  const gated = gate.pin(async (request, c) => c.text(answerOf(await gate.of(request))));
  const app = new Hono();
  app.get("/bare", (c) => c.text("150"));
  app.get("/gate", (c) => gated(c.req.raw, c));
  return async (path, count) => {
    for (let i = 0; i < count; i++) await app.fetch(new Request(`http://booking.example${path}`));
  };
}

const perRound = sized(2_000, 20);
const targets = { "node:http": 1.25, Fastify: 1.25, Express: 1.2, Hono: 1.25 };

export async function run() {
  const results = [];
  for (const [name, start] of Object.entries(servers)) {
    const { port, close } = await start();
    const client = requestsTo(port);
    results.push(await against(name, (path, count) => client.ask(path, count)));
    client.close();
    await close();
  }
  return [...results, await against("Hono", hono())];
}

async function against(name, ask) {
  const cpuOf = async (path) => {
    const before = process.cpuUsage();
    await ask(path, perRound);
    const { user, system } = process.cpuUsage(before);
    return user + system;
  };
  for (const path of ["/bare", "/gate", "/bare", "/gate"]) await cpuOf(path);
  const ratios = [];
  for (let round = 0; round < sized(15); round++) {
    const bare = await cpuOf("/bare");
    ratios.push((await cpuOf("/gate")) / bare);
  }
  return {
    name: `a gate and five asks in ${name}, CPU a request, against the bare route`,
    ratio: middle(ratios),
    atMost: targets[name],
  };
}
