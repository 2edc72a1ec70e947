// npm run generate: writes the files that are made from the code; a test holds them to it.
import { readFile, writeFile } from "node:fs/promises";
import { join } from "node:path";
import { generatedFiles } from "./generated-files.mjs";
import { roomRules } from "./rooms.mjs";
import { ensureBuilt, ensureInstalled, root, runTool } from "./setup.mjs";

ensureInstalled();
await ensureBuilt();
const lint = JSON.parse(await readFile(join(root, "biome.json"), "utf8"));
const isOfRooms = ({ includes, linter }) =>
  includes.every((path) => path.startsWith("src/")) && linter?.rules?.style?.noRestrictedImports !== undefined;
lint.overrides = [...lint.overrides.filter((each) => !isOfRooms(each)), ...roomRules()];
await writeFile(join(root, "biome.json"), `${JSON.stringify(lint, undefined, 2)}\n`);
runTool("biome", ["format", "--write", "biome.json"]);
for (const [file, text] of Object.entries(await generatedFiles())) await writeFile(join(root, file), text);
// What it needs may only just have been installed.
const { writeReference } = await import("./reference/typedoc.mjs");
const { deskSchema } = await import("./reference/desk-schema.mjs");
await writeFile(join(root, "desk.schema.json"), deskSchema());
for (const fault of await writeReference(join(root, "docs/api"))) console.error(fault);
