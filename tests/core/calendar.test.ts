import { createRequire } from "node:module";
import fc from "fast-check";
import { Temporal } from "temporal-polyfill";
import { describe, expect, it } from "vitest";
import { parseHours } from "../../src/calendar/hours.ts";
import { isZone, nearestZone, readInstant, showInstant, writtenDate } from "../../src/calendar/instant.ts";
import { canEverBeOpen, TimeWindow } from "../../src/calendar/window.ts";
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

  it("a last day is inside to its end, also where it ends at another offset than it began, and means that until", () => {
    const ends = (window: object) =>
      defined({ windows: { w: window }, flags: { a: { safe: 1 } } }).windows.get("w")!.window.parts.until;
    for (const [through, until] of [
      ["2026-12-24", "2026-12-25"],
      ["2026-10-25", "2026-10-26"],
      ["2028-02-28", "2028-02-29"],
      ["2026-12-31", "2027-01-01"],
    ])
      expect([through, ends({ through, zone: "Atlantic/Faroe" })]).toEqual([
        through,
        ends({ until, zone: "Atlantic/Faroe" }),
      ]);
    const set = (window: object) => defined({ windows: { w: window }, flags: { a: { safe: 1 } } }).revision;
    expect(set({ through: "2026-12-24", zone: "UTC" })).toBe(set({ until: "2026-12-25", zone: "UTC" }));
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
    [{ through: "2026-12-24", zone: "UTC" }, []],
    [{ from: "2026-12-24", through: "2026-12-24", zone: "UTC" }, []],
    [{ from: "2026-12-24", through: "2026-12-23", zone: "UTC" }, ["window-turned"]],
    [{ until: "2026-12-24", through: "2026-12-24", zone: "UTC" }, ["not-exactly-one"]],
    [{ through: "2026-12-24T18:00", zone: "UTC" }, ["time-invalid"]],
    [{ through: "2026-02-30", zone: "UTC" }, ["time-invalid"]],
    [{ through: "2026-12-24" }, ["zone-missing"]],
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
  const noSpan = (text: string) => `“${text}” is not a span of time; write HH:MM-HH:MM, or “off”.`;
  const noStart = (text: string) => `“${text}” is not a time of day; a span starts between 00:00 and 23:59.`;
  const noEnd = (text: string) => `“${text}” is not a time of day; a span ends between 00:00 and 24:00.`;
  const noTimes = "These days have no times; write “off” if they are closed.";
  const noBlank = "A blank is needed between the days and the times.";
  const noRule = "There is an empty rule here.";

  it.each<[hours: string, marked: string, message: string, help?: string]>([
    ["Mo-Mo 07:00-08:00", "Mo-Mo", "“Mo-Mo” is a range with one end; write “Mo”."],
    ["Mo,Tu-Tu 07:00-08:00", "Mo,Tu-Tu", "“Tu-Tu” is a range with one end; write “Tu”."],
    ["Mo", "Mo", noTimes],
    ["Mo ", "Mo ", noTimes],
    ["Mo 07:00-08:00; Tu", "Tu", noTimes],
    ["Mo-Fr07:00-08:00", "Mo-Fr07:00-08:00", noBlank],
    ["07:00-07:00", "07:00-07:00", "“07:00-07:00” begins where it ends; write 00:00-24:00 for the whole day."],
    ["24:00-07:00", "24:00-07:00", noStart("24:00")],
    ["23:60-23:00", "23:60-23:00", noStart("23:60")],
    ["07:00-24:30", "07:00-24:30", noEnd("24:30")],
    ["07:00-23:60", "07:00-23:60", noEnd("23:60")],
    ["7:00-8:00", "7:00-8:00", noSpan("7:00-8:00")],
    ["07:00-08:00x", "07:00-08:00x", noSpan("07:00-08:00x")],
    ["Mo-Fr 07:00-08:00;", "", noRule],
    ["Mo-Fr 07:00-08:00; ;Tu off", ";", noRule],
    ["", "", noRule],
    [" Mo 07:00-08:00", " Mo 07:00-08:00", noSpan(" Mo 07:00-08:00")],
    ["Mo 07:00 -08:00", "07:00 -08:00", noSpan("07:00 -08:00")],
    ["Mo 07:00-08:00, 9-10", "9-10", noSpan("9-10")],
    ["Mo   07:00-08:00,  12:00-13:00,x", "x", noSpan("x")],
    ["Mo 07:00-08:00,", "", "A span of time is missing here; write HH:MM-HH:MM."],
    [
      "Mo 07:00-08:00; Tu 09:00-09:00",
      "09:00-09:00",
      "“09:00-09:00” begins where it ends; write 00:00-24:00 for the whole day.",
    ],
    ["Mo closed", "closed", noSpan("closed")],
    ["Mo, Tu 07:00-08:00", "Mo, Tu 07:00-08:00", noBlank, "write Mo,Tu 07:00-08:00: no blank between days"],
    ["Mon-Fri 08:00-12:00", "Mon-Fri 08:00-12:00", noBlank, "write Mo-Fr 08:00-12:00: days have two letters, as in Mo"],
    [
      "Mo 07:00-08:00; wednesday off",
      "wednesday off",
      noSpan("wednesday off"),
      "write We off: days have two letters, as in Mo",
    ],
    [
      "mo 07:00-08:00",
      "mo 07:00-08:00",
      noSpan("mo 07:00-08:00"),
      "write Mo 07:00-08:00: days have two letters, as in Mo",
    ],
    ["sunrise-sunset", "sunrise-sunset", noSpan("sunrise-sunset")],
  ])("“%s” cannot be read", (hours, marked, message, help) => {
    const { span, ...fault } = parseHours(hours).fault!;
    expect(fault).toEqual({ message, help });
    // A mark has a width also where nothing stands.
    expect([hours.slice(span.start, span.end), span.end > span.start]).toEqual([marked, true]);
  });

  it.each<[string, Record<number, (readonly [number, number])[]>]>([
    [
      "00:00-24:00",
      {
        0: [[0, 1440]],
        1: [[0, 1440]],
        2: [[0, 1440]],
        3: [[0, 1440]],
        4: [[0, 1440]],
        5: [[0, 1440]],
        6: [[0, 1440]],
      },
    ],
    ["Fr-Mo 23:59-00:00", { 4: [[1439, 1440]], 5: [[1439, 1440]], 6: [[1439, 1440]], 0: [[1439, 1440]] }],
    [
      "Mo,We-Th 22:00-02:00, 08:59-09:00",
      {
        0: [
          [1320, 1560],
          [539, 540],
        ],
        2: [
          [1320, 1560],
          [539, 540],
        ],
        3: [
          [1320, 1560],
          [539, 540],
        ],
      },
    ],
    ["Mo-Su 08:00-09:00;  Tu-Su off; Su 10:00-11:00", { 0: [[480, 540]], 6: [[600, 660]] }],
  ])("“%s” are read", (hours, days) => {
    const week = parseHours(hours).week!.map((spans) => spans.map(({ start, end }) => [start, end]));
    expect(week).toEqual(Array.from({ length: 7 }, (_, day) => days[day] ?? []));
  });
});

