import {
  createServer,
  get,
  request as httpRequest,
  type IncomingMessage,
  type RequestListener,
  type ServerResponse,
} from "node:http";
import type { AddressInfo } from "node:net";
import express from "express";
import fastify from "fastify";
import { defineCatalogue, type Flags, type FlagsOptions, followFlags, type PassKey, signPass, yesNo } from "iudex";
import { allOf, anyOf, fetchGate, type GateOptions, is, nodeGate, not } from "iudex/http";
import { describe, expect, it, onTestFinished } from "vitest";
import { folderWith, put } from "../support/folders.ts";
import { listener } from "../support/listener.ts";
import { serve } from "../support/serve.ts";
import { next, sleep } from "../support/waiting.ts";

const set = `iudex: 1
environments: { production: {} }
defaults: { by: account.id }
attributes: { account.id: text, since: time, tags: list, amount: number }
flags:
  early: { safe: false, rules: [{ when: since < 2026-01-01T00:00Z, give: true }] }
  tagged: { safe: false, rules: [{ when: 'tags contains "a,b"', give: true }] }
  rich: { safe: false, rules: [{ when: amount > 10, give: true }] }
  mine: { safe: nobody, rules: [{ when: 'account.id == "A-1"', give: one }, { when: 'account.id == "A-2"', give: two }] }
  on: { safe: true }
  off: { safe: false }
`;

const key: PassKey = { kty: "oct", kid: "k", alg: "HS256", k: Buffer.alloc(32, 7).toString("base64url") };

async function opened(options: FlagsOptions<never> = {}): Promise<{ folder: string; flags: Flags }> {
  const folder = await folderWith({ "a.yaml": set });
  const flags = await followFlags(folder, {
    environment: "production",
    keysForPasses: { keys: [key] },
    watch: { quiet: 20 },
    ...options,
  });
  onTestFinished(() => flags.close());
  return { folder, flags };
}

/** The first event of a stream, which is then left. */
async function firstOf(response: Response): Promise<Record<string, unknown>> {
  const reader = response.body!.pipeThrough(new TextDecoderStream()).getReader();
  let text = "";
  while (!/data: .*\n\n/.test(text)) {
    const { value, done } = await reader.read();
    if (done) throw new Error(`The stream ended after “${text}”.`);
    text += value;
  }
  await reader.cancel();
  return (JSON.parse(/data: (.*)\n/.exec(text)![1]!) as { values: Record<string, unknown> }).values;
}

const gated = (flags: Flags, options: Partial<GateOptions<IncomingMessage>> = {}) =>
  nodeGate(flags, { context: ({ headers }) => ({ account: { id: headers["person"] } }), ...options });

describe("a client that has gone", () => {
  it("while its context was being gathered takes nobody's place", async () => {
    const { flags } = await opened();
    const gathering: (() => void)[] = [];
    const gate = nodeGate(flags, {
      context: ({ headers }) =>
        headers["slow"] ? new Promise<object>((resolve) => gathering.push(() => resolve({}))) : {},
    });
    const changes = gate.changes({ only: ["on"], maxListeners: 10 });
    const address = await serve((request, response) => void changes(request, response));
    for (let i = 0; i < 60; i++) {
      const client = get(address, { headers: { slow: "yes" }, agent: false });
      client.on("error", () => {});
      await expect.poll(() => gathering.length).toBe(i + 1);
      client.destroy();
    }
    await sleep(100);
    for (const go of gathering) go();
    await sleep(20);
    expect(await firstOf(await fetch(address))).toEqual({ on: true });
  });

  it("takes nobody's place in the style of the Fetch standard either", async () => {
    const { flags } = await opened();
    const gate = fetchGate(flags, { context: async () => ({}) });
    const changes = gate.changes({ only: ["on"], maxListeners: 3 });
    for (let i = 0; i < 20; i++) {
      const end = new AbortController();
      const answer = changes(new Request("http://ferry.example/", { signal: end.signal }));
      end.abort();
      await answer;
    }
    expect(await firstOf(await changes(new Request("http://ferry.example/")))).toEqual({ on: true });
  });
});

