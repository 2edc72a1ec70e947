import { rename, rm, writeFile } from "node:fs/promises";
import { join } from "node:path";
import { type ChangeEvent, type Flags, FlagsError, followFlags, type RejectedEvent } from "iudex";
import { describe, expect, it, onTestFinished } from "vitest";
import { demoFolder, folderWith } from "../support/folders.ts";

const storm = (safe: boolean) => `iudex: 1\nflags:\n  storm-mode: { safe: ${safe} }\n`;

async function opened(folder: string, options = {}): Promise<Flags> {
  const flags = await followFlags(folder, options);
  onTestFinished(() => flags.close());
  return flags;
}

function next<K extends "change" | "rejected">(
  flags: Flags,
  event: K,
): Promise<K extends "change" ? ChangeEvent : RejectedEvent> {
  return new Promise((resolve) => flags.on(event, resolve as never));
}

describe("opening and asking", () => {
  it("judges the demo for a context, an instant and an environment", async () => {
    const flags = await opened(demoFolder, { environment: "production", clock: () => Date.parse("2026-12-02T10:00Z") });
    expect(flags.value("hold-minutes", { account: { plan: "freight" } })).toBe(120);
    expect(flags.verdict("zone-fares", { email: "kari@ternhaven.example" })).toEqual({
      flag: "zone-fares",
      value: true,
      variant: undefined,
      cause: "rule",
      rule: 1,
      ruleName: "our own people first",
      revision: flags.revision,
    });
    expect(flags.revision).toMatch(/^[0-9a-f]{32}$/);
    expect(flags.verdict("seat-map", { account: { id: "A-17", plan: "foot" }, app: { version: "4.1" } })).toMatchObject(
      {
        cause: "withheld",
        value: "list",
        variant: "classic",
      },
    );
  });

  it("gives the same frozen verdict for the same answer", async () => {
    const flags = await opened(demoFolder, { environment: "production" });
    const verdict = flags.verdict("storm-mode", {});
    expect(Object.isFrozen(verdict)).toBe(true);
    expect(flags.verdict("storm-mode", { trips: 3 })).toBe(verdict);
  });

  it("answers undefined for an unknown flag, and says so once with the nearest name", async () => {
    const flags = await opened(demoFolder, { environment: "production" });
    const messages: string[] = [];
    flags.on("problem", ({ message }) => messages.push(message));
    expect(flags.value("storm-mod", {})).toBeUndefined();
    expect(flags.verdict("storm-mod", {})).toMatchObject({ cause: "fallback", problem: "unknown-flag" });
    expect(messages).toEqual(["There is no flag “storm-mod”; did you mean storm-mode?"]);
  });

  it("wants to know the environment where the set declares any", async () => {
    await expect(followFlags(demoFolder)).rejects.toThrow(
      /say which one is meant: environment: "local", "staging" or "production"/,
    );
    await expect(followFlags(demoFolder, { environment: "prodution" })).rejects.toThrow(/did you mean production/);
  });

  it("lists every problem of a folder that cannot be used", async () => {
    const folder = await folderWith({
      "a.yaml": "iudex: 1\nflags:\n  a: { saff: 1 }\n  b: { safe: false, rules: [{ give: 1 }] }\n",
    });
    const error = await followFlags(folder).catch((e: unknown) => e);
    expect(error).toBeInstanceOf(FlagsError);
    expect((error as FlagsError).problems.map((p) => p.code)).toEqual(["missing-key", "unknown-key", "value-type"]);
    expect((error as FlagsError).message).toContain("did you mean “safe”?");
  });

  it.each([
    [
      "a getter that throws",
      {
        get trips() {
          throw new Error("no");
        },
      },
    ],
    [
      "a proxy that throws",
      new Proxy(
        {},
        {
          get() {
            throw new Error("no");
          },
          getOwnPropertyDescriptor() {
            throw new Error("no");
          },
        },
      ),
    ],
    ["a revoked proxy", revoked()],
    ["nothing", null],
    ["a text", "context"],
    ["a list", [1, 2]],
    ["a circle", circle()],
    ["10 MB of text", { email: "x".repeat(10_000_000) }],
  ])("never throws: %s", async (_, context) => {
    const flags = await opened(demoFolder, { environment: "production" });
    for (const name of flags.names) expect(flags.verdict(name, context as object).cause).not.toBe("fallback");
  });
});

function revoked(): object {
  const { proxy, revoke } = Proxy.revocable({}, {});
  revoke();
  return { account: proxy, email: proxy };
}

function circle(): object {
  const context: { account?: object } = {};
  context.account = context;
  return context;
}

describe("hot reload", () => {
  it("takes a saved file into force and says what it means", async () => {
    const folder = await folderWith({ "ops.yaml": storm(false) });
    const flags = await opened(folder);
    const before = flags.revision;
    const change = next(flags, "change");
    await writeFile(join(folder, "ops.yaml"), storm(true));
    expect(await change).toMatchObject({ from: before, to: flags.revision });
    expect((await change).summary).toContain("storm-mode: safe false → true");
    expect(flags.value("storm-mode")).toBe(true);
  });

  it("refuses a broken file with all of its problems, goes on, and takes the mended one", async () => {
    const folder = await folderWith({ "ops.yaml": storm(true) });
    const flags = await opened(folder);
    const rejected = next(flags, "rejected");
    await writeFile(
      join(folder, "ops.yaml"),
      "iudex: 1\nflags:\n  a: { safe: 1, whne: x }\n  b: { safe: off, rules: [{ }] }\n  c: { safe: off, rules: [{ when: '==', give: on }] }\n",
    );
    expect((await rejected).problems.filter((p) => p.severity === "error").map((p) => p.code)).toEqual([
      "unknown-key",
      "not-exactly-one",
      "condition-syntax",
    ]);
    expect(flags.value("storm-mode")).toBe(true);
    const change = next(flags, "change");
    await writeFile(join(folder, "ops.yaml"), storm(false));
    await change;
    expect(flags.value("storm-mode")).toBe(false);
  });

  it("keeps a good set when the folder goes away, and sees it come back", async () => {
    const folder = await folderWith({ "ops.yaml": storm(true) });
    const flags = await opened(folder);
    const rejected = next(flags, "rejected");
    await rename(folder, `${folder}-gone`);
    expect((await rejected).problems[0]?.code).toBe("folder-missing");
    expect(flags.value("storm-mode")).toBe(true);
    await writeFile(join(`${folder}-gone`, "ops.yaml"), storm(false));
    const change = next(flags, "change");
    await rename(`${folder}-gone`, folder);
    await change;
    expect(flags.value("storm-mode")).toBe(false);
    await rm(folder, { recursive: true });
  });

  it("says nothing when only comments and layout change", async () => {
    const folder = await folderWith({ "ops.yaml": storm(true) });
    const flags = await opened(folder);
    let changes = 0;
    flags.on("change", () => changes++);
    const { revision } = flags;
    await writeFile(join(folder, "ops.yaml"), `# a word\niudex: 1\nflags:\n  storm-mode:\n    safe: true\n`);
    await writeFile(join(folder, "more.yaml"), "iudex: 1\nflags: { extra: { safe: 1 } }\n");
    await expect.poll(() => flags.names.length).toBe(2);
    expect(changes).toBe(1);
    await rm(join(folder, "more.yaml"));
    await expect.poll(() => flags.revision).toBe(revision);
  });

  it("shields the caller from a listener that throws", async () => {
    const flags = await opened(demoFolder, { environment: "production" });
    flags.on("problem", () => {
      throw new Error("listener");
    });
    expect(flags.value("nobody", {})).toBeUndefined();
  });
});