describe("a window", () => {
  const zones = ["UTC", "Europe/Berlin", "America/St_Johns", "Pacific/Apia"];
  /** Around the changes of clocks in Berlin and St John's, and the day that Apia left out. */
  const begin = [Date.UTC(2026, 2, 5), Date.UTC(2026, 9, 20), Date.UTC(2011, 11, 25)];
  const quarter = 15 * 60_000;
  const instants = fc
    .tuple(fc.constantFrom(...begin), fc.integer({ min: 0, max: 96 * 30 }), fc.constantFrom(-1, 0, 1))
    .map(([since, quarters, off]) => since + quarters * quarter + off);
  const spans = fc.array(
    fc
      .tuple(fc.integer({ min: 0, max: 95 }), fc.integer({ min: 1, max: 96 }))
      .map(([start, length]) => ({ start: start * 15, end: (start + length) * 15 })),
    { maxLength: 2 },
  );
  const dates = fc
    .integer({ min: 0, max: 29 })
    .chain((day) =>
      fc.constantFrom(...begin).map((since) => new Date(since + day * 86_400_000).toISOString().slice(0, 10)),
    );
  const parts = fc.record({
    zone: fc.constantFrom(...zones),
    week: fc.option(fc.array(spans, { minLength: 7, maxLength: 7 }), { nil: undefined }),
    except: fc.array(dates, { maxLength: 4 }),
    from: fc.option(instants, { nil: undefined }),
    until: fc.option(instants, { nil: undefined }),
  });

  /** As the format says it, for one instant, without looking at any other. */
  function isOpen({ zone, week, except, from, until }: Parts, at: number): boolean {
    if ((from !== undefined && at < from) || (until !== undefined && at >= until)) return false;
    const today = Temporal.Instant.fromEpochMilliseconds(at).toZonedDateTimeISO(zone).toPlainDate();
    const instantOf = (day: Temporal.PlainDate, minutes: number) =>
      day.toPlainDateTime().add({ minutes }).toZonedDateTime(zone).epochMilliseconds;
    const days = [-2, -1, 0, 1].map((days) => today.add({ days }));
    const holds = (day: Temporal.PlainDate, spans: readonly { start: number; end: number }[]) =>
      spans.some(({ start, end }) => instantOf(day, start) <= at && at < instantOf(day, end));
    const isExcept = (day: Temporal.PlainDate) => except.includes(day.toString());
    if (week) return days.some((day) => !isExcept(day) && holds(day, week[day.dayOfWeek - 1]!));
    return !days.some((day) => isExcept(day) && holds(day, [{ start: 0, end: 1_440 }]));
  }
  type Parts = typeof parts extends fc.Arbitrary<infer T> ? T : never;

  it("is open when its hours, its bounds and the dates left out say so, whatever the clocks do", () => {
    fc.assert(
      fc.property(parts, fc.array(instants, { minLength: 1, maxLength: 12 }), (each, asked) => {
        const window = new TimeWindow(each);
        for (const at of asked) expect([at, window.isOpen(at)]).toEqual([at, isOpen(each, at)]);
      }),
      { numRuns: runs(500) },
    );
  });

  it("tells the stretch around an instant, and the next change", () => {
    fc.assert(
      fc.property(parts, instants, fc.double({ min: 0, max: 1, noNaN: true }), (each, at, part) => {
        const window = new TimeWindow(each);
        const open = isOpen(each, at);
        const stretch = window.stretch(at);
        expect(stretch.open).toBe(open);
        expect([stretch.from <= at, at < stretch.until]).toEqual([true, true]);
        const far = Math.min(stretch.until - 1, at + 40 * 86_400_000);
        for (const other of [Math.max(stretch.from, at - 40 * 86_400_000), far, Math.floor(at + part * (far - at))])
          expect([other, isOpen(each, other)]).toEqual([other, open]);
        const next = window.nextChange(at);
        const found = next ?? at + 40 * 86_400_000;
        expect(next === undefined || isOpen(each, next) !== open).toBe(true);
        for (const before of [found - 1, Math.floor(at + part * (found - 1 - at))])
          expect([before, isOpen(each, before)]).toEqual([before, open]);
        // Once a window has been asked far away, it says the same of where it was.
        window.isOpen(at + 400 * 86_400_000);
        expect(window.stretch(at)).toEqual(stretch);
      }),
      { numRuns: runs(500) },
    );
  });

  it("is never open where no instant between its bounds is", () => {
    fc.assert(
      fc.property(parts, (each) => {
        const { from, until, week } = each;
        const never = week?.every((spans) => spans.length === 0);
        const bounded = from !== undefined && until !== undefined && until - from <= 31 * 86_400_000;
        if (!never && !bounded) return;
        const steps = Array.from(
          { length: bounded ? Math.max(0, (until - from) / quarter) + 1 : 0 },
          (_, i) => from! + i * quarter,
        );
        const some = !never && steps.some((at) => isOpen(each, at) || isOpen(each, Math.floor(at / quarter) * quarter));
        expect(canEverBeOpen(new TimeWindow(each))).toBe(some);
      }),
      { numRuns: runs(100) },
    );
  });

  it("is shut at what is not an instant, and changes no more beyond its bounds", () => {
    const window = new TimeWindow({ from: 0, until: 1_000, zone: "UTC", week: undefined, except: [] });
    expect([-1, 0, 999, 1_000].map((at) => window.isOpen(at))).toEqual([false, true, true, false]);
    expect(window.stretch(-1)).toEqual({ open: false, from: Number.NEGATIVE_INFINITY, until: 0 });
    expect(window.stretch(0)).toEqual({ open: true, from: 0, until: 1_000 });
    expect(window.stretch(1_000)).toEqual({ open: false, from: 1_000, until: Number.POSITIVE_INFINITY });
    expect([-1, 0, 999, 1_000].map((at) => window.nextChange(at))).toEqual([0, 1_000, 1_000, undefined]);
    const always = new TimeWindow({ from: undefined, until: undefined, zone: "UTC", week: undefined, except: [] });
    expect([Number.NaN, Number.POSITIVE_INFINITY, 9e15].map((at) => always.isOpen(at))).toEqual([false, false, false]);
    expect(always.isOpen(8.64e15)).toBe(true);
    expect(always.nextChange(0)).toBeUndefined();
    const everyDay = new TimeWindow({
      from: undefined,
      until: undefined,
      zone: "UTC",
      week: Array(7).fill([{ start: 0, end: 1_440 }]),
      except: [],
    });
    expect(everyDay.nextChange(0)).toBeUndefined();
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

  it.each<[string, string | undefined, number | string]>([
    ["2026-12-01T09:00", "Nowhere/At", "no-zone"],
    ["2026-12-01T09:00", undefined, "no-zone"],
    ["2026-12-01", undefined, "no-zone"],
    ["2026-12-01T25:00", "UTC", "form"],
    ["2026-12-01 09:00", "UTC", "form"],
    ["2026-02-30", "UTC", "form"],
    ["2026-02-30T09:00", "UTC", "form"],
    ["soon", "UTC", "form"],
    ["2026-12-01T09:00Z", undefined, Date.UTC(2026, 11, 1, 9)],
    ["2026-12-01T09:00:00.1", "UTC", Date.UTC(2026, 11, 1, 9, 0, 0, 100)],
    ["2026-12-01T09:00:00.123999999", "Atlantic/Faroe", Date.UTC(2026, 11, 1, 9, 0, 0, 123)],
  ])("“%s” in %s is read as %s", (text, zone, expected) => {
    expect(readInstant(text, zone)).toBe(expected);
  });

  it("finds the zone that was meant", () => {
    const meant = {
      Faroe: "Atlantic/Faroe",
      "Atlantic/Faro": "Atlantic/Faroe",
      "Europe/Oslow": "Europe/Oslo",
      Berlin: "Europe/Berlin",
    };
    for (const [name, zone] of Object.entries(meant)) expect(nearestZone(name)).toBe(zone);
    expect(nearestZone("nowhere at all")).toBeUndefined();
    expect([isZone("Atlantic/Faroe"), isZone("atlantic/faroe"), isZone("Nowhere/At")]).toEqual([true, false, false]);
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
    expect(writtenDate(Number.NaN, undefined)).toBe("NaN ms");
    expect([8.64e15, -8.64e15].map((at) => showInstant(at))).toEqual([
      "+275760-09-13 00:00 UTC",
      "-271821-04-20 00:00 UTC",
    ]);
    expect(showInstant(8.64e15, "Pacific/Kiritimati")).toBe("8640000000000000 ms");
  });
});
