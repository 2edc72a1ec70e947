// What the compiler shows of a slip, where it stands, to programs of both kinds of modules, the library's own types checked.
import { execFile } from "node:child_process";
import { mkdir, symlink, writeFile } from "node:fs/promises";
import { join } from "node:path";
import { promisify } from "node:util";
import { expect, it } from "vitest";
import { projectRoot } from "../support/folders.ts";
import { scratch } from "../support/scratch.ts";

const run = promisify(execFile);

const program = `
import { defineCatalogue, followFlags, text, yesNo } from "iudex";
import { folderShelf } from "iudex/fleet";
import { nodeGate, not } from "iudex/http";
import * as rest from "iudex/tools";
const catalogue = defineCatalogue({ "storm-mode": yesNo({ fallback: false }), "seat-map": text(["list", "deck"], { fallback: "list" }) });
const shelf = folderShelf("./shelf", { set: "ternhaven" });
export async function main() {
  const flags = await followFlags("./flags", { catalogue, environment: "production" });
  const map: "list" | "deck" = flags.value("seat-map", {});
  const followed = await followFlags(shelf, { catalogue, staleAfter: 60_000 });
  const same: "list" | "deck" = followed.value("seat-map", {});
  await followFlags<typeof catalogue>(shelf, { catalogue });
  const gate = nodeGate(flags, { context: () => ({}) });
  gate.closedUnless("storm-mode");
  gate.divert("seat-map", { list: () => map, deck: () => same, otherwise: () => rest });
  gate.divert("storm-mode", { to: () => 1, otherwise: () => 2 });
  const plain = nodeGate(await followFlags("./flags"), { context: () => ({}) });
  plain.closedUnless("anything");
  await followFlags("./flags", { enviroment: "production" });
  await followFlags(shelf, { stalAfter: 1 });
  gate.closedUnless("seat-map");
  gate.closedWhile("seat-map");
  gate.closedUnless(not("seat-map"));
  gate.divert("seat-map", { to: () => 1, otherwise: () => 2 });
}
`;

const firstSlip = program.split("\n").findIndex((line) => line.includes("enviroment")) + 1;

it.each([
  ["CommonJS", "cts", ["--module", "node16"]],
  ["ES modules", "mts", ["--module", "nodenext"]],
  ["a bundler", "ts", ["--module", "esnext", "--moduleResolution", "bundler"]],
])("%s: nothing but slips, each at its own place", async (_, ending, options) => {
  const home = await scratch();
  await mkdir(join(home, "node_modules"));
  await symlink(projectRoot, join(home, "node_modules/iudex"));
  await symlink(join(projectRoot, "node_modules/@types"), join(home, "node_modules/@types"));
  await writeFile(join(home, `program.${ending}`), program);
  const tsc = join(projectRoot, "node_modules/.bin/tsc");
  const strict = ["--noEmit", "--strict", "--skipLibCheck", "false", "--target", "es2022", "--types", "node"];
  const { stdout } = await run(tsc, [...strict, ...options, `program.${ending}`], { cwd: home }).catch(
    (error: { stdout: string }) => error,
  );
  const said = [...stdout.matchAll(/^program\.\w+\((\d+),(\d+)\): error TS\d+: (.*)$/gm)];
  const places = said.map(([, line, column]) =>
    program.split("\n")[Number(line) - 1]!.slice(Number(column) - 1, Number(column) + 9),
  );
  expect(stdout.split("\n").filter((line) => /^\S/.test(line))).toHaveLength(said.length);
  expect(said.map(([, line]) => Number(line))).toEqual([0, 1, 2, 3, 4, 5].map((n) => firstSlip + n));
  expect(places.slice(0, 2)).toEqual(["enviroment", "stalAfter:"]);
  expect(said[0]![3]).toContain("Did you mean to write 'environment'?");
});
