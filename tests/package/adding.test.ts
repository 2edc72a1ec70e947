// "Where do I add …?" of docs/architecture.md, done in a copy of the sources.
import { execFileSync } from "node:child_process";
import { cp, mkdir, mkdtemp, readFile, rm, symlink, writeFile } from "node:fs/promises";
import { join } from "node:path";
import { afterAll, beforeAll, describe, expect, it } from "vitest";
import { projectRoot } from "../support/folders.ts";

type Core = typeof import("../../src/core.ts");
type Insight = typeof import("../../src/insight/index.ts");

let copy: string;
let core: Core;
let insight: Insight;

/** The example of the page, as it is written there. */
async function rowOfThePage(): Promise<string> {
  const page = await readFile(join(projectRoot, "docs/architecture.md"), "utf8");
  return /```ts\n(within: \{[\s\S]*?\n\},)\n```/.exec(page)![1]!;
}

async function addRow(row: string): Promise<void> {
  const file = join(copy, "src/language/operators.ts");
  const table = await readFile(join(projectRoot, "src/language/operators.ts"), "utf8");
  await writeFile(file, table.replace("\n} as const satisfies Record<string, Operator>;", `\n  ${row}$&`));
}

beforeAll(async () => {
  // Beside what the sources import, and out of sight of git.
  await mkdir(join(projectRoot, "reports"), { recursive: true });
  copy = await mkdtemp(join(projectRoot, "reports/adding-"));
  for (const name of ["src", "tsconfig.base.json", "tsconfig.core.json", "package.json"])
    await cp(join(projectRoot, name), join(copy, name), { recursive: true });
  await symlink(join(projectRoot, "node_modules"), join(copy, "node_modules"));
  await symlink(join(projectRoot, "dist"), join(copy, "dist"));
  await addRow(await rowOfThePage());
  core = (await import(join(copy, "src/core.ts"))) as Core;
  insight = (await import(join(copy, "src/insight/index.ts"))) as Insight;
});

afterAll(() => rm(copy, { recursive: true, force: true }));

const set = (when: string) => ({
  iudex: 1,
  attributes: { tags: "list", plan: ["foot", "vehicle"] },
  flags: { a: { safe: false, rules: [{ name: "only these", when, give: true }] } },
});

function defined(when: string) {
  const { definitions, problems } = core.readDefinitions([{ file: "a.json", data: set(when) }]);
  return { definitions: definitions!, problems };
}

describe("an operator that is added as the page says", () => {
  const within = 'tags within ["north", "south"]';

  it("is read, judged and explained", () => {
    const { definitions, problems } = defined(within);
    expect(problems).toEqual([]);
    const flags = new core.FlagSet(definitions);
    const ask = (tags: unknown) => flags.value("a", { tags }, { at: 0 });
    expect([["north"], [], ["north", "east"], "north", undefined].map(ask)).toEqual([true, true, false, false, false]);
    const told = core.formatExplanation(core.explain(flags, "a", { tags: ["east"] }, { at: 0 })!);
    expect(told).toContain(within);
  });

  it("is said, and completed behind a list", () => {
    const { definitions } = defined(within);
    expect(core.describeFlag(definitions, "a", undefined, 0)).toContain("holds only");
    const offered = (text: string) => insight.completionsAt(definitions, text, text.length).options.map((o) => o.text);
    expect(offered("tags ")).toContain("within");
    expect(offered("plan ")).not.toContain("within");
  });

  it("is told where its type does not fit", () => {
    expect(defined('plan within ["foot"]').problems.map(({ code }) => code)).not.toEqual([]);
  });

  it("is proved rightly: what can be true is not called never true, and what cannot is", () => {
    const found = (when: string) => core.checkDefinitions(defined(when).definitions, { at: 0 }).map(({ code }) => code);
    expect(found(within)).toEqual([]);
    expect(found(`not (${within})`)).toEqual([]);
    expect(found(`${within} and tags contains "north"`)).toEqual([]);
    expect(found(`not (${within}) and not (tags contains "north")`)).toEqual([]);
    expect(found(`${within} and tags contains "east"`)).not.toEqual([]);
  });

  it("is compared: what it comes to mean is said", () => {
    const words = insight
      .compareSets(defined(within).definitions, defined('tags within ["north"]').definitions)
      .flatMap((change) => change.words);
    expect(words.join(" ")).toMatch(/narrow/);
  });

  it("does not compile without what the prover and completions need", async () => {
    const compiled = () => {
      try {
        execFileSync(join(projectRoot, "node_modules/.bin/tsc"), ["-p", "tsconfig.core.json", "--noEmit"], {
          cwd: copy,
          encoding: "utf8",
        });
        return "";
      } catch (error) {
        return String((error as { stdout: string }).stdout);
      }
    };
    expect(compiled()).toBe("");
    const row = await rowOfThePage();
    await addRow(row.replace(/ {2}tellsApart.*\n {2}offeredFor.*\n/, ""));
    const faults = compiled();
    expect(faults).toContain("operators.ts");
    expect(faults).toMatch(/tellsApart|offeredFor/);
  });
});