it("one address cannot take all places, and a refused client hears when to come back", async () => {
  const { flags } = await opened();
  const gate = gated(flags, { address: ({ headers }) => String(headers["from"]) });
  const changes = gate.changes({ only: ["on"], maxFromOneAddress: 5 });
  const url = await serve((request, response) => void changes(request, response));
  const ask = (from: string) => fetch(url, { headers: { from } });
  const held = await Promise.all(Array.from({ length: 5 }, () => ask("192.0.2.1")));
  const refused = await ask("192.0.2.1");
  expect([refused.status, refused.headers.get("retry-after")]).toEqual([503, "5"]);
  expect((await ask("192.0.2.2")).status).toBe(200);
  await held[0]!.body!.cancel();
  await expect.poll(async () => (await ask("192.0.2.1")).status).toBe(200);
});

describe("nobody is told another person's values", () => {
  class Account {
    readonly id: string;

    constructor(id: string) {
      this.id = id;
    }
  }
  const early = new Date("2025-06-01T00:00:00Z");
  const late = new Date("2026-06-01T00:00:00Z");
  it.each<[string, string, object, object]>([
    ["dates", "early", { since: early }, { since: late }],
    ["a date and its text", "early", { since: early }, { since: "June" }],
    ["lists that print alike", "tagged", { tags: ["a,b"] }, { tags: ["a", "b"] }],
    ["a number that JSON cannot write, and nothing", "rich", { amount: 11 }, { amount: Number.NaN }],
    ["a big integer and a number", "mine", { account: { id: "A-1" } }, { account: { id: 1n } }],
    ["instances of a class", "mine", { account: new Account("A-1") }, { account: new Account("A-2") }],
    ["what JSON leaves out", "mine", { account: Object.assign(() => 0, { id: "A-1" }) }, { account: { id: "A-1" } }],
    [
      "what writes itself as JSON like another",
      "mine",
      { account: { id: "A-1" }, toJSON: () => "same" },
      { account: { id: "A-2" }, toJSON: () => "same" },
    ],
    [
      "getters that change their mind",
      "mine",
      {
        get account() {
          return { id: "A-1" };
        },
      },
      {
        get account() {
          throw new Error("not you");
        },
      },
    ],
  ])("%s", async (_, flag, one, other) => {
    const { flags } = await opened();
    const contexts: Record<string, object> = { one, other };
    const gate = nodeGate(flags, { context: ({ headers }) => contexts[String(headers["person"])]! });
    const changes = gate.changes({ only: [flag], every: 30 });
    const url = await serve((request, response) => void changes(request, response));
    const expected = { one: flags.value(flag, one), other: flags.value(flag, other) };
    const told: Record<string, unknown> = { one: undefined, other: undefined };
    const streams = ["one", "other"].map(async (person) => {
      const response = await fetch(url, { headers: { person } });
      for await (const text of response.body!.pipeThrough(new TextDecoderStream())) {
        for (const [, data] of text.matchAll(/data: (.*)\n/g))
          told[person] = (JSON.parse(data!) as { values: Record<string, unknown> }).values[flag];
      }
    });
    await expect.poll(() => told).toEqual(expected);
    // Rounds go by; nobody's values turn into the other's.
    await sleep(120);
    expect(told).toEqual(expected);
    await flags.close();
    await Promise.all(streams);
  });

  it("nor what somebody's scope overrides", async () => {
    const { folder, flags } = await opened();
    const gate = gated(flags);
    const changes = gate.changes({ only: ["off", "mine"], every: 30 });
    const url = await serve((request, response) => {
      if (request.headers["person"] === "A-1") {
        // A scope of its own; what is begun inside would inherit it.
        void flags.withOverrides({ off: true }, () => changes(request, response));
      } else void changes(request, response);
    });
    const first = await fetch(url, { headers: { person: "A-1" } });
    const told: unknown[] = [];
    const second = await fetch(url, { headers: { person: "A-2" } });
    const reading = (async () => {
      for await (const text of second.body!.pipeThrough(new TextDecoderStream()))
        for (const [, data] of text.matchAll(/data: (.*)\n/g))
          told.push((JSON.parse(data!) as { values: unknown }).values);
    })();
    await sleep(120);
    const changed = next(flags, "change");
    await put(folder, "a.yaml", set.replace("give: two", "give: deux"));
    await changed;
    await expect
      .poll(() => told)
      .toEqual([
        { off: false, mine: "two" },
        { off: false, mine: "deux" },
      ]);
    await first.body!.cancel();
    await flags.close();
    await reading;
  });
});

