// Follows a folder, tells what it thinks of a file that is written into it, and how much memory that took.
import { writeFile } from "node:fs/promises";
import { join } from "node:path";
import { followFlags } from "iudex";
import { hostileText } from "./hostile-texts.mjs";

const [folder, file, kind] = process.argv.slice(2);
const flags = await followFlags(folder, { watch: { quiet: 20 } });
const told = new Promise((resolve) => {
  flags.on("rejected", ({ problems }) =>
    resolve({ codes: problems.map(({ code }) => code), last: problems.at(-1).message }),
  );
  flags.on("change", ({ summary }) => resolve({ taken: summary }));
});
const before = process.memoryUsage().rss;
let most = 0;
setInterval(() => {
  most = Math.max(most, process.memoryUsage().rss - before);
}, 5);
await writeFile(join(folder, file), hostileText(kind));
const answer = await told;
console.log(JSON.stringify({ ...answer, value: flags.value("a"), megabytes: Math.round(most / 2 ** 20) }));
process.exit(0);
