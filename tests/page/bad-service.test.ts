// The client against services that do not do as they should: real ones, on the loopback.
import type { RequestListener, ServerResponse } from "node:http";
import { data, defineCatalogue, number, text, yesNo } from "iudex/catalogue";
import { type FollowPageOptions, followPage, type PageProblem } from "iudex/page";
import { expect, it, onTestFinished, vi } from "vitest";
import { serve } from "../support/serve.ts";
import { sleep } from "../support/waiting.ts";

const catalogue = defineCatalogue({
  "storm-mode": yesNo({ fallback: false }),
  "seat-map": text(["list", "deck-plan"], { fallback: "list" }),
  "hold-minutes": number({ fallback: 15 }),
  "check-in": data({ fallback: { lanes: 1 } }),
});

const told = (values: Record<string, unknown>, revision = "r1", id = revision) => ({ revision, id, values });
const good = told({ "storm-mode": true, "seat-map": "deck-plan", "hold-minutes": 20, "check-in": { lanes: 2 } });
const event = (what: object) => `event: flags\ndata: ${JSON.stringify(what)}\n\n`;

function follow(options: FollowPageOptions<typeof catalogue>) {
  const problems: PageProblem[] = [];
  const flags = followPage({ catalogue, onProblem: (problem) => problems.push(problem), ...options });
  onTestFinished(() => flags.close());
  return { flags, problems };
}

const html = (response: ServerResponse, status = 200) =>
  response.writeHead(status, { "content-type": "text/html" }).end("<!doctype html><title>Sign in</title>");

const bad: Record<string, { answer: RequestListener; says: string }> = {
  "a page for signing in": { answer: (_, response) => html(response), says: "found 200 text/html" },
  "a redirect to one": {
    answer: ({ url }, response) =>
      url === "/sign-in" ? html(response) : response.writeHead(302, { location: "/sign-in" }).end(),
    says: "found 200 text/html",
  },
  "401": { answer: (_, response) => html(response, 401), says: "found 401" },
  "403": { answer: (_, response) => html(response, 403), says: "found 403" },
  "500": { answer: (_, response) => response.writeHead(500).end(), says: "found 500" },
  "a cut connection": { answer: (_, response) => response.destroy(), says: "fetch failed" },
};

// All at once, since each waits for a second try.
it("holds the last values while something else stands in place of the stream, tells of it once, and gets over it", () =>
  Promise.all(
    Object.entries(bad).map(async ([kind, { answer, says }]) => {
      let isWell = false;
      let tries = 0;
      const address = await serve((request, response) => {
        if (request.url === "/changes") tries++;
        if (request.url !== "/changes" || !isWell) return void answer(request, response);
        response.writeHead(200, { "content-type": "text/event-stream" }).write(event(good));
      });
      const first = told({ "storm-mode": false, "seat-map": "deck-plan" }, "r0");
      const { flags, problems } = follow({ first, changes: `${address}/changes` });
      await expect.poll(() => tries).toBeGreaterThan(1);
      expect([kind, flags.value("seat-map"), flags.value("hold-minutes")]).toEqual([kind, "deck-plan", 15]);
      expect(problems).toEqual([{ at: "changes", message: expect.stringContaining(says) as string }]);
      isWell = true;
      await expect.poll(() => flags.value("hold-minutes")).toBe(20);
    }),
  ));

it.each([
  ["words", "data data data\n\n"],
  ["a wrong shape", event({ values: 5 })],
  ["no JSON", "event: flags\ndata: {not\n\n"],
  ["nothing", "event: flags\ndata: null\n\n"],
])("is not led astray by a stream of %s, and takes the values instead", async (_, garbage) => {
  const address = await serve(({ url }, response) => {
    if (url === "/values")
      return void response.writeHead(200, { "content-type": "application/json" }).end(JSON.stringify(good));
    response.writeHead(200, { "content-type": "text/event-stream" });
    response.end(garbage);
  });
  const { flags } = follow({ changes: `${address}/changes`, values: `${address}/values` });
  await expect.poll(() => flags.snapshot().revision).toBe("r1");
  expect(flags.value("seat-map")).toBe("deck-plan");
});

