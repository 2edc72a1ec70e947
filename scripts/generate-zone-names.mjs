// Writes src/calendar/zone-names.ts from the time-zone database (package tzdata); a test holds the two together.
import { writeFile } from "node:fs/promises";
import { createRequire } from "node:module";
import { fileURLToPath } from "node:url";

const tzdata = createRequire(import.meta.url)("tzdata");

export function zoneNamesModule() {
  const names = Object.keys(tzdata.zones)
    .filter((name) => name !== "Factory")
    .sort();
  return `// Made by scripts/generate-zone-names.mjs from the IANA time-zone database. Do not edit.

/** Every zone and link name, spelt as in the database. */
export const zoneNames: ReadonlySet<string> = new Set(
  \`
${wrap(names)}
\`
    .trim()
    .split(/\\s+/),
);
`;
}

function wrap(names) {
  const lines = [""];
  for (const name of names) {
    if (lines.at(-1).length + name.length > 110) lines.push("");
    lines.push(`${lines.pop()}${lines.at(-1) === "" ? "" : " "}${name}`.trim());
  }
  return lines.join("\n");
}

if (process.argv[1] === fileURLToPath(import.meta.url)) {
  await writeFile(new URL("../src/calendar/zone-names.ts", import.meta.url), zoneNamesModule());
}
