import { get } from "node:http";
import { followFlags, type PassKey, signPass } from "iudex";
import { describe, expect, it, onTestFinished } from "vitest";
import { folderWith, put } from "../support/folders.ts";
import { listener } from "../support/listener.ts";
import { pageFlags, servers } from "../support/servers.ts";
import { listen } from "../support/stream.ts";
import { next, sleep } from "../support/waiting.ts";

const set = (minutes: number, storm = false) => `iudex: 1
environments: { production: {} }
defaults: { by: account.id }
cohorts: { team: { of: account.id, ids: [A-1, A-2] } }
flags:
  zone-fares: { safe: false, rules: [{ when: "cohort:team", give: true }] }
  seat-map: { variants: { classic: list, tour: walk-through }, safe: classic, rules: [{ when: 'account.id == "T-1"', give: tour }] }
  hold-minutes: { safe: ${minutes} }
  storm-mode: { safe: ${storm} }
`;

const key: PassKey = {
  kty: "oct",
  kid: "k",
  alg: "HS256",
  k: Buffer.from("a secret that is long enough to sign with").toString("base64url"),
};

async function opened(minutes = 15, storm = false) {
  const folder = await folderWith({ "a.yaml": set(minutes, storm) });
  const flags = await followFlags(folder, {
    environment: "production",
    keysForPasses: { keys: [key] },
    watch: { quiet: 20 },
  });
  onTestFinished(() => flags.close());
  return { folder, flags };
}

function as(person: string, more: Record<string, string> = {}): RequestInit {
  return { headers: { person, ...more } };
}

