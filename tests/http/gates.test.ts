// Gates by type and by variant, whatever the server.
import { createServer } from "node:http";
import type { AddressInfo } from "node:net";
import { followFlags } from "iudex";
import { allOf, fetchGate, nodeGate, not } from "iudex/http";
import { expect, it, onTestFinished } from "vitest";
import { folderWith, put } from "../support/folders.ts";
import { collected, next } from "../support/waiting.ts";

it("a gate on a flag that does not give yes or no is told of at once, and when it comes to that", async () => {
  const folder = await folderWith({ "a.yaml": "iudex: 1\nflags: { map: { safe: list }, on: { safe: true } }\n" });
  const flags = await followFlags(folder, { watch: { quiet: 20 } });
  onTestFinished(() => flags.close());
  const problems = collected(flags, "problem");
  const gate = fetchGate(flags, { context: () => ({}) });
  const page = () => new Response("page");
  const [map, on] = [gate.closedUnless(not("map"), page), gate.closedUnless(allOf("on"), page)];
  const ask = async () =>
    (await Promise.all([map, on].map((way) => way(new Request("http://x/"))))).map(({ status }) => status);
  expect(await ask()).toEqual([404, 200]);
  const said = (flag: string) =>
    `A gate asks whether “${flag}” is true, and it does not give yes or no: the gate is closed to all.`;
  expect(problems.map(({ message }) => message)).toEqual([said("map")]);
  const changed = next(flags, "change");
  await put(folder, "a.yaml", "iudex: 1\nflags: { map: { safe: list }, on: { safe: 1 } }\n");
  await changed;
  expect(await ask()).toEqual([404, 404]);
  expect(problems.map(({ message }) => message)).toEqual([said("map"), said("on")]);
});

it("diverts by variant, by value, and where there is no way, as for everything else", async () => {
  const folder = await folderWith({
    "a.yaml": `iudex: 1
flags:
  seats: { variants: { classic: list, deck: deck-plan }, safe: classic, rules: [{ when: deck, give: deck }] }
  lanes: { safe: 1, rules: [{ when: deck, give: 2 }] }
`,
  });
  const flags = await followFlags(folder, { watch: false });
  onTestFinished(() => flags.close());
  const failures: unknown[] = [];
  const gate = fetchGate(flags, {
    context: ({ url }) => ({ deck: url.endsWith("deck") }),
    onFailure: (error) => failures.push(error),
  });
  const way = (name: string) => () => new Response(name);
  const told = async (divert: (request: Request) => Response | Promise<Response>) =>
    Promise.all(["list", "deck"].map(async (path) => (await divert(new Request(`http://x/${path}`))).text()));
  expect(await told(gate.divert("seats", { classic: way("a"), deck: way("b") }))).toEqual(["a", "b"]);
  expect(await told(gate.divert("seats", { list: way("a"), "deck-plan": way("b") }))).toEqual(["a", "b"]);
  expect(await told(gate.divert("lanes", { 2: way("two"), otherwise: way("else") }))).toEqual(["else", "two"]);
  expect(await told(gate.divert("nobody", { otherwise: way("else") }))).toEqual(["else", "else"]);
  await expect(told(gate.divert("seats", { deck: way("b") }))).rejects.toThrow(
    `seats gives "classic", and divert has no way for it.`,
  );
  // The same behind a server of Node.
  const server = createServer((request, response) => {
    const node = nodeGate(flags, {
      context: ({ url }) => ({ deck: url === "/deck" }),
      onFailure: (error) => failures.push(error),
    });
    node.divert("seats", { deck: (_, answer) => void answer.end("deck") })(request, response, () =>
      response.writeHead(500).end(),
    );
  }).listen(0);
  onTestFinished(() => void server.close());
  const at = `http://localhost:${(server.address() as AddressInfo).port}`;
  expect(await (await fetch(`${at}/deck`)).text()).toBe("deck");
  expect((await fetch(`${at}/list`)).status).toBe(500);
});

