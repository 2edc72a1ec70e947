import { createRequire } from "node:module";
import fc from "fast-check";
import { Temporal } from "temporal-polyfill";
import { describe, expect, it } from "vitest";
import { parseHours } from "../../src/calendar/hours.ts";
import { readInstant, showInstant, writtenDate } from "../../src/calendar/instant.ts";
import { zoneNames } from "../../src/calendar/zone-names.ts";
import { FlagSet } from "../../src/core.ts";
import { codes, defined } from "../support/definitions.ts";
import { runs } from "../support/runs.ts";

const desk = { zone: "Atlantic/Faroe", hours: "Mo-Fr 07:00-19:00; Sa 09:00-13:00", except: ["2026-12-25"] };

describe("windows", () => {
  it("answers the same in whatever order instants come", () => {
    const set = new FlagSet(
      defined({ windows: { w: desk }, flags: { a: { safe: false, rules: [{ when: "window:w", give: true }] } } }),
    );
    const instants = Array.from({ length: 400 }, (_, i) => Date.parse("2026-03-20T00:00Z") + i * 5_400_000);
    const forwards = instants.map((at) => set.value("a", {}, { at }));
    const backwards = [...instants].reverse().map((at) => set.value("a", {}, { at }));
    expect(backwards.reverse()).toEqual(forwards);
    expect(new Set(forwards).size).toBe(2);
  });

  it("tells when it changes next", () => {
    const { window } = defined({
      windows: { w: desk },
      flags: { a: { safe: true, provided: "window:w" } },
    }).windows.get("w")!;
    expect(new Date(window.nextChange(Date.parse("2026-12-24T20:00Z"))!).toISOString()).toBe(
      "2026-12-26T09:00:00.000Z",
    );
  });

  it.each<[object, string[]]>([
    [{ from: "2026-12-01", until: "2026-12-01", zone: "UTC" }, ["window-turned"]],
    [{ zone: "UTC" }, ["window-empty"]],
    [{ hours: "Mo 07:00-08:00" }, ["zone-missing"]],
    [{ from: "2026-02-30", zone: "UTC" }, ["time-invalid"]],
    [{ from: "2026-12-01T09:00Z" }, []],
    [{ hours: "off", zone: "UTC" }, ["window-never-open"]],
    [{ hours: "Mo 07:00-08:00", zone: "UTC", from: "2026-11-24", until: "2026-11-25" }, ["window-never-open"]],
    [{ from: "2026-11-24", until: "2026-11-25", except: ["2026-11-24"], zone: "UTC" }, ["window-never-open"]],
    [{ hours: "07:00-08:00", zone: "utc" }, ["zone-unknown"]],
  ])("%j → %j", (window, expected) => {
    expect(codes({ windows: { w: window }, flags: { a: { safe: true, provided: "window:w" } } })).toEqual(expected);
  });
});

describe("opening hours", () => {
  it.each([
    "Mo-Mo 07:00-08:00",
    "Mo",
    "Mo-Fr07:00-08:00",
    "07:00-07:00",
    "24:00-07:00",
    "07:00-24:30",
    "7:00-8:00",
    "Mo-Fr 07:00-08:00;",
    "Mo, Tu 07:00-08:00",
    " Mo 07:00-08:00",
    "Mo 07:00 -08:00",
    "Mo closed",
    "",
  ])("“%s” cannot be read", (hours) => {
    expect(parseHours(hours).fault?.message).toBeTruthy();
  });

  it("points at the span that is wrong", () => {
    expect(parseHours("Mo 07:00-08:00; Tu 09:00-09:00").fault).toMatchObject({ span: { start: 19, end: 30 } });
  });
});

describe("instants and zones", () => {
  it.each([
    ["2026-03-29T02:30", "Europe/Berlin", "2026-03-29T01:30:00.000Z"],
    ["2026-10-25T02:30", "Europe/Berlin", "2026-10-25T00:30:00.000Z"],
    ["2026-12-01", "Atlantic/Faroe", "2026-12-01T00:00:00.000Z"],
    ["2011-12-30", "Pacific/Apia", "2011-12-30T10:00:00.000Z"],
    ["2026-12-01T09:00:00.1239", "UTC", "2026-12-01T09:00:00.123Z"],
  ])("%s in %s is %s", (text, zone, instant) => {
    expect(new Date(readInstant(text, zone) as number).toISOString()).toBe(instant);
  });

  it("knows the names of the database, and no others", () => {
    const { zones } = createRequire(import.meta.url)("tzdata") as { zones: object };
    const names = Object.keys(zones).filter((name) => name !== "Factory");
    expect([...zoneNames].sort()).toEqual(names.sort());
  });
});

describe("instants for people", () => {
  const zones = [
    "UTC",
    "Atlantic/Faroe",
    "Asia/Kathmandu",
    "America/St_Johns",
    "Pacific/Kiritimati",
    "Africa/Monrovia",
  ];

  it("are the local time that the calendar says, in every zone and century", () => {
    const since = Date.UTC(1, 0, 1);
    const epochs = fc.oneof(
      fc.integer({ min: since, max: Date.UTC(9000, 0, 1) }),
      fc.integer({ min: 0, max: 40_000_000 }).map((minutes) => minutes * 60_000),
    );
    fc.assert(
      fc.property(epochs, fc.constantFrom(...zones), (epoch, zone) => {
        const local = Temporal.Instant.fromEpochMilliseconds(epoch).toZonedDateTimeISO(zone).toPlainDateTime();
        const smallestUnit = epoch % 60_000 === 0 && local.second === 0 ? "minute" : "second";
        expect(showInstant(epoch, zone)).toBe(`${local.toString({ smallestUnit }).replace("T", " ")} ${zone}`);
        expect(writtenDate(epoch, zone)).toContain(` ${local.year}`);
      }),
      { numRuns: runs(2_000) },
    );
  });

  it("leave out midnight, a whole minute's seconds, and what no date can name", () => {
    expect(writtenDate(Date.parse("2026-12-04T00:00Z"), undefined)).toBe("4 December 2026");
    expect(writtenDate(Date.parse("2026-07-04T08:05Z"), "Atlantic/Faroe")).toBe("4 July 2026, 09:05");
    expect(showInstant(Date.parse("2026-12-04T09:00Z"), undefined)).toBe("2026-12-04 09:00 UTC");
    expect(showInstant(Date.parse("2026-07-04T09:00:07.5Z"), "Atlantic/Faroe")).toBe(
      "2026-07-04 10:00:07 Atlantic/Faroe",
    );
    expect(showInstant(Number.POSITIVE_INFINITY, undefined)).toBe("Infinity ms");
    expect(showInstant(8.64e15, "Pacific/Kiritimati")).toBe("8640000000000000 ms");
  });
});