describe("what cannot be judged is closed", () => {
  const parts = {
    "a missing flag": "missing",
    "its opposite": not("missing"),
    "a missing flag beside one that is on": anyOf("on", "missing"),
    "the opposite of a missing flag and one that is off": not(allOf("off", "missing")),
    "a value of a missing flag": is("missing", true),
    "that a flag has not the value it lacks": not(is("missing", true)),
    "a flag that is not a yes-no": "mine",
  } as const;
  it.each(Object.entries(parts))("%s, with closedUnless and with closedWhile", async (_, when) => {
    const { flags } = await opened();
    const gate = gated(flags);
    const ways: Record<string, ReturnType<typeof gate.closedUnless>> = {
      "/unless": gate.closedUnless(when),
      "/while": gate.closedWhile(when),
    };
    const url = await serve((request, response) => ways[request.url!]!(request, response, () => response.end("open")));
    const other = fetchGate(flags, { context: () => ({}) });
    const open = () => new Response("open");
    for (const path of ["/unless", "/while"]) expect((await fetch(`${url}${path}`)).status).toBe(404);
    for (const handler of [other.closedUnless(when, open), other.closedWhile(when, open)])
      expect((await handler(new Request("http://ferry.example/"))).status).toBe(404);
  });

  it("also where the catalogue has a fallback for it", async () => {
    const catalogue = defineCatalogue({ missing: yesNo({ fallback: false }), mine: yesNo({ fallback: true }) });
    const folder = await folderWith({ "a.yaml": set });
    const flags = await followFlags(folder, { environment: "production", catalogue });
    onTestFinished(() => flags.close());
    const gate = fetchGate(flags, { context: () => ({}) });
    const open = () => new Response("open");
    const handlers = [gate.closedWhile("missing", open), gate.closedUnless("mine", open)];
    for (const handler of handlers) expect((await handler(new Request("http://ferry.example/"))).status).toBe(404);
  });
});