describe.each(servers)("%s", (_name, start) => {
  it("opens and closes addresses by flags, alone and joined, and closes what cannot be judged", async () => {
    const { flags } = await opened();
    const { address, failures } = await start(flags);
    const status = async (path: string, person: string) => (await fetch(`${address}${path}`, as(person))).status;
    const table: [string, string, number][] = [
      ["/open", "A-1", 200],
      ["/open", "A-9", 404],
      ["/open", "broken", 404],
      ["/while", "A-9", 200],
      ["/both", "A-1", 200],
      ["/both", "A-9", 404],
      ["/either", "A-1", 200],
      ["/either", "T-1", 200],
      ["/either", "A-9", 404],
      ["/unknown", "A-1", 404],
      ["/not-unknown", "A-1", 404],
      ["/own", "A-9", 410],
    ];
    for (const [path, person, expected] of table)
      expect([path, person, await status(path, person)]).toEqual([path, person, expected]);
    expect(failures.map(String)).toContain("Error: nobody knows this person");
    const { headers } = await fetch(`${address}/open`, as("A-9"));
    expect(headers.get("cache-control")).toBe("no-store");
  });

  it("closes while a flag is on, with the status asked for", async () => {
    const { flags } = await opened(15, true);
    const { address } = await start(flags);
    expect((await fetch(`${address}/while`, as("A-1"))).status).toBe(503);
    expect((await fetch(`${address}/both`, as("A-1"))).status).toBe(404);
  });

  it("diverts to the new way, and stays with the old one where nothing can be judged", async () => {
    const { flags } = await opened();
    const { address } = await start(flags);
    const answer = async (person: string) => (await fetch(`${address}/divert`, as(person))).text();
    expect([await answer("A-1"), await answer("A-9"), await answer("broken")]).toEqual(["new", "old", "old"]);
  });

  it("gathers the context once a request, and gives one answer however often it is asked", async () => {
    const { flags } = await opened();
    const { address, gathered } = await start(flags);
    const answer = (await (await fetch(`${address}/twice`, as("A-1"))).json()) as object;
    expect(answer).toEqual({ first: 15, second: 15, current: 15, revision: flags.revision });
    expect(gathered()).toBe(1);
    await fetch(`${address}/both`, as("A-1"));
    expect(gathered()).toBe(2);
  });

  it("gives one answer each to 200 requests at once while definitions change", async () => {
    const { folder, flags } = await opened(0);
    const { address } = await start(flags);
    let changing = true;
    const changes = (async () => {
      for (let i = 1; changing; i++) {
        await put(folder, "a.yaml", set(i));
        await sleep(40);
      }
    })();
    const seen = new Map<string, number>();
    for (let round = 0; round < 2 || seen.size < 2; round++) {
      const answers = await Promise.all(
        Array.from(
          { length: 200 },
          async (_, i) =>
            (await fetch(`${address}/twice`, as(`P-${i}`))).json() as Promise<{
              first: number;
              second: number;
              current: number;
              revision: string;
            }>,
        ),
      );
      for (const { first, second, current, revision } of answers) {
        expect([second, current]).toEqual([first, first]);
        // A revision always stands for the same value.
        expect(seen.get(revision) ?? first).toBe(first);
        seen.set(revision, first);
      }
      await sleep(100);
    }
    changing = false;
    await changes;
  });

  it("takes a pass from header or cookie for that person's own request, and lets nobody keep the answer", async () => {
    const { flags } = await opened();
    const { address } = await start(flags);
    const token = await signPass(
      { flags: { "zone-fares": true }, environment: "production", expires: Date.now() + 60_000 },
      key,
    );
    const old = await signPass(
      { flags: { "zone-fares": true }, environment: "production", expires: Date.now() - 1_000 },
      key,
    );
    const ask = (headers: Record<string, string>) => fetch(`${address}/both`, as("A-9", headers));
    for (const headers of [{ "iudex-pass": token }, { cookie: `other=1; iudex-pass=${token}` }]) {
      const answer = await ask(headers);
      expect([answer.status, answer.headers.get("cache-control")]).toEqual([200, "no-store"]);
    }
    expect((await ask({})).status).toBe(404);
    expect((await ask({ "iudex-pass": old })).status).toBe(404);
    expect((await ask({ cookie: "iudex-pass=nonsense" })).status).toBe(404);
  });

  it("tells in a header what was asked and what it gave", async () => {
    const { flags } = await opened();
    const { address } = await start(flags);
    const { headers } = await fetch(`${address}/both`, as("A-1"));
    expect(headers.get("iudex-verdicts")).toBe(
      '"zone-fares";value=?1;cause=rule;rule=1, "storm-mode";value=?0;cause=otherwise',
    );
  });

  it("gives a page its values, and again only when they have changed", async () => {
    const { flags } = await opened();
    const { address } = await start(flags);
    const first = await fetch(`${address}/values`, as("T-1"));
    expect(await first.json()).toEqual({
      revision: flags.revision,
      id: expect.any(String) as string,
      values: { "zone-fares": false, "seat-map": "walk-through" },
      for: expect.stringMatching(/^[\w-]{22}$/) as string,
    });
    expect(first.headers.get("cache-control")).toBe("private, no-cache");
    const etag = first.headers.get("etag")!;
    const again = await fetch(`${address}/values`, as("T-1", { "if-none-match": etag }));
    expect([again.status, await again.text()]).toEqual([304, ""]);
    expect((await fetch(`${address}/values`, as("A-1", { "if-none-match": etag }))).status).toBe(200);
  });

  it("streams the values of the listed flags to each person, and changes as they come", async () => {
    const { folder, flags } = await opened();
    const { address } = await start(flags);
    const one = listen(`${address}/changes`, as("A-1"));
    const other = listen(`${address}/changes`, as("A-9"));
    expect((await one.next()).data.values).toEqual({ "zone-fares": true, "seat-map": "list" });
    expect(await other.next()).toMatchObject({
      event: "flags",
      data: { values: { "zone-fares": false, "seat-map": "list" } },
    });
    expect((await one.opened).headers.get("content-type")).toMatch(/^text\/event-stream/);
    const changed = next(flags, "change");
    await put(folder, "a.yaml", set(15).replace("ids: [A-1, A-2]", "ids: [A-9]"));
    await changed;
    expect((await one.next()).data.values["zone-fares"]).toBe(false);
    expect((await other.next()).data).toEqual({
      revision: flags.revision,
      id: expect.any(String) as string,
      values: { "zone-fares": true, "seat-map": "list" },
      for: expect.any(String) as string,
    });
    await expect.poll(() => one.comments()).toBeGreaterThan(0);
  });

  it("ends its streams when the flags are closed, so that the server stops by its own shutdown", async () => {
    const { flags } = await opened();
    const { address, stop } = await start(flags);
    const streams = ["A-1", "A-9"].map((person) => listen(`${address}/changes`, as(person)));
    await Promise.all(streams.map((stream) => stream.next()));
    await flags.close();
    await Promise.all(streams.map((stream) => stream.ended));
    await stop();
  });

  it("takes no listener any more once the flags are closed", async () => {
    const { flags } = await opened();
    const { address } = await start(flags);
    await flags.close();
    expect((await fetch(`${address}/changes`, as("A-1"))).status).toBe(503);
    expect((await fetch(`${address}/values`, as("A-1"))).status).toBe(200);
  });

  it("says nothing on a stream while the values stay as they are", async () => {
    const { folder, flags } = await opened();
    const { address } = await start(flags);
    const stream = listen(`${address}/changes`, as("A-1"));
    await stream.next();
    const changed = next(flags, "change");
    await put(folder, "a.yaml", set(20));
    await changed;
    const storm = next(flags, "change");
    await put(folder, "a.yaml", set(20).replace("ids: [A-1, A-2]", "ids: [A-2]"));
    await storm;
    // The first change concerned nothing that the page is told of, so the second one is the first that it hears of.
    expect((await stream.next()).data).toMatchObject({ revision: flags.revision, values: { "zone-fares": false } });
  });

  it("turns listeners away when there are too many, and forgets those that leave", async () => {
    const { flags } = await opened();
    const { address } = await start(flags);
    const streams = Array.from({ length: 100 }, () => listen(`${address}/changes`, as("A-1")));
    await Promise.all(streams.map((stream) => stream.next()));
    expect((await fetch(`${address}/changes`, as("A-1"))).status).toBe(503);
    for (const stream of streams) stream.end();
    let late = listen(`${address}/changes`, as("A-1"));
    while ((await late.opened).status === 503) late = listen(`${address}/changes`, as("A-1"));
    expect((await late.next()).data.values["zone-fares"]).toBe(true);
    expect(pageFlags).toContain("zone-fares");
  });
});

