// What a service does for pages, on every kind of server: the first values, reports of what was seen, streams that end.
import { once } from "node:events";
import type { AddressInfo } from "node:net";
import express from "express";
import { followFlags, type VerdictEvent } from "iudex";
import { nodeGate } from "iudex/http";
import { describe, expect, it, onTestFinished } from "vitest";
import { folderWith, put } from "../support/folders.ts";
import { servers } from "../support/servers.ts";
import { listen } from "../support/stream.ts";
import { next } from "../support/waiting.ts";

const set = (text: string) => `iudex: 1
defaults: { by: account.id }
flags:
  zone-fares: { safe: false, rules: [{ when: 'account.id == "A-1"', give: true }] }
  seat-map: { safe: ${JSON.stringify(text)} }
  hold-minutes: { safe: 15 }
  storm-mode: { safe: false }
`;

async function opened(text = "list") {
  const folder = await folderWith({ "a.yaml": set(text) });
  const flags = await followFlags(folder, { watch: { quiet: 20 } });
  onTestFinished(() => flags.close());
  const events: VerdictEvent[] = [];
  flags.on("verdict", (event) => void events.push(event), { asked: "seen" });
  return { folder, flags, events };
}

const person = { person: "A-1" };

describe.each(servers)("%s", (_name, start) => {
  it("judges again what a page says that it has seen, and takes nothing else from it", async () => {
    const { flags, events } = await opened();
    const { address, failures } = await start(flags);
    const report = (body: string, type = "text/plain;charset=UTF-8") =>
      fetch(`${address}/seen`, { method: "POST", headers: { ...person, "content-type": type }, body });
    const names = ["zone-fares", "zone-fares", "hold-minutes", "no-such", 7];
    const answer = await report(JSON.stringify({ seen: names, values: { "zone-fares": false } }));
    expect([answer.status, answer.headers.get("cache-control")]).toEqual([204, "no-store"]);
    expect((await report('{"seen":["seat-map"]}', "application/json")).status).toBe(204);
    expect(events.map(({ subject, verdict: { flag, value, cause } }) => [subject, flag, value, cause])).toEqual([
      ["A-1", "zone-fares", true, "rule"],
      ["A-1", "seat-map", "list", "otherwise"],
    ]);
    for (const body of ["", "no JSON", "null", "[]", '{"seen":"zone-fares"}'])
      expect([body, (await report(body)).status]).toEqual([body, 400]);
    const got = await fetch(`${address}/seen`, { headers: person });
    expect([got.status, got.headers.get("allow")]).toEqual([405, "POST"]);
    expect(events).toHaveLength(2);
    expect(failures).toEqual([]);
  });

  it("refuses a report with a million names, and is there for the next one", async () => {
    const { flags, events } = await opened();
    const { address } = await start(flags);
    const seen = Array.from({ length: 1_000_000 }, (_, i) => `flag-${i}`);
    const report = (body: string) => fetch(`${address}/seen`, { method: "POST", headers: person, body });
    // Whoever still sends while it is being refused may find the connection closed.
    const status = await report(JSON.stringify({ seen })).then(
      (response) => response.status,
      () => 413,
    );
    expect(status).toBe(413);
    expect((await report(JSON.stringify({ seen: seen.slice(0, 1_001) }))).status).toBe(413);
    expect(events).toEqual([]);
    expect((await report('{"seen":["seat-map"]}')).status).toBe(204);
  });

  it("writes the first values into a page, where no value can end their element", async () => {
    const text = "</script><script>alert(1)</script><!-- &amp;\u2028";
    const { flags } = await opened(text);
    const { address } = await start(flags);
    const response = await fetch(`${address}/script`, { headers: person });
    const markup = await response.text();
    expect(response.headers.get("cache-control")).toContain("private");
    const [, attributes, json] = /^<script ([^>]*)>(.*)<\/script>$/.exec(markup)!;
    expect(attributes).toBe('type="application/json" id="flags" nonce="bm9uY2U="');
    expect(json).not.toMatch(/[<>&\u2028]/);
    const values = await (await fetch(`${address}/values`, { headers: person })).json();
    expect(JSON.parse(json!)).toEqual(values);
    expect(values).toMatchObject({ values: { "zone-fares": true, "seat-map": text } });
  });

  it("sends whoever comes back only what is new", async () => {
    const { folder, flags } = await opened();
    const { address } = await start(flags);
    const told = await listen(`${address}/changes`, { headers: person }).next();
    const again = { headers: { ...person, "last-event-id": told.data.id } };
    const back = listen(`${address}/changes`, again);
    await expect.poll(() => back.comments()).toBeGreaterThan(0);
    const changed = next(flags, "change");
    await put(folder, "a.yaml", set("deck-plan"));
    await changed;
    expect((await back.next()).data.values["seat-map"]).toBe("deck-plan");
    // What it knows is not what holds any more.
    expect((await listen(`${address}/changes`, again).next()).data.values["seat-map"]).toBe("deck-plan");
    // Everybody but that person already knows this.
    const other = { headers: { person: "A-9", "last-event-id": told.data.id } };
    expect((await listen(`${address}/changes`, other).next()).data.values["zone-fares"]).toBe(false);
  });

  it("stops although a hundred pages listen", async () => {
    const { flags } = await opened();
    const { address, stop } = await start(flags);
    const streams = Array.from({ length: 100 }, () => listen(`${address}/changes`, { headers: person }));
    await Promise.all(streams.map((stream) => stream.next()));
    await stop();
    await Promise.all(streams.map((stream) => stream.ended));
  });
});

it("refuses an id or a nonce that would end its attribute", async () => {
  const { flags } = await opened();
  const gate = nodeGate(flags, { context: () => ({}) });
  const request = { headers: {} } as never;
  gate.pin(request, { on() {}, writeHead() {} } as never, () => {});
  for (const options of [{ id: 'x" onload="y' }, { nonce: "a b" }, { nonce: "" }])
    expect(() => gate.pageScript(request, { only: ["seat-map"], ...options })).toThrow(
      "write letters, digits and -_+/=:. only",
    );
});

it("takes a report that a parser has left as bytes", async () => {
  const { flags, events } = await opened();
  const gate = nodeGate(flags, { context: () => ({ account: { id: "A-1" } }) });
  const app = express();
  app.use(gate.pin);
  app.post("/seen", express.raw({ type: "*/*" }), gate.seen({ only: ["seat-map"] }));
  const server = app.listen(0);
  onTestFinished(() => void server.close());
  await once(server, "listening");
  const address = `http://localhost:${(server.address() as AddressInfo).port}/seen`;
  const report = async (body: string) => (await fetch(address, { method: "POST", body })).status;
  expect([await report('{"seen":["seat-map"]}'), await report("no JSON")]).toEqual([204, 400]);
  expect(events).toHaveLength(1);
});