it("asks for the values where something on the way holds the stream back", async () => {
  let streams = 0;
  const address = await serve(({ url }, response) => {
    if (url === "/changes") streams++;
    else response.writeHead(200, { "content-type": "application/json" }).end(JSON.stringify(good));
  });
  const { flags, problems } = follow({ changes: `${address}/changes`, values: `${address}/values` });
  await expect.poll(() => flags.value("hold-minutes")).toBe(20);
  expect([streams, problems]).toEqual([1, [{ at: "changes", message: expect.stringContaining("Abort") as string }]]);
});

it.each([
  ["event without an end", "text/event-stream", "changes", "data: ".padEnd(65_536, "x")],
  ["answer without an end", "application/json", "values", " ".repeat(65_536)],
])("gives an %s up", async (_, type, at, piece) => {
  let sent = 0;
  let isGone = false;
  const address = await serve((_, response) => {
    response.writeHead(200, { "content-type": type });
    const more = () => {
      while (!response.destroyed && response.write(piece)) sent += piece.length;
    };
    response.on("drain", more);
    response.on("close", () => {
      isGone = true;
    });
    more();
  });
  const { problems } = follow({ [at]: `${address}/endless` });
  await expect.poll(() => isGone).toBe(true);
  expect(problems).toEqual([{ at, message: "Error: found no end" }]);
  expect(sent).toBeLessThan(50_000_000);
});

it("comes back no sooner than a service says, in seconds or with a date", () =>
  Promise.all(
    [() => "3", () => new Date(Date.now() + 4_000).toUTCString()].map(async (after) => {
      const asked: number[] = [];
      let announced = 0;
      const address = await serve((_, response) => {
        asked.push(Date.now());
        if (asked.length > 1)
          return void response.writeHead(200, { "content-type": "text/event-stream" }).write(event(good));
        const header = after();
        announced = Number(header) ? Date.now() + Number(header) * 1_000 : Date.parse(header);
        response.writeHead(503, { "retry-after": header }).end();
      });
      const { flags } = follow({ changes: `${address}/changes` });
      await expect.poll(() => flags.value("storm-mode")).toBe(true);
      expect(asked[1]).toBeGreaterThanOrEqual(announced - 5);
    }),
  ));

it("gives the fallback for a value of another type, says so once, and takes the rest", async () => {
  const lines: string[] = [];
  const wrong = told({ "storm-mode": "yes", "seat-map": "tour", "hold-minutes": 30, "check-in": null, unlisted: 1 });
  const address = await serve((_, response) => {
    response.writeHead(200, { "content-type": "text/event-stream" });
    for (const i of [1, 2, 3]) response.write(event({ ...wrong, revision: `r${i}` }));
  });
  const { flags, problems } = follow({ changes: `${address}/changes` });
  flags.subscribe(() => lines.push(String(flags.snapshot().revision)));
  await expect.poll(() => flags.snapshot().revision).toBe("r3");
  expect(flags.snapshot().values).toEqual({
    "storm-mode": false,
    "seat-map": "list",
    "hold-minutes": 30,
    "check-in": { lanes: 1 },
  });
  expect(problems).toEqual([
    { at: "value", message: 'storm-mode: found "yes", against the catalogue' },
    { at: "value", message: 'seat-map: found "tour", against the catalogue' },
    { at: "value", message: "check-in: found null, against the catalogue" },
  ]);
  expect(lines).toEqual(["r1", "r2", "r3"]);
});