it("drops a listener that takes nothing, and goes on telling the others", async () => {
  const { createServer } = await import("node:http");
  const { nodeGate } = await import("iudex/http");
  const folder = await folderWith({ "a.yaml": long("a") });
  const flags = await followFlags(folder, { watch: { quiet: 20 } });
  onTestFinished(() => flags.close());
  const gate = nodeGate(flags, { context: () => ({}) });
  // One event of 400 kB may wait for whoever reads, however late it gets to it; what a socket takes by itself is some MB.
  const changes = gate.changes({ only: ["long"], maxWaiting: 1_000_000 });
  const server = createServer((request, response) => changes(request, response, () => response.end()));
  await new Promise<void>((resolve) => server.listen(0, "127.0.0.1", resolve));
  onTestFinished(() => new Promise<void>((resolve) => server.close(() => resolve())));
  const { port } = server.address() as { port: number };
  const url = `http://127.0.0.1:${port}/`;
  const dropped = new Promise<void>((resolve) => {
    server.once("connection", (socket) => socket.on("close", () => resolve()));
  });
  // It never reads, so that what is sent to it waits.
  const sleeper = get(url, (response) => response.pause());
  sleeper.on("error", () => {});
  await new Promise((resolve) => sleeper.on("response", resolve));
  const other = listen(url, {});
  await other.next();
  for (let i = 0; i < 60; i++) {
    await put(folder, "a.yaml", long(String(i)));
    const { data } = await other.next();
    expect(String(data.values["long"]).length).toBe(400_000);
    if (await Promise.race([dropped.then(() => true), sleep(10).then(() => false)])) return;
  }
  throw new Error("it was never dropped");
});

function long(seed: string): string {
  return `iudex: 1\nflags: { long: { safe: "${seed.padEnd(400_000, "x")}" } }\n`;
}

