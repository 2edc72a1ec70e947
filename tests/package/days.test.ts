import { readdir, readFile } from "node:fs/promises";
import { extname, join } from "node:path";
import { expect, it } from "vitest";
import { dayOf, instants, locales, zones } from "../../scripts/day/days.mjs";
import { projectRoot } from "../support/folders.ts";

/** Reads what day it is: the clock itself, not how long something takes. */
const readsClock = /\bDate\.now\b|\bnew Date\(\)|\bDate\(\)|\bTemporal\.Now\b/;

/** Who may, and why. What they show or expect is the same on any day. */
const may: Readonly<Record<string, string>> = {
  "examples/booking/page/src/booking.tsx": "a hold runs out after so many minutes, told by the service",
  "examples/booking/page/src/hold-card.tsx": "a hold runs out after so many minutes, told by the service",
  "examples/booking/server/clock.ts": "the clock of the service, which starts in the story",
  "scripts/day/days.mjs": "works out how far away another day is",
  "scripts/screenshots.sh": "works out how far away the story is",
  "tests/cli/making.test.ts": "passes run out by the clock of the process",
  "tests/api/passes.test.ts": "passes run out by the clock of the process",
  "tests/fleet/faults.test.ts": "clocks that are an hour apart",
  "tests/fleet/strangers.test.ts": "a server whose clock is an hour ahead",
  "tests/fleet/following.test.ts": "how long ago a shelf was asked",
  "tests/http/attacks.test.ts": "passes run out by the clock of the process",
  "tests/http/requests.test.ts": "passes run out by the clock of the process",
  "tests/page/bad-service.test.ts": "a date in Retry-After is by the clock of the process",
};

async function sourcesIn(folder: string): Promise<string[]> {
  const found = await readdir(join(projectRoot, folder), { recursive: true, withFileTypes: true });
  return found
    .filter((each) => each.isFile() && [".ts", ".tsx", ".mjs", ".js", ".sh"].includes(extname(each.name)))
    .map(({ parentPath, name }) => join(parentPath, name).slice(projectRoot.length))
    .filter((path) => !/node_modules|\bdist\b/.test(path));
}

it("no test, example or script reads what day it is, but for those that may", async () => {
  const reading: string[] = [];
  for (const folder of ["tests", "examples", "scripts"])
    for (const file of await sourcesIn(folder))
      if (readsClock.test(await readFile(join(projectRoot, file), "utf8"))) reading.push(file);
  expect(reading.sort()).toEqual(Object.keys(may).sort());
});

it("each run is held on a day that it names, and can be held on it again", () => {
  const { name, env } = dayOf();
  const [instant, zone, locale] = name.split(" ") as [string, string, string];
  expect([instants, zones, locales].map((all, i) => all.includes([instant, zone, locale][i]!))).toEqual([
    true,
    true,
    true,
  ]);
  expect(dayOf(name).env).toMatchObject({ TZ: env["TZ"], LC_ALL: env["LC_ALL"] });
  expect(dayOf("today").env).toEqual({});
  expect(() => dayOf("tomorrow")).toThrow("IUDEX_DAY");
});