it("goes on although those who listen throw", async () => {
  const rejected: unknown[] = [];
  const heard = (error: unknown) => void rejected.push(error);
  const before = process.listeners("unhandledRejection");
  process.removeAllListeners("unhandledRejection").on("unhandledRejection", heard);
  onTestFinished(() => {
    process.removeAllListeners("unhandledRejection");
    for (const listener of before) process.on("unhandledRejection", listener);
  });
  let write = (_: string) => {};
  let streams = 0;
  const address = await serve((_, response) => {
    streams++;
    response.writeHead(200, { "content-type": "text/event-stream" });
    write = (what) => void response.write(what);
    write(event(told({ "storm-mode": "yes" })));
  });
  const broken = new Error("a broken listener");
  const flags = followPage({
    catalogue,
    changes: `${address}/changes`,
    onProblem: () => {
      throw broken;
    },
  });
  onTestFinished(() => flags.close());
  flags.subscribe(() => {
    throw broken;
  });
  let heardOf = 0;
  flags.subscribe(() => heardOf++);
  await expect.poll(() => heardOf).toBe(1);
  write(event(good));
  await expect.poll(() => flags.value("hold-minutes")).toBe(20);
  expect([streams, heardOf]).toEqual([1, 2]);
  // The page hears of its own faults: once of a value, twice of a change.
  await expect.poll(() => rejected).toEqual([broken, broken, broken]);
});

it("waits for a year where a service says so, and is not kept busy by that", async () => {
  let asked = 0;
  const address = await serve((_, response) => {
    asked++;
    response.writeHead(503, { "retry-after": String(365 * 86_400) }).end();
  });
  follow({ changes: `${address}/changes` });
  await expect.poll(() => asked).toBe(1);
  // A timer that is set too far ahead goes off at once, over and over.
  const timers = vi.spyOn(globalThis, "setTimeout");
  onTestFinished(() => timers.mockRestore());
  await sleep(500);
  expect(asked).toBe(1);
  expect(timers.mock.calls.length).toBeLessThan(10);
});

it("finds nothing under names that nobody told of, whatever objects are born with", () => {
  const flags = followPage({ first: told({ known: 1 }) });
  expect(["known", "toString", "__proto__", "constructor"].map((name) => flags.value(name))).toEqual([
    1,
    undefined,
    undefined,
    undefined,
  ]);
});

it("keeps snapshot and data the same objects until something changes", async () => {
  let write = (_: string) => {};
  const address = await serve((_, response) => {
    response.writeHead(200, { "content-type": "text/event-stream" });
    write = (what) => void response.write(what);
    write(event(good));
  });
  const { flags } = follow({ changes: `${address}/changes` });
  await expect.poll(() => flags.snapshot().revision).toBe("r1");
  const before = flags.snapshot();
  expect(flags.snapshot()).toBe(before);
  expect([flags.values, flags.revision]).toEqual([before.values, "r1"]);
  expect(flags.values).toBe(before.values);
  write(event(good));
  write(event({ ...good, revision: "r2" }));
  await expect.poll(() => flags.snapshot().revision).toBe("r2");
  expect(flags.snapshot().values).toBe(before.values);
  write(event(told({ ...good.values, "hold-minutes": 5 }, "r3")));
  await expect.poll(() => flags.snapshot().revision).toBe("r3");
  expect(flags.snapshot().values["check-in"]).toBe(before.values["check-in"]);
  expect(flags.snapshot().values).not.toBe(before.values);
  expect(flags.firstSnapshot().revision).toBe(undefined);
});