it("keeps a pass's answer out of every cache, and tells all verdicts, with a second gate on the request", async () => {
  const { createServer } = await import("node:http");
  const { nodeGate } = await import("iudex/http");
  const { flags } = await opened();
  const context = () => ({ account: { id: "A-9" } });
  const first = nodeGate(flags, { context, pass: false, verdictHeader: true });
  const second = nodeGate(flags, { context, verdictHeader: true });
  const server = createServer((request, response) => {
    first.pin(request, response, () => {
      first.of(request).value("storm-mode");
      second.pin(request, response, () => response.end(String(second.of(request).value("zone-fares"))));
    });
  });
  await new Promise<void>((resolve) => server.listen(0, "127.0.0.1", resolve));
  onTestFinished(() => new Promise<void>((resolve) => server.close(() => resolve())));
  const { port } = server.address() as { port: number };
  const pass = await signPass(
    { flags: { "zone-fares": true }, environment: "production", expires: Date.now() + 60_000 },
    key,
  );
  const answer = await fetch(`http://127.0.0.1:${port}/`, { headers: { "iudex-pass": pass } });
  expect([await answer.text(), answer.headers.get("cache-control")]).toEqual(["true", "no-store"]);
  expect(answer.headers.get("iudex-verdicts")).toContain('"zone-fares"');
  expect(answer.headers.get("iudex-verdicts")).toContain('"storm-mode"');
});

it("judges once for all listeners whose contexts are equal", async () => {
  const { ChangeHub } = await import("../../src/http/change-hub.ts");
  const { folder, flags } = await opened();
  const hub = new ChangeHub<undefined>(flags as never, { only: ["zone-fares"] });
  const judged: unknown[] = [];
  flags.on("verdict", ({ asked }) => judged.push(asked));
  const got: string[] = [];
  const taking = () => listener((text) => void got.push(text));
  const request = (id: string) => ({ pinned: flags.pin({}), context: { account: { id } }, pass: undefined });
  const leave = [
    ...Array.from({ length: 500 }, () => hub.add(taking(), request("A-1") as never)),
    hub.add(taking(), request("A-9") as never),
  ];
  expect(judged).toEqual(Array.from({ length: 501 }, () => "page"));
  const changed = next(flags, "change");
  await put(folder, "a.yaml", set(15).replace("ids: [A-1, A-2]", "ids: [A-3]"));
  await changed;
  // What the second person gets stays the same, so nothing is said of it.
  await expect.poll(() => got.length).toBe(501 + 500);
  expect(judged).toHaveLength(501 + 1);
  for (const each of leave) each();
});

it("hands on what a strict program asks for in vain, and keeps its streams when a flag goes", async () => {
  const { createServer } = await import("node:http");
  const { nodeGate } = await import("iudex/http");
  const folder = await folderWith({ "a.yaml": "iudex: 1\nflags: { a: { safe: 1 }, b: { safe: 2 } }\n" });
  const flags = await followFlags(folder, { strict: true, watch: { quiet: 20 } });
  onTestFinished(() => flags.close());
  const gate = nodeGate(flags, { context: () => ({}) });
  const routes = {
    "/values": gate.values({ only: ["nobody"] }),
    "/stream": gate.changes({ only: ["nobody"] }),
    "/good": gate.changes({ only: ["a", "b"], every: 50 }),
  };
  const server = createServer((request, response) => {
    routes[request.url as keyof typeof routes](request, response, (error) =>
      response.writeHead(500).end(error?.message),
    );
  });
  await new Promise<void>((resolve) => server.listen(0, "127.0.0.1", resolve));
  onTestFinished(() => {
    server.closeAllConnections();
    server.close();
  });
  const { port } = server.address() as { port: number };
  for (const path of ["/values", "/stream"]) {
    const answer = await fetch(`http://127.0.0.1:${port}${path}`);
    expect([answer.status, await answer.text()]).toEqual([500, "There is no flag “nobody”."]);
  }
  const stream = listen(`http://127.0.0.1:${port}/good`, {});
  expect((await stream.next()).data.values).toEqual({ a: 1, b: 2 });
  const gone = next(flags, "change");
  await put(folder, "a.yaml", "iudex: 1\nflags: { a: { safe: 3 } }\n");
  await gone;
  await sleep(150);
  const back = next(flags, "change");
  await put(folder, "a.yaml", "iudex: 1\nflags: { a: { safe: 3 }, b: { safe: 2 } }\n");
  await back;
  expect((await stream.next()).data.values).toEqual({ a: 3, b: 2 });
});
