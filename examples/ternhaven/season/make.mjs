// A made-up season of the ferry line: who got what of six flags, and what came of it. The same numbers each time, so that
// what is true is known:
//
//   early-boarding   helps: three more book for each ten who do without it
//   calm-colours     does nothing
//   short-form       helps a little, and cancellations rise by three in a hundred people
//   quay-map         the page with the map lost a part of its verdicts: the scales are off
//   weekend-fares    does nothing; its share was raised before a weekend, and weekend guests hardly book
//   freight-quotes   does nothing; a few large orders hide it, unless each counts for no more than 5,000 crowns
//
//   node examples/ternhaven/season/make.mjs FOLDER
import { createWriteStream, mkdirSync } from "node:fs";
import { join } from "node:path";
import { finished } from "node:stream/promises";
import { verdictLog } from "iudex";
import { flagsFromFolder, testClock } from "iudex/testing";

const folder = process.argv[2];
if (folder === undefined) throw new Error("Say where the season goes: node examples/ternhaven/season/make.mjs FOLDER");
mkdirSync(folder, { recursive: true });

const people = 20_000;
const hour = 3_600_000;
const begin = Date.parse("2026-10-05T06:00:00Z");
const days = 7;

/** Marsaglia's xorshift of 32 bits, 2003: the same season each time. */
let state = 20_261_005;
function random() {
  state ^= state << 13;
  state ^= state >>> 17;
  state ^= state << 5;
  return (state >>> 0) / 2 ** 32;
}

const clock = testClock(new Date(begin));
const flags = await flagsFromFolder(join(import.meta.dirname, "flags"), { environment: "production", clock });
const verdicts = createWriteStream(join(folder, "verdicts.ndjson"));
const outcomes = createWriteStream(join(folder, "outcomes.ndjson"));
const log = verdictLog(verdicts);
// Where the map was shown, one page in eight was closed before it could say so.
flags.on("verdict", (event) => {
  if (event.verdict.variant !== "map" || random() > 0.125) log(event);
});

const came = (subject, at, measure, value) =>
  outcomes.write(`${JSON.stringify({ subject, at: new Date(at).toISOString(), measure, value })}\n`);

for (let i = 0; i < people; i++) {
  const at = begin + Math.floor((random() * days * 24 * hour) / people) + Math.floor((i * days * 24 * hour) / people);
  clock.set(new Date(at));
  const subject = `A-${i + 1}`;
  const context = { account: { id: subject } };
  const isEarly = flags.value("early-boarding", context);
  flags.value("calm-colours", context);
  const isShort = flags.value("short-form", context) === "short";
  flags.value("quay-map", context);
  flags.value("weekend-fares", context);
  flags.value("freight-quotes", context);
  const weekday = new Date(at).getUTCDay();
  const isWeekend = weekday === 0 || weekday === 6;
  const usual = isWeekend ? 0.03 : 0.12;
  if (random() < usual * (isEarly ? 1.3 : 1) * (isShort ? 1.05 : 1)) came(subject, at + random() * 48 * hour, "booked");
  if (random() < (isShort ? 0.06 : 0.03)) came(subject, at + random() * 96 * hour, "cancelled");
  came(subject, at + random() * hour, "minutes", Math.round(-Math.log(1 - random()) * 80) / 10);
  // Quantities of freight have a heavy tail.
  if (random() < 0.3) came(subject, at + random() * 72 * hour, "crowns", Math.round(200 * (1 - random()) ** -0.9));
}
verdicts.end();
outcomes.end();
await Promise.all([finished(verdicts), finished(outcomes)]);
await flags.close();