it("a handler of one's own answers with the status of the closed address, unless it sets one", async () => {
  const folder = await folderWith({ "a.yaml": "iudex: 1\nflags: { storm: { safe: true } }\n" });
  const flags = await followFlags(folder, { watch: false });
  onTestFinished(() => flags.close());
  const gate = fetchGate(flags, { context: () => ({}) });
  const page = () => new Response("page");
  const shut = (own: Response, status?: number) => gate.closedWhile("storm", page, { status, handler: () => own });
  const ask = async (way: (request: Request) => Response | Promise<Response>) => {
    const answer = await way(new Request("http://x/"));
    return [answer.status, await answer.text(), answer.headers.get("retry-after")];
  };
  const headers = { "retry-after": "60" };
  expect(await ask(shut(new Response("stormy", { headers }), 503))).toEqual([503, "stormy", "60"]);
  expect(await ask(shut(new Response("stormy")))).toEqual([200, "stormy", null]);
  expect(await ask(shut(new Response("gone", { status: 410 }), 503))).toEqual([410, "gone", null]);
  const node = nodeGate(flags, { context: () => ({}) });
  const ways: Record<string, ReturnType<typeof node.closedWhile>> = {
    "/preset": node.closedWhile("storm", { status: 503, handler: (_, response) => void response.end("stormy") }),
    "/own": node.closedWhile("storm", { status: 503, handler: (_, response) => void response.writeHead(410).end() }),
  };
  const server = createServer((request, response) =>
    ways[request.url!]!(request, response, () => response.end("open")),
  );
  await new Promise<void>((resolve) => server.listen(0, "127.0.0.1", resolve));
  onTestFinished(() => void server.close());
  const statusOf = async (path: string) =>
    (await fetch(`http://127.0.0.1:${(server.address() as AddressInfo).port}${path}`)).status;
  expect([await statusOf("/preset"), await statusOf("/own")]).toEqual([503, 410]);
});

it("an answer that a handler gives to several people carries to each only what is theirs", async () => {
  const folder = await folderWith({
    "a.yaml": "iudex: 1\nflags: { fares: { safe: 0, rules: [{ when: 'plan == \"freight\"', give: 120 }] } }\n",
  });
  const flags = await followFlags(folder, { watch: false });
  onTestFinished(() => flags.close());
  const gate = fetchGate(flags, {
    context: ({ headers }) => ({ plan: headers.get("plan") ?? "" }),
    verdictHeader: true,
  });
  const shared = new Response(null, { status: 204, headers: { "cache-control": "max-age=60", vary: "accept" } });
  const asking = gate.pin(async (request) => {
    (await gate.of(request)).value("fares");
    return shared;
  });
  const silent = gate.pin(() => shared);
  const ask = async (way: typeof asking, plan: string) => {
    const { headers } = await way(new Request("http://x/", { headers: { plan } }));
    return ["cache-control", "vary", "iudex-verdicts"].map((name) => headers.get(name));
  };
  const marks = ["private, max-age=60", "accept, cookie, authorization, iudex-pass"];
  const told = async (plan: string) => ask(asking, plan);
  const [freight, foot] = [await told("freight"), await told("foot")];
  expect([freight.slice(0, 2), foot.slice(0, 2)]).toEqual([marks, marks]);
  expect(freight[2]).not.toBe(foot[2]);
  expect(await told("freight")).toEqual(freight);
  expect(await ask(silent, "freight")).toEqual(["max-age=60", "accept", null]);
  // Around one another they mark an answer once.
  expect(await ask(gate.pin(asking), "foot")).toEqual(foot);
  // Headers that cannot be changed are copied.
  const moved = gate.pin(async (request) => {
    (await gate.of(request)).value("fares");
    return Response.redirect("http://x/quay");
  });
  const { status, headers } = await moved(new Request("http://x/"));
  expect([status, headers.get("location"), headers.get("cache-control")]).toEqual([302, "http://x/quay", "private"]);
});
