import { writeFile } from "node:fs/promises";
import { join } from "node:path";
import { defineCatalogue, followFlags, number } from "iudex";
import { describe, expect, it, onTestFinished } from "vitest";
import { demoFolder, folderWith } from "../support/folders.ts";
import { next } from "../support/waiting.ts";

const set = (n: number) =>
  `iudex: 1\nflags:\n  a: { safe: ${n} }\n  timed: { safe: false, provided: "window:w", otherwise: true }\nwindows: { w: { from: 1970-01-01T00:00:01Z } }\n`;

async function opened() {
  const folder = await folderWith({ "a.yaml": set(1) });
  const clock = { now: 999 };
  const flags = await followFlags(folder, { clock: () => clock.now });
  onTestFinished(() => flags.close());
  const reload = async (n: number) => {
    const changed = next(flags, "change");
    await writeFile(join(folder, "a.yaml"), set(n));
    await changed;
  };
  return { flags, clock, reload };
}

describe("pinned flags", () => {
  it("keep revision, instant and overrides, whatever happens meanwhile", async () => {
    const { flags, clock, reload } = await opened();
    const pinned = flags.pin({});
    const { revision } = pinned;
    await reload(2);
    clock.now = 2_000;
    flags.override({ a: 9 });
    expect([pinned.value("a"), pinned.value("timed"), pinned.revision, pinned.at.getTime()]).toEqual([
      1,
      false,
      revision,
      999,
    ]);
    expect([flags.value("a"), flags.value("timed")]).toEqual([9, true]);
    expect(pinned.values()).toEqual({ a: 1, timed: false });
  });

  it("judge each flag once, also when the context changes its mind", async () => {
    const { flags } = await opened();
    const folder = await folderWith({
      "a.yaml":
        "iudex: 1\nflags: { n: { safe: 0, rules: [{ when: x > 1, give: 2 }] }, m: { safe: 0, rules: [{ when: 'flag:n == 2', give: 3 }] } }\n",
    });
    const others = await followFlags(folder, { watch: false });
    let reads = 0;
    const context = {
      get x() {
        return ++reads * 2;
      },
    };
    const pinned = others.pin(context);
    expect([pinned.value("m"), pinned.value("n"), pinned.value("n"), pinned.value("m")]).toEqual([3, 2, 2, 3]);
    expect(reads).toBe(1);
    expect(flags.pin({}).value("a")).toBe(1);
  });

  it("tell of each flag once for a page and once for the program, whoever asks first and whatever refers to it", async () => {
    const folder = await folderWith({
      "a.yaml":
        "iudex: 1\nflags: { n: { safe: 1 }, m: { safe: 0, rules: [{ when: 'flag:n == 1', give: 3 }] }, text: { safe: a } }\n",
    });
    const catalogue = defineCatalogue({
      n: number({ fallback: 0 }),
      m: number({ fallback: 0 }),
      text: number({ fallback: 7 }),
    });
    const flags = await followFlags(folder, { watch: false, catalogue });
    const told: string[] = [];
    flags.on("verdict", ({ verdict, asked }) => told.push(`${verdict.flag} ${asked}`));
    const pinned = flags.pin({});
    for (let i = 0; i < 2; i++) pinned.value("m");
    expect(told).toEqual(["m program"]);
    for (let i = 0; i < 2; i++) expect(pinned.values()).toEqual({ n: 1, m: 3, text: 7 });
    expect(told.slice(1)).toEqual(["n page", "text page"]);
    for (let i = 0; i < 2; i++) for (const name of ["text", "n", "m"] as const) pinned.value(name);
    expect(told.slice(3)).toEqual(["text program", "n program"]);
    expect(pinned.asked().map(({ flag, cause }) => `${flag} ${cause}`)).toEqual([
      "m rule",
      "n otherwise",
      "text fallback",
    ]);
  });

  it("are at hand in everything that run() calls, across awaits and side by side", async () => {
    const { flags, reload } = await opened();
    const handle = async () => {
      await new Promise((resolve) => setTimeout(resolve, 5));
      return flags.current().value("a");
    };
    const early = flags.run({}, async () => {
      await reload(2);
      return [await handle(), flags.value("a")];
    });
    expect(await early).toEqual([1, 2]);
    expect(await flags.run({}, handle)).toBe(2);
    expect(() => flags.current()).toThrow(/call current\(\) inside flags.run/);
  });

  it("answer hostile contexts too", async () => {
    const flags = await followFlags(demoFolder, { environment: "production", watch: false });
    const hostile = {
      get account(): never {
        throw new Error("no");
      },
      trips: 200,
      get email(): never {
        throw new Error("no");
      },
    };
    const pinned = flags.pin(hostile);
    for (const name of flags.names) expect(pinned.verdict(name)).toEqual(flags.verdict(name, hostile));
    expect(flags.pin(null as never).value("hold-minutes")).toBe(15);
  });

  it("explain themselves by the same instant and overrides", async () => {
    const { flags, clock } = await opened();
    const pinned = flags.pin({});
    clock.now = 5_000;
    expect(pinned.explain("timed")).toMatchObject({ cause: "withheld", at: "1970-01-01T00:00:00.999Z" });
  });
});

