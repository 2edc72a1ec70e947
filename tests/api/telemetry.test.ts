import { setImmediate } from "node:timers/promises";
import { context, trace } from "@opentelemetry/api";
import { AsyncLocalStorageContextManager } from "@opentelemetry/context-async-hooks";
import { BasicTracerProvider, InMemorySpanExporter, SimpleSpanProcessor } from "@opentelemetry/sdk-trace-base";
import { spanEvents, verdictCounter, verdictLog } from "iudex";
import { flagsFrom } from "iudex/testing";
import { describe, expect, it } from "vitest";
import { collected } from "../support/waiting.ts";

const flagsHere = (rest: object = {}) =>
  flagsFrom(
    {
      defaults: { by: "account.id" },
      ...rest,
      flags: {
        fares: { safe: false, rules: [{ name: "often", when: "trips > 100", give: true }] },
        seats: { variants: { list: 1, deck: 2 }, safe: "list" },
      },
    },
    { clock: () => Date.parse("2026-12-01T09:00Z"), strict: false },
  );
const oda = { account: { id: "A-17" }, trips: 140 };

describe("verdict events", () => {
  it("tell of each verdict, with the subject's id and nothing else of the context", () => {
    const flags = flagsHere();
    const events = collected(flags, "verdict");
    flags.value("fares", oda);
    flags.pin(oda).value("seats");
    flags.value("nobody", oda);
    expect(events.map(({ verdict, subject }) => [verdict.flag, verdict.cause, subject])).toEqual([
      ["fares", "rule", "A-17"],
      ["seats", "otherwise", "A-17"],
      ["nobody", "fallback", undefined],
    ]);
    expect(JSON.stringify(events[0])).not.toContain("140");
    expect(events[0]?.explain()?.steps).toHaveLength(1);
  });

  it("hide a private id, are sampled by subject, and come only once if asked", () => {
    const hidden = flagsHere({ attributes: { "account.id": { type: "text", private: true }, trips: "number" } });
    const events = collected(hidden, "verdict");
    hidden.value("fares", oda);
    expect(events[0]?.subject).toBe("•••");

    const flags = flagsHere();
    const sampled: unknown[] = [];
    const distinct: unknown[] = [];
    flags.on("verdict", ({ subject }) => sampled.push(subject), { share: 0.2 });
    const off = flags.on("verdict", ({ subject }) => distinct.push(subject), { distinct: true });
    for (let round = 0; round < 2; round++)
      for (let i = 0; i < 1_000; i++) flags.value("fares", { account: { id: i } });
    expect(distinct).toHaveLength(1_000);
    expect(Math.abs(sampled.length / 2_000 - 0.2)).toBeLessThan(0.05);
    expect(new Set(sampled).size * 2).toBe(sampled.length);
    off();
    flags.value("fares", { account: { id: "new" } });
    expect(distinct).toHaveLength(1_000);
  });

  it("go to each listener by its own share, whoever else listens and leaves, twice even", () => {
    const flags = flagsHere();
    const counts = { none: 0, few: 0, many: 0, all: 0 };
    const listen = (name: keyof typeof counts, share?: number) =>
      flags.on("verdict", () => void counts[name]++, share === undefined ? {} : { share });
    const ask = () => {
      for (const name of Object.keys(counts) as (keyof typeof counts)[]) counts[name] = 0;
      for (let i = 0; i < 1_000; i++) flags.value("fares", { account: { id: i } });
      return { ...counts };
    };
    listen("none", 0);
    listen("few", 0.1);
    const leave = listen("many", 0.5);
    const { few, many } = ask();
    expect([few > 50 && few < 150, many > 400 && many < 600]).toEqual([true, true]);
    const off = listen("all");
    expect(ask()).toEqual({ none: 0, few, many, all: 1_000 });
    off();
    off();
    expect(ask()).toEqual({ none: 0, few, many, all: 0 });
    leave();
    expect(ask()).toEqual({ none: 0, few, many: 0, all: 0 });
  });

  it("of a share of private subjects are told by who they are, not by how they are told", () => {
    const flags = flagsFrom({
      attributes: { email: { type: "text", private: true } },
      flags: { a: { safe: false, rules: [{ share: "50%", by: "email", give: true }], by: "email" } },
    });
    const told: (string | undefined)[] = [];
    flags.on("verdict", ({ subject }) => told.push(subject), { share: 0.5 });
    for (let i = 0; i < 1_000; i++) flags.value("a", { email: `p${i}@post.example` });
    expect(told.length).toBeGreaterThan(400);
    expect(told.length).toBeLessThan(600);
    expect(new Set(told)).toEqual(new Set(["•••"]));
  });

  it("are written as NDJSON", () => {
    const flags = flagsHere();
    const lines: string[] = [];
    flags.on("verdict", verdictLog({ write: (line) => lines.push(line) }));
    flags.value("fares", oda);
    flags.value("seats", oda);
    expect(lines.map((line) => JSON.parse(line) as unknown)).toEqual([
      {
        at: "2026-12-01T09:00:00.000Z",
        asked: "program",
        subject: "A-17",
        flag: "fares",
        value: true,
        cause: "rule",
        rule: 1,
        ruleName: "often",
        revision: flags.revision,
        outside: [],
      },
      {
        at: "2026-12-01T09:00:00.000Z",
        asked: "program",
        subject: "A-17",
        flag: "seats",
        value: 1,
        variant: "list",
        cause: "otherwise",
        revision: flags.revision,
        outside: [],
      },
    ]);
    expect(lines.every((line) => line.endsWith("\n"))).toBe(true);
  });

  it("are counted by cause, and undecided tests by attribute", () => {
    const flags = flagsHere();
    const counter = verdictCounter();
    flags.on("verdict", counter.listener);
    for (const trips of [140, 3, undefined, "many"]) flags.value("fares", { trips });
    expect(counter.counts().get("fares")).toEqual({ causes: { rule: 1, otherwise: 3 }, undecided: { trips: 2 } });
  });

  it("are counted however many different answers there were", () => {
    const flags = flagsHere();
    const counter = verdictCounter();
    flags.on("verdict", counter.listener);
    for (let i = 0; i < 10_500; i++) flags.value("nobody", { trips: i });
    flags.value("fares", oda);
    expect(counter.counts().get("nobody")).toEqual({ causes: { fallback: 10_500 }, undecided: {} });
    flags.value("fares", oda);
    expect(counter.counts().get("fares")).toEqual({ causes: { rule: 2 }, undecided: {} });
  });

  it("do no harm if a listener for some of them breaks its promise", async () => {
    const flags = flagsHere();
    const unhandled: unknown[] = [];
    const hear = (reason: unknown) => unhandled.push(reason);
    process.on("unhandledRejection", hear);
    let told = 0;
    for (const options of [{}, { share: 1, distinct: true }, { asked: "program" as const }])
      flags.on("verdict", () => Promise.reject(new Error(`broken ${told++}`)) as never, options);
    flags.value("fares", oda);
    await setImmediate();
    process.off("unhandledRejection", hear);
    expect([told, unhandled]).toEqual([3, []]);
  });

  it("are listened to by a name that there is", () => {
    const flags = flagsHere();
    expect(() => flags.on("verdicts" as never, () => {})).toThrow(
      "There is no event “verdicts”; did you mean verdict?",
    );
    expect(() => flags.on("__proto__" as never, () => {})).toThrow(
      /There is no event “__proto__”; known are change, rejected/,
    );
  });

  it("become events of the active span, by the open conventions", () => {
    const exporter = new InMemorySpanExporter();
    const provider = new BasicTracerProvider({ spanProcessors: [new SimpleSpanProcessor(exporter)] });
    context.setGlobalContextManager(new AsyncLocalStorageContextManager().enable());
    const flags = flagsHere();
    flags.on("verdict", spanEvents(trace));
    const span = provider.getTracer("test").startSpan("request");
    context.with(trace.setSpan(context.active(), span), () => {
      flags.value("fares", oda);
      flags.value("seats", oda);
      flags.value("nobody", oda);
    });
    span.end();
    flags.value("fares", oda);
    const events = exporter.getFinishedSpans()[0]!.events;
    expect(events.map(({ name }) => name)).toEqual(Array(3).fill("feature_flag.evaluation"));
    expect(events.map(({ attributes }) => attributes)).toMatchObject([
      {
        "feature_flag.key": "fares",
        "feature_flag.result.value": "true",
        "feature_flag.result.reason": "targeting_match",
        "feature_flag.context.id": "A-17",
      },
      { "feature_flag.key": "seats", "feature_flag.result.variant": "list", "feature_flag.result.reason": "default" },
      { "feature_flag.key": "nobody", "error.type": "flag_not_found", "feature_flag.result.reason": "error" },
    ]);
    context.disable();
  });
});
