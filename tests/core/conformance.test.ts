import { readFileSync } from "node:fs";
import { join } from "node:path";
import { describe, expect, it } from "vitest";
import { Bucket, type Purpose } from "../../src/buckets/bucket.ts";
import { Race } from "../../src/buckets/race.ts";
import { FlagSet, readDefinitions } from "../../src/core.ts";
import { blockOf, type EntryKind, entryText } from "../../src/model/index.ts";
import { parseSplitPart } from "../../src/source/split.ts";
import { answerOf, defined } from "../support/definitions.ts";
import { projectRoot } from "../support/folders.ts";
import { hash } from "../support/oracle.ts";
import { blocksByRecipe, type Entries, revisionByRecipe } from "../support/revision-recipe.ts";

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
  interface Hashed {
    readonly purpose: Purpose;
    readonly salt: string;
    readonly id: string;
    readonly hash: number;
  }
  interface Raced {
    readonly salt: string;
    readonly split: readonly string[];
    readonly id: string;
    readonly variant: string;
  }
  const { cases, splits } = load<{ cases: Hashed[]; splits: Raced[] }>("buckets.json");
  it.each(cases)("$purpose, $salt, $id", ({ purpose, salt, id, hash: expected }) => {
    expect(new Bucket(purpose, salt).hash(id)).toBe(expected);
    expect(hash(purpose, salt, id)).toBe(expected);
  });
  it.each(splits)("$split under $salt, $id", ({ salt, split, id, variant }) => {
    expect(
      new Race(
        salt,
        split.map((part) => parseSplitPart(part)!),
      ).winner(id),
    ).toBe(variant);
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

describe("revisions", () => {
  interface Revised {
    readonly definitions: object;
    readonly suspended?: object;
    readonly entries: Entries;
    readonly blocks: Readonly<Record<string, string>>;
    readonly revision: string;
  }
  const { sets } = load<{ sets: Revised[] }>("revisions.json");
  it.each(sets.map((set, i) => [i, set] as const))("set %d", (_, { definitions: data, suspended, ...expected }) => {
    const stops = suspended && { suspended: { file: "suspended.json", data: { iudex: 1, suspended } } };
    const { definitions } = readDefinitions([{ file: "set.json", data }], stops);
    expect(definitions!.revision).toBe(expected.revision);
    expect(revisionByRecipe(expected.entries)).toBe(expected.revision);
    expect(Object.fromEntries(blocksByRecipe(expected.entries))).toEqual(expected.blocks);
    for (const [kind, members] of Object.entries(expected.entries))
      for (const name of Object.keys(members)) {
        expect(Object.keys(expected.blocks)).toContain(blockOf(kind as EntryKind, name));
        expect(JSON.parse(entryText(definitions!, kind as EntryKind, name).split("\n")[3]!)).toEqual(members[name]);
      }
  });
});