describe("caches", () => {
  async function headersOf(
    flags: Flags,
    handler: (request: IncomingMessage, response: ServerResponse) => void,
    { options = {}, headers = {} }: { options?: Partial<GateOptions<IncomingMessage>>; headers?: object } = {},
  ) {
    const gate = gated(flags, options);
    const door = gate.closedUnless("on");
    const url = await serve((request, response) => door(request, response, () => handler(request, response)));
    const answer = await fetch(url, { headers: { ...headers } });
    return [answer.headers.get("cache-control"), answer.headers.get("vary")];
  }

  it("keep an answer behind a gate for one person, and tell people apart by what the context was made from", async () => {
    const { flags } = await opened();
    const vary = "cookie, authorization, iudex-pass";
    expect(await headersOf(flags, (_, response) => response.end("x"))).toEqual(["private", vary]);
    const said = (value: string) => (_: unknown, response: ServerResponse) => {
      response.setHeader("vary", "Accept-Encoding");
      response.writeHead(200, { "cache-control": value }).end("x");
    };
    const table: [string, string][] = [
      ["public, max-age=60", "private, max-age=60"],
      ["s-maxage=60", "private"],
      ["max-age=60", "private, max-age=60"],
      ["private, max-age=5", "private, max-age=5"],
      ["no-store", "no-store"],
    ];
    for (const [value, marked] of table)
      expect(await headersOf(flags, said(value))).toEqual([marked, `Accept-Encoding, ${vary}`]);
    const own = { options: { madeFrom: ["x-crew"], pass: false } } as const;
    expect(await headersOf(flags, (_, response) => response.end("x"), own)).toEqual(["private", "x-crew"]);
    const carried = { options: { madeFrom: ["X-Crew"] } };
    expect(await headersOf(flags, (_, response) => response.end("x"), carried)).toEqual([
      "private",
      "X-Crew, cookie, iudex-pass",
    ]);
    const shared = { options: { sharedCaches: true } };
    expect(await headersOf(flags, said("public, max-age=60"), shared)).toEqual([
      "public, max-age=60",
      "Accept-Encoding",
    ]);
  });

  it("leave an answer alone that asked for nothing, and mark one that did", async () => {
    const { flags } = await opened();
    const gate = gated(flags);
    const url = await serve((request, response) =>
      gate.pin(request, response, () => {
        if (request.url === "/asks") gate.of(request).value("mine");
        response.end("x");
      }),
    );
    const cached = async (path: string) => (await fetch(`${url}${path}`)).headers.get("cache-control");
    expect([await cached("/asks"), await cached("/asks-not")]).toEqual(["private", null]);
  });

  it("never keep an answer to a pass: open, closed, by one's own handler, between other gates", async () => {
    const { flags } = await opened();
    const pass = await signPass({ flags: { off: true }, environment: "production", expires: Date.now() + 60_000 }, key);
    const outer = gated(flags, { pass: false });
    const gate = gated(flags);
    const loud: RequestListener = (_, response) =>
      response.writeHead(200, { "cache-control": "public, max-age=60" }).end("x");
    const doors = {
      "/open": gate.closedUnless("off"),
      "/closed": gate.closedWhile("off"),
      "/own": gate.closedWhile("off", { handler: loud }),
      "/missing": gate.closedUnless("missing", { handler: loud }),
    };
    const url = await serve((request, response) =>
      outer.closedUnless("on")(request, response, () =>
        doors[request.url as keyof typeof doors](request, response, () =>
          outer.closedUnless("on")(request, response, () => loud(request, response)),
        ),
      ),
    );
    for (const path of Object.keys(doors)) {
      const answer = await fetch(`${url}${path}`, { headers: { "iudex-pass": pass } });
      expect([path, answer.headers.get("cache-control")]).toEqual([path, "no-store"]);
    }
    const inner = fetchGate(flags, { context: () => ({}) });
    const around = fetchGate(flags, { context: () => ({}), pass: false });
    const answer = () => new Response("x", { headers: { "cache-control": "public" } });
    const handlers = [
      around.closedUnless("on", inner.closedUnless("off", answer)),
      inner.closedUnless("off", around.closedUnless("on", answer)),
      inner.closedWhile("off", answer, { handler: answer }),
    ];
    for (const handler of handlers) {
      const { headers } = await handler(new Request("http://ferry.example/", { headers: { "iudex-pass": pass } }));
      expect(headers.get("cache-control")).toBe("no-store");
    }
  });

  it("and browsers find the headers that other hooks have set, on whatever the library answers", async () => {
    const { flags } = await opened();
    const app = fastify();
    const gate = nodeGate<undefined, import("fastify").FastifyRequest>(flags, { context: () => ({}) });
    app.addHook("onRequest", (_, reply, done) => {
      void reply.header("access-control-allow-origin", "https://ferry.example").header("content-security-policy", "x");
      done();
    });
    app.get("/closed", { preHandler: gate.closedUnless("off") }, () => "open");
    app.get("/values", gate.values({ only: ["on"] }));
    app.get("/changes", gate.changes({ only: ["on"] }));
    app.get("/full", gate.changes({ only: ["on"], maxListeners: 0 }));
    await app.listen({ port: 0, host: "127.0.0.1" });
    onTestFinished(() => {
      app.server.closeAllConnections();
      return app.close();
    });
    const { port } = app.server.address() as AddressInfo;
    for (const [path, status] of [
      ["/closed", 404],
      ["/values", 200],
      ["/changes", 200],
      ["/full", 503],
    ] as const) {
      const answer = await fetch(`http://127.0.0.1:${port}${path}`);
      const { headers } = answer;
      expect([
        path,
        answer.status,
        headers.get("access-control-allow-origin"),
        headers.get("content-security-policy"),
      ]).toEqual([path, status, "https://ferry.example", "x"]);
      await answer.body?.cancel();
    }
  });
});

