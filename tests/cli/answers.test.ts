import { spawn } from "node:child_process";
import { readFile } from "node:fs/promises";
import { join } from "node:path";
import { createInterface } from "node:readline";
import { Ajv2020 } from "ajv/dist/2020.js";
import { expect, it } from "vitest";
import { binary, iudex } from "../support/command.ts";
import { demoFolder, demoPeople, folderWith, projectRoot, put } from "../support/folders.ts";
import { demoRepository } from "../support/repository.ts";
import { season, seasonFlags } from "../support/weighing.ts";

const schemas = JSON.parse(await readFile(join(projectRoot, "answers.schema.json"), "utf8")) as {
  $id?: string;
  $defs: Record<string, object>;
};
const ajv = new Ajv2020({
  strict: true,
  allowUnionTypes: true,
  formats: { "date-time": /^\d{4}-\d\d-\d\dT[\d:.]+(?:Z|[+-]\d\d:\d\d)$/ },
});
ajv.addSchema({ ...schemas, $id: "answers" });

function faultsOf(name: string, answer: unknown): unknown[] {
  const validate = ajv.getSchema(`answers#/$defs/${name}`)!;
  validate(answer);
  return validate.errors ?? [];
}

const production = ["--env", "production", "--at", "2026-12-05T12:00Z"];
const people = ["--people", join(demoPeople, "passengers.csv")];

it.each<[string, string[]]>([
  ["check", ["check"]],
  ["why", ["why", "zone-fares", ...production, "--as", "account.id=A-3", "trips=many"]],
  ["why", ["why", "seat-map", ...production, "--as", "account.id=A-3", "account.plan=foot", "app.version=4.2.0"]],
  ["whyCondition", ["why", "cohort:crew and trips > 3", ...production]],
  ["list", ["list"]],
  ["listCohorts", ["list", "cohorts"]],
  ["listWindows", ["list", "windows"]],
  ["listAttributes", ["list", "attributes"]],
  ["census", ["census", "zone-fares", ...production, ...people, "--by", "account.plan"]],
  ["census", ["census", "seat-map", ...production, ...people]],
  ["agenda", ["agenda", "--at", "2026-11-30T12:00Z"]],
  ["leftovers", ["leftovers", "--code", join(projectRoot, "examples")]],
  ["catalogue", ["catalogue"]],
])("the answer of %s is as its schema says: %j", async (name, words) => {
  const { out } = await iudex(...words, "--json", "--flags", demoFolder);
  expect(faultsOf(name, JSON.parse(out))).toEqual([]);
});

it("holds for what is weighed and planned", async () => {
  const folder = await season();
  const files = ["--verdicts", join(folder, "verdicts.ndjson"), "--outcomes", join(folder, "outcomes.ndjson")];
  const ask = async (...words: string[]) =>
    JSON.parse((await iudex("weigh", ...words, "--json", "--flags", seasonFlags)).out) as unknown;
  const guarded = ["early-boarding", "--env", "production", ...files, "--guard", "cancelled=1 more"];
  expect(faultsOf("weigh", await ask(...guarded))).toEqual([]);
  expect(faultsOf("weigh", await ask("quay-map", "--env", "production", ...files))).toEqual([]);
  expect(faultsOf("weighPlan", await ask("--plan", "--rate", "4%", "--tell", "0.5", "--daily", "900"))).toEqual([]);
});

it("holds for answers about a repository, and for edits", async () => {
  const { folder, commit } = await demoRepository();
  const ask = async (...words: string[]) =>
    JSON.parse((await iudex(...words, "--json", "--flags", folder)).out) as unknown;
  expect(faultsOf("edit", await ask("suspend", "zone-fares", "--yes", "--env", "production", ...people))).toEqual([]);
  expect(faultsOf("edit", await ask("suspend", "zone-fares", "--yes", "--env", "production"))).toEqual([]);
  expect(faultsOf("edit", await ask("set", "hold-minutes", "--rule", "1", "--give", "90", "--yes"))).toEqual([]);
  expect(faultsOf("diff", await ask("diff", ...production, ...people))).toEqual([]);
  commit("Stopped");
  expect(faultsOf("history", await ask("history"))).toEqual([]);
});

it("holds for what is made: a starter, a pass, and each line of watching", async () => {
  const { folder } = await demoRepository();
  const home = join(folder, "..");
  const made = await iudex("new", join(home, "more"), "--json");
  expect(faultsOf("new", JSON.parse(made.out))).toEqual([]);
  await put(
    home,
    "key.json",
    JSON.stringify({ kty: "oct", kid: "k", alg: "HS256", k: "c2VjcmV0LXNlY3JldC1zZWNyZXQtc2VjcmV0LXNlY3JldA" }),
  );
  const signed = ["pass", "storm-mode=true", "--for", "5m", "--key", join(home, "key.json"), "--json"];
  const { out } = await iudex(...signed, "--env", "production", "--flags", folder);
  expect(faultsOf("pass", JSON.parse(out))).toEqual([]);
  const pair = await iudex("key", "--for", "stops", "--to", join(home, "stop-key.json"), "--json");
  expect(faultsOf("key", JSON.parse(pair.out))).toEqual([]);
  const child = spawn(process.execPath, [binary, "watch", "--env", "production", "--json", "--flags", folder]);
  const lines = createInterface(child.stdout)[Symbol.asyncIterator]();
  const next = async () => JSON.parse((await lines.next()).value as string) as { event: string };
  const said = [await next()];
  await put(folder, "operations.yaml", "iudex: 1\nflags: [");
  said.push(await next());
  await put(
    folder,
    "operations.yaml",
    (await readFile(join(demoFolder, "operations.yaml"), "utf8")).replace("safe: false", "safe: true"),
  );
  said.push(await next());
  child.kill("SIGTERM");
  expect(said.map(({ event }) => event)).toEqual(["watching", "rejected", "change"]);
  expect(said.flatMap((line) => faultsOf("watch", line))).toEqual([]);
});

it("names every answer, and refuses what is none", async () => {
  expect(faultsOf("check", { problems: [{ severity: "odd" }] })).not.toEqual([]);
  const empty = await folderWith({});
  const { out } = await iudex("check", "--json", "--flags", empty);
  expect(faultsOf("check", JSON.parse(out))).toEqual([]);
  const page = await readFile(join(projectRoot, "docs/commands.md"), "utf8");
  const parts = [
    "problem",
    "lack",
    "conditionTrace",
    "testTrace",
    "share",
    "split",
    "step",
    "use",
    "weighedInterval",
    "weighedDifference",
    "change",
    "given",
    "read",
    "reach",
    "environmentReach",
    "valueCount",
    "edition",
    "follower",
  ];
  for (const name of Object.keys(schemas.$defs))
    if (!parts.includes(name)) expect(page).toContain(`\`#/$defs/${name}\``);
});