it("makes no AsyncLocalStorage until a scope is used", async () => {
  const { createHook } = await import("node:async_hooks");
  const { execFileSync } = await import("node:child_process");
  const script = `import { AsyncLocalStorage } from "node:async_hooks";
    let made = 0; const run = AsyncLocalStorage.prototype.run;
    AsyncLocalStorage.prototype.run = function (...words) { made++; return run.apply(this, words); };
    const { followFlags } = await import("iudex");
    const flags = await followFlags(process.argv[1], { environment: "production", watch: false });
    flags.value("storm-mode", {}); flags.pin({}).value("storm-mode"); flags.override({ "storm-mode": true }).undo();
    const before = made; flags.run({}, () => flags.current());
    console.log(JSON.stringify([before, made]));`;
  expect(
    JSON.parse(execFileSync(process.execPath, ["--input-type=module", "-e", script, demoFolder], { encoding: "utf8" })),
  ).toEqual([0, 1]);
  expect(createHook).toBeTypeOf("function");
});

it("every way of asking reads a context alike, one with proxies that are revoked, or that throw, included", async () => {
  const folder = await folderWith({
    "a.yaml": `iudex: 1
flags:
  f:
    safe: 0
    rules:
      - { when: a is present, give: 1 }
      - { when: a.b > 3, give: 2 }
      - { when: 't contains "x"', give: 4 }
      - { when: n is missing, give: 3 }
`,
  });
  const flags = await followFlags(folder, { watch: false });
  onTestFinished(() => flags.close());
  const revoked = (target: object) => {
    const { proxy, revoke } = Proxy.revocable(target, {});
    revoke();
    return proxy;
  };
  const no = () => {
    throw new Error("no");
  };
  const contexts: Record<string, object> = {
    "an object": { a: revoked({}) },
    "a list": { a: revoked([]), n: 1 },
    "the whole": revoked({ a: 1 }),
    "a list that is asked": { t: revoked([]), n: 1 },
    "a function": { n: revoked(no) },
    "what is inside": { a: { b: revoked({}) } },
    "a getter's": {
      get a() {
        return revoked({});
      },
    },
    "a prototype": Object.create(revoked({})) as object,
    "an item": { t: [revoked({}), "x"] },
    "what throws": new Proxy({}, { get: no, has: no, getOwnPropertyDescriptor: no }),
    "what throws inside": { t: new Proxy(["x"], { get: no }), a: new Proxy({}, { getPrototypeOf: no }) },
  };
  for (const [name, context] of Object.entries(contexts)) {
    const ways = [
      flags.value("f", context),
      flags.verdict("f", context).value,
      flags.explain("f", context)!.value,
      flags.pin(context).value("f"),
      flags.pin(context).verdict("f").value,
      flags.run(context, () => flags.current().value("f")),
    ];
    expect([name, new Set(ways).size]).toEqual([name, 1]);
  }
});
