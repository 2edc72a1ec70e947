import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { FlagSet, parseCondition, printCondition } from "../../src/core.ts";
import { compareVersions, compareWithVersion, parseVersion } from "../../src/values/version.ts";
import { answerOf, defined } from "../support/definitions.ts";
import { runs } from "../support/runs.ts";

const context = { account: { plan: "foot" }, crew: true, since: new Date("2026-05-01T10:00:00Z"), trips: 140 };

describe("the answers of conditions", () => {
  // The answers of every operator stand in conformance/conditions.json; what JSON cannot hold is here.
  it.each([
    ["since < 2026-05-01T12:00+01:00", "true"],
    ["since == 2026-05-01T10:00:00.000Z", "true"],
    ["since.getTime is missing", "true"],
    ["n == 5", "undecided"],
    ["n > 1", "undecided"],
    ["inf > 1", "undecided"],
    ["bad < 2026-05-01T12:00Z", "undecided"],
    ['account.plan starts with "fo"', "true"],
    ['account.plan starts with "foot "', "false"],
    ['account.plan starts with ""', "true"],
    ['account.plan ends with "oot"', "true"],
    ['account.plan ends with "ot."', "false"],
    ['account.plan ends with ""', "true"],
    ['empty ends with ""', "true"],
    ['empty starts with "a"', "false"],
  ] as const)("%s is %s", (condition, answer) => {
    expect(
      answerOf(condition, { ...context, n: 5n, empty: "", inf: Number.POSITIVE_INFINITY, bad: new Date(Number.NaN) }),
    ).toBe(answer);
  });

  it("looks at own properties only, also when a prototype has been added to", () => {
    const inherited = Object.create({ crew: true });
    expect(answerOf("crew is missing", inherited)).toBe("true");
    try {
      Object.assign(Object.prototype, { smuggled: true });
      expect(answerOf("smuggled", {})).toBe("undecided");
      expect(answerOf("account.smuggled is missing", context)).toBe("true");
    } finally {
      delete (Object.prototype as { smuggled?: boolean }).smuggled;
    }
  });

  it("reads what is its own under a name that every object has", () => {
    expect(answerOf("constructor", { constructor: true })).toBe("true");
    expect(answerOf('["__proto__"].hasOwnProperty == 1', JSON.parse('{"__proto__":{"hasOwnProperty":1}}'))).toBe(
      "true",
    );
  });
});

describe("versions follow the precedence of semantic versioning", () => {
  const ascending = [
    "1.0.0-alpha",
    "1.0.0-alpha.1",
    "1.0.0-alpha.beta",
    "1.0.0-beta",
    "1.0.0-beta.2",
    "1.0.0-beta.11",
    "1.0.0-rc.1",
    "1.0.0",
    "1.0.1",
    "1.2",
    "2",
    "99999999999999999998.0.0",
    "99999999999999999999.0.0",
  ];
  it.each(ascending.slice(1).map((later, i) => [ascending[i]!, later]))("%s < %s", (earlier, later) => {
    expect(answerOf(`version < v${later}`, { version: earlier })).toBe("true");
    expect(answerOf(`version >= v${later}`, { version: earlier })).toBe("false");
    expect(answerOf(`version > v${earlier}`, { version: `v${later}+build.7` })).toBe("true");
  });

  it("are compared the same way by the fast path, whatever the text", () => {
    const piece = fc.constantFrom(
      "0",
      "1",
      "2",
      "10",
      "99999999",
      "999999999",
      "1234567890",
      ".",
      ".",
      "v",
      "-a",
      "+b",
    );
    const text = fc.array(piece, { maxLength: 7 }).map((pieces) => pieces.join(""));
    const literal = fc.constantFrom("0", "1", "1.2", "v1.2.10", "1.2.1-a", "999999999.1", "1234567890.0.1");
    fc.assert(
      fc.property(text, literal, (written, wanted) => {
        const [version, against] = [parseVersion(written), parseVersion(wanted)!];
        const slow = version === undefined ? Number.NaN : Math.sign(compareVersions(version, against));
        expect(Math.sign(compareWithVersion(written, against)) + 0).toBe(slow + 0);
      }),
      { numRuns: runs(5_000) },
    );
  });

  it.each(["1.02.0", " 1.0", "1.0.0.0", "1.2-beta", "", "v", "1.", "latest"])("“%s” is not a version", (version) => {
    expect(answerOf("version >= v0", { version })).toBe("undecided");
  });
});