describe("a stream", () => {
  it("ends when its pass has run out, when its key goes, and when nobody knows the person any more", async () => {
    const keys = [key];
    let known = true;
    const { flags } = await opened({ keysForPasses: () => ({ keys }) });
    const gate = nodeGate(flags, {
      context: () => (known ? { account: { id: "A-1" } } : Promise.reject(new Error("signed out"))),
    });
    const changes = gate.changes({ only: ["off"], every: 30, again: 60 });
    const url = await serve((request, response) => void changes(request, response));
    const pass = (expires: number) => signPass({ flags: { off: true }, environment: "production", expires }, key);
    const ended = async (init: RequestInit, then = () => {}) => {
      const { body } = await fetch(url, init);
      then();
      let text = "";
      for await (const chunk of body!.pipeThrough(new TextDecoderStream())) text += chunk;
      return /"off":(true|false)/.exec(text)?.[1];
    };
    const expires = Math.ceil(Date.now() / 1_000) * 1_000 + 1_000;
    expect(await ended({ headers: { "iudex-pass": await pass(expires) } })).toBe("true");
    expect(Date.now()).toBeGreaterThanOrEqual(expires);
    const long = await pass(Date.now() + 60_000);
    expect(await ended({ headers: { "iudex-pass": long } }, () => void keys.pop())).toBe("true");
    const signOut = () => {
      known = false;
    };
    expect(await ended({}, signOut)).toBe("false");
  });

  it("tells by the context of now, once that has been gathered again", async () => {
    const { flags } = await opened();
    let id = "A-1";
    const gate = nodeGate(flags, { context: () => ({ account: { id } }) });
    const changes = gate.changes({ only: ["mine"], every: 30, again: 40 });
    const url = await serve((request, response) => void changes(request, response));
    const { body } = await fetch(url);
    let text = "";
    for await (const chunk of body!.pipeThrough(new TextDecoderStream())) {
      text += chunk;
      if (text.includes('"one"')) id = "A-2";
      if (text.includes('"two"')) break;
    }
    expect(text.indexOf('"one"')).toBeLessThan(text.indexOf('"two"'));
  });

  it("of a slow client in the style of the Fetch standard is dropped with all that waits for it", async () => {
    const { flags } = await opened();
    const gate = fetchGate(flags, { context: () => ({}) });
    const changes = gate.changes({ only: ["on"], every: 10, maxWaiting: 200 });
    const { body } = await changes(new Request("http://ferry.example/"));
    await sleep(500);
    await expect(body!.getReader().read()).rejects.toThrow("The client takes nothing.");
  });

  it("for ten thousand is judged without keeping anybody else waiting", async () => {
    const { ChangeHub } = await import("../../src/http/change-hub.ts");
    const { folder, flags } = await opened();
    const hub = new ChangeHub<undefined>(flags as never, { only: ["mine", "early"] });
    let [told, isSaved] = [0, false];
    let allTold = () => {};
    // Nothing looks again and again: on a busy machine that would take more than what is looked for.
    const all = new Promise<void>((resolve) => {
      allTold = resolve;
    });
    const hear = () => {
      told++;
      if (isSaved && told === 9_998) allTold();
    };
    for (let i = 0; i < 10_000; i++) {
      const context = { account: { id: `A-${i}` }, since: new Date(i) };
      hub.add(listener(hear), { pinned: flags.pin(context) as never, context, pass: undefined });
    }
    [told, isSaved] = [0, true];
    let [turns, before] = [0, 0];
    const count = () => {
      turns++;
      if (told < 9_998) setImmediate(count);
    };
    setImmediate(count);
    flags.on("change", () => {
      before = turns;
    });
    await put(folder, "a.yaml", set.replace("safe: nobody", "safe: none"));
    await all;
    // Others had their turn while it went on.
    expect(turns - before).toBeGreaterThan(3);
  });
});

