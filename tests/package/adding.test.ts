// "Where do I add …?" of docs/architecture.md, done in a copy of the sources.
import { execFileSync } from "node:child_process";
import { cp, mkdir, mkdtemp, readFile, rm, symlink, writeFile } from "node:fs/promises";
import { join } from "node:path";
import { afterAll, beforeAll, describe, expect, it, onTestFinished } from "vitest";
import { commands } from "../../src/cli/commands.ts";
import { readDefinitions } from "../../src/core.ts";
import { projectRoot } from "../support/folders.ts";

type Core = typeof import("../../src/core.ts");
type Insight = typeof import("../../src/insight/index.ts");
type CommandLine = typeof import("../../src/cli/program.ts") & typeof import("../../src/cli/commands.ts");

let copy: string;
let core: Core;
let insight: Insight;
let commandLine: CommandLine;

/** The example of the page, as it is written there. */
async function rowOfThePage(): Promise<string> {
  const page = await readFile(join(projectRoot, "docs/architecture.md"), "utf8");
  return /```ts\n(within: \{[\s\S]*?\n\},)\n```/.exec(page)![1]!;
}

/** Changes one place of a file of the copy, starting from how it stands in the project. */
async function edit(file: string, before: string, after: string): Promise<void> {
  const text = await readFile(join(projectRoot, file), "utf8");
  expect(text.split(before)).toHaveLength(2);
  await writeFile(
    join(copy, file),
    text.replace(before, () => after),
  );
}

const kinds = "src/problems/catalogue.ts";

async function addCheck(): Promise<void> {
  const kind = '"loud-name": warning("A flag shouts.", "Write its name small."),';
  await edit(kinds, '  "unused-variant":', `  ${kind}\n  "unused-variant":`);
  await writeFile(
    join(copy, "src/checks/loud.ts"),
    `import type { Definitions } from "../model/index.ts";
import { at, type Problems } from "../problems/index.ts";

export function warnOfLoud(definitions: Definitions, problems: Problems): void {
  for (const { name, place } of definitions.flags.values())
    if (name === name.toUpperCase() && name !== name.toLowerCase())
      problems.report("loud-name", at(place), { message: \`“\${name}” shouts.\` });
}
`,
  );
  const call = "  analyse(definitions, at, problems);\n";
  await edit("src/checks/check.ts", call, `${call}  warnOfLoud(definitions, problems);\n`);
  const file = join(copy, "src/checks/check.ts");
  await writeFile(file, `import { warnOfLoud } from "./loud.ts";\n${await readFile(file, "utf8")}`);
}

const addKey = () =>
  edit(
    "src/source/format/flags.ts",
    '    owner: field(text(), "Who looks after it"),\n',
    '    owner: field(text(), "Who looks after it"),\n    ticket: field(text(), "Where it was asked for"),\n',
  );

async function addCommand(): Promise<void> {
  await writeFile(
    join(copy, "src/cli/commands/hail.ts"),
    `import type { Command } from "commander";
import type { Cli } from "../cli.ts";

export function addHail(command: Command, cli: Cli): void {
  command.action((boat: string) => {
    cli.output.out(\`Hail, \${boat}!\\n\`);
    cli.finish(0);
  });
}
`,
  );
  await edit(
    "src/cli/commands.ts",
    "readonly CommandEntry[] = [",
    `readonly CommandEntry[] = [
  {
    usage: "hail <boat>",
    description: "Is anybody there?",
    example: "iudex hail Sula",
    readsFolder: false,
    load: async () => (await import("./commands/hail.ts")).addHail,
  },`,
  );
}

async function addRow(row: string): Promise<void> {
  const file = join(copy, "src/language/operators.ts");
  const table = await readFile(join(projectRoot, "src/language/operators.ts"), "utf8");
  await writeFile(file, table.replace("\n} as const satisfies Record<string, Operator>;", `\n  ${row}$&`));
}

/** What the compiler says of the core of the copy; nothing where it is content. */
function compiled(): string {
  try {
    return execFileSync(join(projectRoot, "node_modules/.bin/tsc"), ["-p", "tsconfig.core.json", "--noEmit"], {
      cwd: copy,
      encoding: "utf8",
    });
  } catch (error) {
    return String((error as { stdout: string }).stdout);
  }
}

