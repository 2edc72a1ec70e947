import { readFileSync } from "node:fs";
import { join } from "node:path";
import { describe, expect, it } from "vitest";
import { murmur3 } from "../../src/buckets/murmur3.ts";
import { FlagSet, readDefinitions } from "../../src/core.ts";
import { answerOf, defined } from "../support/definitions.ts";
import { projectRoot } from "../support/folders.ts";
import { murmur } from "../support/oracle.ts";

function load<T>(file: string): T {
  return JSON.parse(readFileSync(join(projectRoot, "conformance", file), "utf8")) as T;
}

describe("conditions", () => {
  const { context, cases } = load<{ context: object; cases: { condition: string; answer: string }[] }>(
    "conditions.json",
  );
  it.each(cases)("$condition is $answer", ({ condition, answer }) => {
    expect(answerOf(condition, context)).toBe(answer);
  });
});

describe("windows", () => {
  const { cases } = load<{ cases: { about: string; window: object; at: string; open: boolean }[] }>("windows.json");
  it.each(cases)("$about", ({ window, at, open }) => {
    const flags = { a: { safe: false, rules: [{ when: "window:w", give: true }] } };
    expect(new FlagSet(defined({ windows: { w: window }, flags })).value("a", {}, { at: Date.parse(at) })).toBe(open);
  });
});

describe("buckets", () => {
  const { cases } = load<{ cases: { salt: string; id: string; hash: number }[] }>("buckets.json");
  const bytes = (text: string) => new TextEncoder().encode(text);
  it.each(cases)("$salt, $id", ({ salt, id, hash }) => {
    expect(murmur3(id, murmur3(salt, 0))).toBe(hash);
    expect(murmur(bytes(id), murmur(bytes(salt), 0))).toBe(hash);
  });
});

describe("verdicts", () => {
  interface Asking {
    readonly flag: string;
    readonly environment: string;
    readonly at: string;
    readonly context: object;
    readonly value: unknown;
    readonly cause: string;
    readonly rule?: number;
  }
  const { sets } = load<{ sets: { definitions: object; suspended: string[]; askings: Asking[] }[] }>("verdicts.json");
  it.each(sets.map((set, i) => [i, set] as const))("set %d", (_, { definitions: data, suspended, askings }) => {
    const members = Object.fromEntries(suspended.map((flag) => [flag, {}]));
    const { definitions } = readDefinitions([{ file: "set.json", data }], {
      suspended: { file: "suspended.json", data: { iudex: 1, suspended: members } },
    });
    const flags = new Map(["staging", "production"].map((name) => [name, new FlagSet(definitions!, name)]));
    for (const { flag, environment, at, context, ...expected } of askings) {
      expect(flags.get(environment)!.verdict(flag, context, { at: Date.parse(at) })).toMatchObject(expected);
    }
  });
});