describe("what throws behind a gate", () => {
  it("ends no process in node:http, answers, is heard of, and calls nobody twice", async () => {
    const { flags } = await opened();
    const failures: unknown[] = [];
    const unhandled: unknown[] = [];
    const hear = (error: unknown) => void unhandled.push(error);
    process.on("unhandledRejection", hear);
    onTestFinished(() => void process.off("unhandledRejection", hear));
    const gate = nodeGate(flags, {
      context: ({ headers }) => (headers["person"] ? {} : Promise.reject(new Error("nobody"))),
      onFailure: (error) => failures.push(String(error)),
    });
    let called = 0;
    const explode = () => {
      called++;
      throw new Error("behind");
    };
    const ways: Record<string, (request: IncomingMessage, response: ServerResponse) => unknown> = {
      "/pin": (request, response) => gate.pin(request, response, explode),
      "/run": (request, response) => gate.run(request, response, explode),
      "/open": (request, response) => gate.closedUnless("on")(request, response, explode),
      "/own": (request, response) => gate.closedUnless("off", { handler: explode })(request, response, explode),
      "/divert": (request, response) =>
        gate.divert("on", { to: explode, otherwise: explode })(request, response, explode),
      "/values": (request, response) => gate.values({ only: ["on"] })(request, response),
      "/changes": (request, response) => gate.changes({ only: ["on"] })(request, response),
    };
    const url = await serve((request, response) => ways[request.url!]!(request, response));
    for (const path of ["/pin", "/run", "/open"]) {
      called = 0;
      expect([path, (await fetch(`${url}${path}`, { headers: { person: "A-1" } })).status]).toEqual([path, 500]);
      expect(called).toBe(1);
    }
    for (const path of ["/own", "/divert"]) {
      called = 0;
      expect([path, (await fetch(`${url}${path}`, { headers: { person: "A-1" } })).status]).toEqual([path, 500]);
      // The handler, and once whoever takes what fails.
      expect(called).toBe(2);
    }
    for (const path of ["/values", "/changes"]) expect((await fetch(`${url}${path}`)).status).toBe(500);
    await sleep(20);
    expect(unhandled).toEqual([]);
    expect(failures.filter((each) => each === "Error: behind")).toHaveLength(5);
    expect(failures.filter((each) => each === "Error: nobody")).toHaveLength(2);
  });

  it("is left to the framework that takes it", async () => {
    const { flags } = await opened();
    const app = express();
    const gate = nodeGate<undefined, express.Request>(flags, { context: () => ({}) });
    app.use(gate.pin);
    app.get("/", () => {
      throw new Error("behind");
    });
    const failed: express.ErrorRequestHandler = (error: Error, _request, response, _next) =>
      void response.status(418).send(error.message);
    app.use(failed);
    const url = await serve(app);
    const answer = await fetch(url);
    expect([answer.status, await answer.text()]).toEqual([418, "behind"]);
  });
});

it("streams end with close(), and the server then stops by itself", async () => {
  const { flags } = await opened();
  const gate = gated(flags);
  const changes = gate.changes({ only: ["on"] });
  const server = createServer((request, response) => void changes(request, response));
  await new Promise<void>((resolve) => server.listen(0, "127.0.0.1", resolve));
  const { port } = server.address() as AddressInfo;
  const answers = await Promise.all(
    Array.from(
      { length: 100 },
      () =>
        new Promise<IncomingMessage>((resolve) =>
          httpRequest({ port, host: "127.0.0.1", agent: false }, resolve).end(),
        ),
    ),
  );
  const ends = answers.map((answer) => new Promise<void>((resolve) => answer.resume().on("end", resolve)));
  await flags.close();
  await Promise.all(ends);
  await new Promise<void>((resolve) => server.close(() => resolve()));
});
