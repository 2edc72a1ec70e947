// What the words of a rule write: rules of an environment's own, names that are followed, variants, remarks; and conditions
// that are changed test by test.
import fc from "fast-check";
import { type Change, EditSession, loadFolder, makeChange } from "iudex/tools";
import { expect, it } from "vitest";
import { stringify } from "yaml";
import { FlagSet } from "../../src/core.ts";
import { conditionLines, replacedAt, turned, withoutTest, withTest } from "../../src/insight/index.ts";
import { parseCondition, printCondition, testsOf } from "../../src/language/index.ts";
import { folderWith } from "../support/folders.ts";
import { anyContext } from "../support/generated.ts";
import { anySet, definitionsOf, instant } from "../support/random-sets.ts";

const text = `iudex: 1
environments: { staging: {}, production: {} }
defaults: { by: account.id }
flags:
  deck:
    safe: plain
    variants: { plain: 1, tour: 2 }
    rules:
      # the first
      - { name: ours, when: trips > 1, share: 10%, give: tour }
      - { share: 20%, give: tour }
    environments:
      staging: { adjust: { ours: { share: 50% } } }
    for-instance:
      - { as: {}, gives: plain }
`;

async function after(...changes: readonly Change[]): Promise<string> {
  let work = EditSession.of(await loadFolder(await folderWith({ "a.yaml": text })));
  for (const change of changes) work = await work.with(await makeChange(change, work));
  expect(work.loaded.problems.filter(({ severity }) => severity === "error")).toEqual([]);
  return work.texts.get("a.yaml")!;
}

const deck = { change: "flag", flag: "deck" } as const;

it("a rule's name is followed where it is adjusted, and one without a name gets one before it is adjusted", async () => {
  const named = await after(
    { ...deck, rule: "ours", called: "our own" },
    { ...deck, rule: "our own", remark: "they wait" },
  );
  expect(named).toContain("adjust: { our own: { share: 50% } }");
  expect(named).toMatch(/name: our own, note: they wait/);
  const adjusted = await after({ ...deck, rule: "2", share: "30%", environment: "production" });
  expect(adjusted).toMatch(/name: rule 2/);
  expect(adjusted).toMatch(/production:\s+\{?\s*adjust:\s+\{?\s*rule 2:/);
  await expect(after({ ...deck, rule: "2", called: "ours" })).rejects.toThrow("Another rule is called “ours” already.");
  expect(await after({ ...deck, rule: "ours", by: "family.id" })).toContain("by: family.id");
});

it("a variant gets another value, comes and goes; an example is put in place of another", async () => {
  const variant = { change: "variant", flag: "deck" } as const;
  expect(await after({ ...variant, variant: "tour", value: "3" })).toContain("{ plain: 1, tour: 3 }");
  const more = await after(
    { ...variant, variant: "night", value: "4" },
    { ...variant, variant: "night", remove: true },
  );
  expect(more).toBe(text);
  await expect(after({ ...variant, variant: "tour", value: "text" })).rejects.toThrow();
  const example = await after({ change: "example", flag: "deck", as: { trips: 0 }, gives: "plain", instead: 1 });
  expect(example).toContain("{ as: { trips: 0 }, gives: plain }");
});

it("rules of an environment's own give everybody there what they got before", async () => {
  await fc.assert(
    fc.asyncProperty(anySet, fc.array(fc.tuple(anyContext, instant), { minLength: 20 }), async (set, asked) => {
      const work = EditSession.of(await loadFolder(await folderWith({ "a.yaml": stringify(definitionsOf(set)) })));
      const made = await makeChange({ change: "own-rules", flag: "first", environment: "production" }, work).catch(
        (error: Error) => {
          expect(error.message).toMatch(/has no rules to copy|rules of its own/);
          return undefined;
        },
      );
      if (!made) return;
      const sets = [work, await work.with(made)].map(
        ({ loaded }) => new FlagSet(loaded.definitions as never, "production"),
      );
      for (const [context, at] of asked) {
        const [was, is] = sets.map((each) => each.verdict("first", context, { at }));
        expect([is!.value, is!.cause]).toEqual([was!.value, was!.cause]);
      }
    }),
    { numRuns: 100 },
  );
});

it("a condition is told test by test, and changing one leaves the rest letter by letter", () => {
  const test = fc.constantFrom(
    "trips  > 5",
    "cohort:crew",
    "window:winter",
    "flag:storm-mode",
    'plan in ["foot"]',
    "not a == 1",
  );
  const condition = fc.letrec<{ node: string }>((tie) => ({
    node: fc.oneof(
      { maxDepth: 3, withCrossShrink: true },
      test,
      fc
        .tuple(fc.constantFrom(" and ", "  or "), fc.array(tie("node"), { minLength: 2, maxLength: 3 }))
        .map(([joint, parts]) => `(${parts.join(joint)})`),
    ),
  })).node;
  let told = 0;
  fc.assert(
    fc.property(condition, (source) => {
      const tree = parseCondition(source).condition!;
      const lines = conditionLines(tree);
      if (!lines) return;
      told++;
      expect(lines.length).toBe(testsOf(tree).length);
      for (const line of lines) {
        const changed = replacedAt(source, line, "b == 2");
        expect(changed.startsWith(source.slice(0, line.start)) && changed.endsWith(source.slice(line.end))).toBe(true);
        const left = withoutTest(source, line.start);
        expect(left === "" ? 0 : testsOf(parseCondition(left).condition!).length).toBe(lines.length - 1);
        if (!line.joint) continue;
        const once = turned(source, line.joint.group);
        expect(printCondition(parseCondition(once).condition!)).not.toBe(printCondition(tree));
      }
      expect(testsOf(parseCondition(withTest(source, "b == 2")).condition!).length).toBe(lines.length + 1);
    }),
  );
  expect(told).toBeGreaterThan(50);
  expect(withTest("a == 1 or b == 2", "c == 3")).toBe("(a == 1 or b == 2) and c == 3");
});
