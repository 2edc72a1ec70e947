// The day, the place and the language in which the tests are held: drawn anew for each run, and named.

import { join } from "node:path";
import { pathToFileURL } from "node:url";

/** A Saturday in summer, a leap day about to end, both clock changes of the islands and of Europe, a far year. */
export const instants = [
  "2027-07-17T13:40:00Z",
  "2028-02-29T23:59:30Z",
  "2027-03-28T00:59:00Z",
  "2027-10-31T00:59:00Z",
  "2031-05-14T09:00:00Z",
];
export const zones = ["Pacific/Auckland", "America/St_Johns", "Europe/Berlin", "Atlantic/Faroe", "UTC"];
export const locales = ["C", "tr_TR.UTF-8", "de_DE.UTF-8"];

const draw = (all) => all[Math.floor(Math.random() * all.length)];

/**
 * The environment for tests of another day, with its name; nothing is changed by the day `today`.
 *
 * @param {string | undefined} wanted such as `2031-05-14T09:00:00Z Europe/Berlin C`; drawn if left out
 */
export function dayOf(wanted = [draw(instants), draw(zones), draw(locales)].join(" ")) {
  if (wanted === "today") return { name: wanted, env: {} };
  const [instant = "", zone, locale] = wanted.split(" ");
  const shift = Date.parse(instant) - Date.now();
  if (!Number.isFinite(shift) || !zone || !locale)
    throw new Error(
      `IUDEX_DAY=“${wanted}” is not an instant, a zone and a locale, such as “2031-05-14T09:00:00Z UTC C”.`,
    );
  const preload = pathToFileURL(join(import.meta.dirname, "preload.mjs")).href;
  const options = [process.env.NODE_OPTIONS, `--import=${preload}`].filter(Boolean).join(" ");
  return { name: wanted, env: { NODE_OPTIONS: options, IUDEX_CLOCK_SHIFT: String(shift), TZ: zone, LC_ALL: locale } };
}