describe("times", () => {
  it.each([
    ["2026-02-29T10:00Z", "undecided"],
    ["2026-02-28T24:00Z", "undecided"],
    ["2026-02-28", "undecided"],
    ["2026-02-28T10:00", "undecided"],
    ["2026-02-28T10:00:00.9999Z", "true"],
    ["2026-02-28T11:00+01:00", "true"],
  ] as const)("%s compared with an instant is %s", (text, answer) => {
    expect(answerOf("t < 2026-02-28T10:00:01Z", { t: text })).toBe(answer);
  });
});

describe("attributes that are compared without case", () => {
  const attributes = {
    p: { type: "text", "ignore-case": true, "missing-as": "Foot" },
    v: { type: "text", "ignore-case": true },
    l: { type: "list", "ignore-case": true },
    plain: { type: "text", "missing-as": "Foot" },
  };
  it.each<[string, object, "true" | "false" | "undecided"]>([
    ['p == "FOOT"', { p: "foot" }, "true"],
    ['p != "foot"', { p: "FOOT" }, "false"],
    ['p in ["FOOT", "deck"]', { p: "Foot" }, "true"],
    ['p == "foot"', {}, "true"],
    ['lower(p) == "FOOT"', { p: "Foot" }, "true"],
    ['lower(p) == "foot"', { p: 5 }, "undecided"],
    ['lower(p) == "foot"', {}, "true"],
    ['p starts with "FO"', { p: "foot" }, "true"],
    ['p ends with "OT"', { p: "foot" }, "true"],
    ['p contains "OO"', { p: "foot" }, "true"],
    ["p matches /^FOO/", { p: "foot" }, "true"],
    ["p matches /^foo/", { p: "FOOT" }, "true"],
    ["p is missing", {}, "true"],
    ['l contains "A"', { l: ["a"] }, "true"],
    ['l overlaps ["b", "a"]', { l: ["x", "A"] }, "true"],
    ['l covers ["b", "A"]', { l: ["B", "a", "c"] }, "true"],
    ['l covers ["b", "A"]', { l: ["B"] }, "false"],
    ["l overlaps [1, 2]", { l: [2, "a"] }, "true"],
    ['l contains ""', { l: [] }, "false"],
    ["l contains true", { l: [true] }, "true"],
    ['l contains "a"', { l: new Array(100_000).fill("A") }, "true"],
    ['l contains "a"', { l: new Array(100_001).fill("A") }, "undecided"],
    // Versions and times are read of the text as it stands.
    ["v == v1.0.0-RC", { v: "1.0.0-RC" }, "true"],
    ["v == v1.0.0-rc", { v: "1.0.0-RC" }, "false"],
    ["v > 2026-12-01T08:00Z", { v: "2026-12-01T09:00Z" }, "true"],
    ["v > 2026-12-01T08:00Z", { v: "2026-12-01t09:00z" }, "undecided"],
    ['plain == "Foot"', {}, "true"],
    ['plain == "foot"', {}, "false"],
    ['lower(plain) == "foot"', {}, "true"],
    ['plain == "Foot"', { plain: null }, "true"],
    ['plain == "Foot"', { plain: 5 }, "undecided"],
    ["plain is missing", {}, "true"],
  ])("%s for %j is %s", (condition, given, answer) => {
    expect(answerOf(condition, given, { attributes })).toBe(answer);
  });
});

