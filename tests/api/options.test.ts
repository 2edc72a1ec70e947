import { type Flags, FlagsError, followFlags } from "iudex";
import { folderShelf } from "iudex/fleet";
import { fetchGate, nodeGate } from "iudex/http";
import { flagsFrom } from "iudex/testing";
import { describe, expect, it } from "vitest";
import { demoFolder, folderWith } from "../support/folders.ts";

// What TypeScript refuses, and programs without it are told.

const set = { flags: { storm: { safe: false } } };
const context = () => ({});

/** Why it is refused; it is an error of this library's own. */
async function refusal(work: () => unknown): Promise<string> {
  try {
    await ((await work()) as Partial<Flags> | undefined)?.close?.();
  } catch (error) {
    expect(error).toBeInstanceOf(FlagsError);
    return (error as FlagsError).message;
  }
  return "not refused";
}

const follow = (options: unknown) => () => followFlags(demoFolder, options as object);
const followShelf = (options: unknown) => async () => followFlags(folderShelf(await folderWith({})), options as object);

describe("an option that cannot be meant is refused, and it is said what could be", () => {
  it.each<[string, () => unknown, string]>([
    [
      "a misspelt one",
      follow({ lastgood: "x" }),
      "“lastgood” is not an option of followFlags for a folder; did you mean lastGood?",
    ],
    [
      "one that there is not",
      follow({ retries: 3 }),
      "“retries” is not an option of followFlags for a folder; there are environment, catalogue, clock, strict, keysForPasses, " +
        "rulesForPasses, subjectKey, watch, lastGood and overrides.",
    ],
    [
      "one of a shelf",
      follow({ staleAfter: 3 }),
      "“staleAfter” is not an option of followFlags for a folder; there are ",
    ],
    [
      "one of a folder",
      followShelf({ watch: false }),
      "“watch” is not an option of followFlags for a shelf; there are ",
    ],
    [
      "of another type",
      follow({ environment: 5 }),
      "“environment” of followFlags for a folder: expected a text, found 5.",
    ],
    ["a date for a clock", follow({ clock: new Date(0) }), "expected a function, found an object."],
    [
      "two types",
      followShelf({ wait: "long" }),
      "expected a number that is not negative or true or false, found a text.",
    ],
    [
      "inside another",
      follow({ watch: { sweep: 100 } }),
      "“sweep” is not an option of watch; there are quiet, longest and poll.",
    ],
    [
      "a negative time",
      follow({ watch: { quiet: -1 } }),
      "“quiet” of watch: expected a number that is not negative, found -1.",
    ],
    ["no object", follow("production"), "The options of followFlags for a folder are an object, not a text."],
    [
      "in tests",
      () => flagsFrom(set, { enviroment: "x" } as object),
      "“enviroment” is not an option of flagsFrom; did you mean environment?",
    ],
    ["no overrides", () => flagsFrom(set).override(null as never), "Overrides are an object of flags and values"],
  ])("%s", async (_, work, message) => {
    expect(await refusal(work)).toContain(message);
  });

  it.each<[string, (flags: Flags) => unknown, string]>([
    ["no context", (flags) => nodeGate(flags, undefined as never), "A gate needs a context: a function"],
    [
      "a context that is none",
      (flags) => fetchGate(flags, { context: {} } as never),
      "“context” of a gate: expected a function, found an object.",
    ],
    [
      "a misspelt option",
      (flags) => nodeGate(flags, { context, onfailure: context } as never),
      "did you mean onFailure?",
    ],
    [
      "a misspelt carrier",
      (flags) => nodeGate(flags, { context, pass: { cokie: "x" } } as never),
      "did you mean cookie?",
    ],
    [
      "values of all",
      (flags) => nodeGate(flags, { context }).values(undefined as never),
      "values needs to be told which flags a page may see",
    ],
    [
      "reports of one",
      (flags) => fetchGate(flags, { context }).seen({ only: "storm" } as never),
      "“only” of seen: expected a list of names, found a text.",
    ],
    [
      "a stream of all",
      (flags) => nodeGate(flags, { context }).changes({} as never),
      "changes needs to be told which flags a page may see",
    ],
    [
      "a misspelt limit",
      (flags) => fetchGate(flags, { context }).changes({ only: [], maxListener: 5 } as never),
      "did you mean maxListeners?",
    ],
  ])("of a gate: %s", async (_, work, message) => {
    expect(await refusal(() => void work(flagsFrom(set) as Flags))).toContain(message);
  });

  it("keys and secrets are never repeated", async () => {
    const secret = "b-7f3a9c";
    for (const options of [
      { keysForPasses: [{ kty: "oct", k: secret }] },
      { keysForPasses: secret },
      { subjectKey: Buffer.from(secret) },
    ]) {
      const message = await refusal(follow(options));
      expect(message).toMatch(/expected (an object or a function|a text), found (a list|a text|an object)\.$/);
      expect(message).not.toContain(secret);
    }
  });

  it("what is undefined is as if it were not there", async () => {
    const flags = await followFlags(demoFolder, {
      environment: "production",
      watch: false,
      clock: undefined,
      lastGood: undefined,
    });
    expect(flags.value("storm-mode")).toBe(false);
    await flags.close();
  });
});