/** Commands that lack a row of docs/commands.md, or whose row names no answer that answers.schema.json describes. */
async function commandsWithoutAnswer(all: CommandLine["commands"]): Promise<string[]> {
  const page = await readFile(join(projectRoot, "docs/commands.md"), "utf8");
  const schema = JSON.parse(await readFile(join(projectRoot, "answers.schema.json"), "utf8")) as { $defs: object };
  const rows = page.split("\n").filter((line) => line.startsWith("|"));
  const isAnswered = (name: string) =>
    rows.some((row) => {
      const answers = [...row.matchAll(/`#\/\$defs\/(\w+)`/g)].map(([, answer]) => answer!);
      return (
        new RegExp(`\`iudex ${name}[ \`]`).test(row) &&
        answers.length > 0 &&
        answers.every((answer) => answer in schema.$defs)
      );
    });
  return all.map(({ usage }) => usage.split(" ")[0]!).filter((name) => !isAnswered(name));
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
  await addCheck();
  await addKey();
  await addCommand();
  core = (await import(join(copy, "src/core.ts"))) as Core;
  insight = (await import(join(copy, "src/insight/index.ts"))) as Insight;
  commandLine = {
    ...(await import(join(copy, "src/cli/program.ts"))),
    ...(await import(join(copy, "src/cli/commands.ts"))),
  } as CommandLine;
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

it("compiles with all that is added", () => {
  expect(compiled()).toBe("");
});

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
    const row = await rowOfThePage();
    await addRow(row.replace(/ {2}tellsApart.*\n {2}offeredFor.*\n/, ""));
    onTestFinished(() => addRow(row));
    const faults = compiled();
    expect(faults).toContain("operators.ts");
    expect(faults).toMatch(/tellsApart|offeredFor/);
  });
});

describe("a check that is added as the page says", () => {
  it("finds what it looks for", () => {
    const data = { iudex: 1, flags: { LOUD: { safe: false }, quiet: { safe: false } } };
    const { definitions } = core.readDefinitions([{ file: "a.json", data }]);
    const found = core.checkDefinitions(definitions!, { at: 0 });
    expect(found).toMatchObject([{ code: "loud-name", severity: "warning", message: "“LOUD” shouts." }]);
  });

  it("does not compile without the kind of its problem", async () => {
    await cp(join(projectRoot, kinds), join(copy, kinds));
    onTestFinished(addCheck);
    expect(compiled()).toMatch(/loud\.ts.*loud-name/);
  });
});

describe("a key that is added as the page says", () => {
  const codesOf = (flag: object, read: Core["readDefinitions"]) =>
    read([{ file: "a.json", data: { iudex: 1, flags: { a: { safe: 1, ...flag } } } }]).problems.map(({ code }) => code);

  it("is read by its kind, and stands in the schema that editors use", () => {
    expect(codesOf({ ticket: "T-17" }, readDefinitions)).toEqual(["unknown-key"]);
    expect(codesOf({ ticket: "T-17" }, core.readDefinitions)).toEqual([]);
    expect(codesOf({ ticket: 17 }, core.readDefinitions)).toEqual(["wrong-type"]);
    expect(JSON.stringify(core.definitionSchema())).toContain("Where it was asked for");
  });
});

describe("a command that is added as the page says", () => {
  const ask = async (...words: string[]) => {
    let said = "";
    const add = (text: string) => {
      said += text;
    };
    return { code: await commandLine.run(words, { out: add, err: add, colour: false }, "0.0.0"), said };
  };

  it("is run, and stands in the help", async () => {
    expect(await ask("hail", "Sula")).toEqual({ code: 0, said: "Hail, Sula!\n" });
    expect((await ask("--help")).said).toMatch(/hail.*Is anybody there\?/s);
    expect((await ask("hail", "--help")).said).toContain("iudex hail Sula");
  });

  it("is missed on the page of commands, where each has its answer", async () => {
    expect(await commandsWithoutAnswer(commandLine.commands)).toEqual(["hail"]);
    expect(await commandsWithoutAnswer(commands)).toEqual([]);
  });
});
