// Reads a folder while the process has no file descriptor left, and once more when it has.
import { closeSync, openSync } from "node:fs";
import { loadFolder } from "iudex/tools";

const [folder] = process.argv.slice(2);
const whole = await loadFolder(folder);
const held = [];
// What it takes to list the folder and look at its files is left; a read of every file at once is not.
try {
  for (;;) held.push(openSync("/dev/null"));
} catch {
  for (const descriptor of held.splice(0, Number(process.argv[3]))) closeSync(descriptor);
}
const starved = await loadFolder(folder);
for (const descriptor of held) closeSync(descriptor);
const again = await loadFolder(folder, starved.content);
const seen = ({ definitions, problems }) => ({
  flags: definitions?.flags.size ?? 0,
  codes: [...new Set(problems.map(({ code }) => code))],
});
console.log(JSON.stringify([whole, starved, again].map(seen)));
