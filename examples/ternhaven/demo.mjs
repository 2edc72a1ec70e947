// The main job in a few seconds: flags judged from files, a file saved, the new verdicts without a restart, and a
// broken file refused. Everything happens on a temporary copy of the demo folder.
import { cp, mkdtemp, readFile, rm, writeFile } from "node:fs/promises";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { fileURLToPath } from "node:url";
import { followFlags, formatExplanation, renderProblems } from "iudex";

const kari = {
  account: { id: "C-204", plan: "foot" },
  email: "kari@ternhaven.example",
  trips: 12,
  app: { version: "4.3.0" },
};
const oda = {
  account: { id: "A-17", plan: "vehicle" },
  email: "oda@post.example",
  trips: 104,
  app: { version: "4.2.1" },
};
const jonas = {
  account: { id: "A-2040", plan: "freight" },
  email: "jonas@haulage.example",
  trips: 31,
  app: { version: "4.1.0" },
};
const people = { "Kari, a captain": kari, "Oda, by car": oda, "Jonas, freight": jonas };

const bold = (text) => (process.stdout.isTTY ? `\u001b[1m${text}\u001b[22m` : text);
const say = (text = "") => console.log(text);
/** Broken between words at 90 columns, the lines behind the first set in further. */
const wrapped = (text) => `  ${text}`.replace(/(.{1,90})(?: |$)/g, "$1\n    ").trimEnd();
const chapter = (text) => say(`\n${bold(text)}`);

const home = await mkdtemp(join(tmpdir(), "ternhaven-"));
const folder = join(home, "flags");
await cp(fileURLToPath(new URL("flags", import.meta.url)), folder, { recursive: true });

// The story happens at noon on the islands, whatever day it is here.
const noon = Date.parse("2026-12-02T12:00:00Z");
const flags = await followFlags(folder, { environment: "production", clock: () => noon });
// Watching keeps no process alive; a service has its server for that, this script a timer.
const awake = setInterval(() => {}, 1_000);
const next = (event) => new Promise((resolve) => flags.on(event, resolve));

try {
  chapter("1  Ternhaven Ferries opens its flags");
  say(
    `${flags.names.length} flags, revision ${flags.revision.slice(0, 12)}, at noon on 2 December 2026, the time of the story:\n`,
  );
  table();

  chapter("2  Why does Oda not pay by zone yet?");
  say(formatExplanation(flags.explain("zone-fares", oda), { zone: "Atlantic/Faroe" }));

  chapter("3  Somebody raises “one in ten” to everyone who crosses often, and saves the file");
  const changed = next("change");
  await edit("fares.yaml", "when: trips > 100\n        share: 10%", "when: trips > 100");
  const { from, to, changes } = await changed;
  say(`Revision ${from.slice(0, 12)} has become ${to.slice(0, 12)}. What it means:`);
  for (const { name, words } of changes) for (const each of words) say(wrapped(`${name}: ${each}`));
  say();
  table("zone-fares");

  chapter("4  The next save is a slip of the hand");
  const rejected = next("rejected");
  await edit("fares.yaml", "when: trips > 100", "when: tripps > 100 && not contractor");
  const { problems } = await rejected;
  const text = await readFile(join(folder, "fares.yaml"), "utf8");
  say(renderProblems(problems, { text: () => text }));
  say(`\nThe file is refused; revision ${flags.revision.slice(0, 12)} goes on answering:\n`);
  table("zone-fares");
} finally {
  clearInterval(awake);
  await flags.close();
  await rm(home, { recursive: true });
}
say("\nThat is all. `npx iudex why zone-fares --help` shows how to ask such questions yourself.");

async function edit(file, from, to) {
  const path = join(folder, file);
  const before = await readFile(path, "utf8");
  if (!before.includes(from)) throw new Error(`${file} has no “${from}” to change`);
  await writeFile(path, before.replace(from, to));
}

function table(only) {
  const names = flags.names.filter((name) => only === undefined || name === only);
  say(["".padEnd(18), ...Object.keys(people).map((who) => who.padEnd(18))].join(""));
  for (const name of names) {
    const shown = Object.values(people).map((person) => shortly(flags.verdict(name, person)).padEnd(18));
    say([name.padEnd(18), ...shown].join(""));
  }
}

function shortly({ value, variant }) {
  return variant ?? (typeof value === "object" ? `${value.lanes} lanes` : String(value));
}
