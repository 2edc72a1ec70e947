import { describe, expect, it } from "vitest";
import { readDefinitions } from "../../src/core.ts";
import { parseCondition } from "../../src/language/index.ts";
import faults from "../fixtures/condition-faults.json" with { type: "json" };

describe("what is wrong with a condition is told with its place, what was expected and what to write", () => {
  it.each(faults.map((fault) => [fault.text, fault] as const))("%j", (text, { text: _, ...fault }) => {
    expect(parseCondition(text).fault).toEqual(fault);
  });

  it("brackets that nest too deeply, and numbers that no double holds", () => {
    const deep = parseCondition(`${"(".repeat(34)}a${")".repeat(34)}`).fault;
    expect(deep).toMatchObject({
      code: "condition-too-deep",
      expected: "at most 32 levels",
      span: { start: 32, end: 33 },
    });
    expect(parseCondition(`${"(".repeat(32)}a${")".repeat(32)}`).fault).toBeUndefined();
    expect(parseCondition(`a == 1${"0".repeat(400)}`).fault).toMatchObject({
      expected: "a number that a double can hold",
    });
  });
});

it("a zone that does not exist is reported once, and hurts no share that rises by it", () => {
  const rules = [
    { when: "cohort:x", share: { rising: ["1% from 2026-12-01T09:00", "50% from 2026-12-08"] }, give: true },
    { share: "20%", give: true },
  ];
  const read = (zones: { defaults?: string; share?: string }) => {
    const [first, second] = rules as [{ share: object }, object];
    const share = zones.share === undefined ? first.share : { ...first.share, zone: zones.share };
    const data = {
      iudex: 1,
      defaults: { by: "id", ...(zones.defaults === undefined ? {} : { zone: zones.defaults }) },
      // Who refers to something is looked at for circles, and its shares with it.
      cohorts: { x: { of: "id", ids: ["1"] } },
      flags: { a: { safe: false, rules: [{ ...first, share }, second] } },
    };
    return readDefinitions([{ file: "a.json", data }]).problems.map(({ code }) => code);
  };
  expect(read({ defaults: "Atlantis/Capital" })).toContain("zone-unknown");
  expect(read({ share: "Atlantis/Capital" })).toContain("zone-unknown");
  expect(read({ defaults: "Atlantic/Faroe" })).not.toContain("zone-unknown");
});
