// Is docs/api what the sources say, and does every public name have a word of its own?
import { mkdtempSync, readdirSync, readFileSync, rmSync, statSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { deskSchema } from "./reference/desk-schema.mjs";
import { writeReference } from "./reference/typedoc.mjs";
import { root } from "./setup.mjs";

const fresh = mkdtempSync(join(tmpdir(), "iudex-reference-"));
const faults = await writeReference(fresh);
const [written, standing] = [pagesOf(fresh), pagesOf(join(root, "docs/api"))];
for (const page of new Set([...written.keys(), ...standing.keys()])) {
  if (written.get(page) !== standing.get(page))
    faults.push(`docs/api/${page} is not what the sources say: npm run generate`);
}
rmSync(fresh, { recursive: true });
if (deskSchema() !== readFileSync(join(root, "desk.schema.json"), "utf8"))
  faults.push("desk.schema.json is not what the sources say: npm run generate");
for (const fault of faults) console.error(fault);
console.log(faults.length === 0 ? `${written.size} pages, each as the sources say.` : "");
process.exitCode = faults.length > 0 ? 1 : 0;

function pagesOf(folder) {
  const names = readdirSync(folder, { recursive: true }).filter((name) => statSync(join(folder, name)).isFile());
  return new Map(names.map((name) => [name, readFileSync(join(folder, name), "utf8")]));
}