it("asks with the id that it knows, its own headers and what the person is known by", async () => {
  const asked: object[] = [];
  const address = await serve(({ url, headers }, response) => {
    const { "last-event-id": known, "if-none-match": tag, person } = headers;
    asked.push({ url, known, tag, person });
    response.writeHead(200, { "content-type": "text/event-stream" }).end(event(good));
  });
  const { flags } = follow({
    first: told({}, "r0", "known"),
    changes: `${address}/changes?app=1`,
    headers: () => ({ person: "A-17" }),
  });
  await expect.poll(() => asked.length).toBeGreaterThan(1);
  expect(asked.slice(0, 2)).toEqual([
    { url: "/changes?app=1", known: "known", tag: 'W/"known"', person: "A-17" },
    { url: "/changes?app=1", known: "r1", tag: 'W/"r1"', person: "A-17" },
  ]);
  asked.length = 0;
  await flags.as({ party: "4", who: "a&b" });
  expect(asked[0]).toMatchObject({ url: "/changes?app=1&party=4&who=a%26b", known: "" });
});

it("forgets the answers to another person at once, and hears no more of them", async () => {
  const streams: ServerResponse[] = [];
  const address = await serve((_, response) => {
    response.writeHead(200, { "content-type": "text/event-stream" });
    streams.push(response);
    if (streams.length === 1) response.write(event(good));
  });
  const { flags } = follow({ changes: `${address}/changes` });
  await expect.poll(() => flags.value("storm-mode")).toBe(true);
  let isThere = false;
  const there = flags.as().then(() => {
    isThere = true;
  });
  expect(flags.value("storm-mode")).toBe(false);
  streams[0]!.write(event({ ...good, revision: "late" }));
  await expect.poll(() => streams.length).toBe(2);
  await sleep(50);
  expect([isThere, flags.snapshot().revision]).toEqual([false, undefined]);
  streams[1]!.write(event(told({ "hold-minutes": 7 }, "r2")));
  await there;
  expect(flags.value("hold-minutes")).toBe(7);
  // Whoever waits is not left waiting by a page that closes.
  const never = flags.as();
  flags.close();
  await never;
});

it("without an address stays with what it was handed, as on a server", async () => {
  const flags = followPage({ catalogue, first: good });
  expect(flags.value("hold-minutes")).toBe(20);
  await flags.as();
  expect(flags.value("hold-minutes")).toBe(15);
  flags.close();
});

it("says what is wrong with the first values, and goes on with the fallbacks", () => {
  const { flags, problems } = follow({ first: "#flags" });
  expect(flags.value("hold-minutes")).toBe(15);
  expect(problems).toMatchObject([{ at: "first" }]);
});

it("reports what was asked for, once at each revision, and again what did not arrive", async () => {
  const reports: unknown[] = [];
  let status = 500;
  let write = (_: string) => {};
  const address = await serve((request, response) => {
    if (request.url === "/changes") {
      response.writeHead(200, { "content-type": "text/event-stream" });
      write = (what) => void response.write(what);
      return write(event(good));
    }
    let body = "";
    request.on("data", (piece) => {
      body += String(piece);
    });
    request.on("end", () => {
      reports.push(JSON.parse(body));
      response.writeHead(status).end();
    });
  });
  const { flags, problems } = follow({ changes: `${address}/changes`, seen: `${address}/seen` });
  // A fallback was told by nobody.
  flags.value("hold-minutes");
  await expect.poll(() => flags.snapshot().revision).toBe("r1");
  for (let i = 0; i < 3; i++) flags.value("storm-mode");
  flags.value("seat-map");
  await expect.poll(() => reports).toEqual([{ seen: ["storm-mode", "seat-map"] }]);
  await expect.poll(() => problems).toMatchObject([{ at: "seen", message: "Error: found 500" }]);
  status = 204;
  flags.value("hold-minutes");
  await expect.poll(() => reports).toHaveLength(2);
  expect(reports[1]).toEqual({ seen: ["storm-mode", "seat-map", "hold-minutes"] });
  write(event({ ...good, revision: "r2" }));
  await expect.poll(() => flags.snapshot().revision).toBe("r2");
  flags.value("storm-mode");
  // The page goes: what waits is sent at once.
  flags.close();
  await expect.poll(() => reports).toHaveLength(3);
  expect(reports[2]).toEqual({ seen: ["storm-mode"] });
});