describe("what cannot be read", () => {
  it.each([
    ["trips > 1 && crew", 10, "has no meaning", "write and"],
    ["trips = 1", 6, "has no meaning", "write =="],
    ["trips > 1 AND crew", 10, "“AND”", "write and"],
    ["trips >", 7, "the end of the text", undefined],
    ['trips > "1"', 8, "does not order texts", "write v1 without quotes"],
    ["(trips > 1", 10, "the end of the text", undefined],
    ["plan in []", 8, "empty", undefined],
    ['plan in ["a", 1]', 14, "one type", undefined],
    ['email == "half \\ud800"', 9, "surrogate", undefined],
    ["email matches /(?=a)/", 14, "cannot be read", undefined],
    ["t > 2026-12-01", 4, "not an instant", "write 2026-12-01T00:00Z, or the offset that is meant"],
    ["v > v04.2", 4, "not a valid version", undefined],
    ["trips > 007", 8, "not a number", 'write 7, or "007" if a text is meant'],
    ["in > 1", 0, "stands where an attribute", 'an attribute of that name is written ["in"]'],
    ['email == "open', 9, "no closing quote", "write \\n for a line break inside a text"],
    ["account. id == 1", 9, "“id”", undefined],
    ["cohort: crew", 0, "needs a name", undefined],
    ["", 0, "empty", "leave the key out if everyone is meant"],
  ])("%s", (text, start, message, help) => {
    const { fault } = parseCondition(text);
    expect(fault?.message).toContain(message);
    expect(fault?.span.start).toBe(start);
    expect(fault?.help).toBe(help);
  });

  it("refuses 33 brackets and 4,097 characters, and takes one less", () => {
    expect(parseCondition(`${"(".repeat(32)}a${")".repeat(32)}`).fault).toBeUndefined();
    expect(parseCondition(`${"(".repeat(33)}a${")".repeat(33)}`).fault?.code).toBe("condition-too-deep");
    expect(parseCondition(`a == "${"x".repeat(4089)}"`).fault).toBeUndefined();
    expect(parseCondition(`a == "${"x".repeat(4090)}"`).fault?.code).toBe("condition-too-long");
  });
});

describe("printing", () => {
  it.each([
    ["a  and(b or not c)", "a and (b or not c)"],
    ["((a))", "a"],
    ["(a and b) and c", "(a and b) and c"],
    ["x == 'it\\'s'", 'x == "it\'s"'],
    ['x == "a\\tb\\u0041\\"c\\\\"', 'x == "a\\tbA\\"c\\\\"'],
    ['x == ""', 'x == ""'],
    ['["2fa"] and claims["a b"].in-port', '["2fa"] and claims["a b"].in-port'],
    ["x matches /a\\/b\\\\/i", "x matches /a\\/b\\\\/i"],
    ["x matches /\\d+\\/\\./", "x matches /\\d+\\/\\./"],
    ["x\t==\r\n1", "x == 1"],
    ["((a and b)) or c", "a and b or c"],
    ["not (a or not b) and c", "not (a or not b) and c"],
    ["window:w and cohort:c and flag:f == true", "window:w and cohort:c and flag:f == true"],
    ['lower(x) == "\\u00e9"', 'lower(x) == "é"'],
    ['environment == "p"', 'environment == "p"'],
    ["x is missing or x is present", "x is missing or x is present"],
    ["x in [1, 2] and y >= v1.2 and z < 2026-12-01T09:00Z", "x in [1, 2] and y >= v1.2 and z < 2026-12-01T09:00Z"],
    ["not not a", "not not a"],
  ])("%s → %s", (text, printed) => {
    expect(printCondition(parseCondition(text).condition!)).toBe(printed);
  });
});

describe("the rules of a flag are asked in order", () => {
  // Flags with few and with many rules go different ways through the code.
  it.each(Array.from({ length: 12 }, (_, count) => count))("when there are %d of them", (count) => {
    const rules = Array.from({ length: count }, (_, i) => ({ when: `x >= ${count - i}`, give: i + 1 }));
    const passing = rules.flatMap((rule) => [{ ...rule, share: "0%", give: 99 }, rule]);
    const flags = { plain: { safe: 0, rules }, shared: { safe: 0, by: "id", rules: passing } };
    const set = new FlagSet(defined({ flags }));
    for (let x = 0; x <= count + 1; x++) {
      const first = x === 0 || count === 0 ? undefined : Math.max(0, count - x) + 1;
      const plain = set.verdict("plain", { x, id: "A-17" });
      const shared = set.verdict("shared", { x, id: "A-17" });
      expect([plain?.rule, plain?.value]).toEqual([first, first ?? 0]);
      expect([shared?.rule, shared?.value]).toEqual([first && 2 * first, plain?.value]);
    }
  });
});
