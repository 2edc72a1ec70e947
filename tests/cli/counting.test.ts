import { execFile } from "node:child_process";
import { readFile, writeFile } from "node:fs/promises";
import { dirname, join } from "node:path";
import { promisify } from "node:util";
import { FlagSet } from "iudex/core";
import { loadFolder } from "iudex/tools";
import { describe, expect, it, onTestFinished, vi } from "vitest";
import { progressLine } from "../../src/cli/progress.ts";
import { chanceInterval } from "../../src/insight/census/chance.ts";
import { eventsOf } from "../support/calendar.ts";
import { binary, iudex } from "../support/command.ts";
import { demoFolder, demoPeople, folderWith } from "../support/folders.ts";

const passengers = join(demoPeople, "passengers.csv");
const at = "2026-12-05T12:00Z";
const demo = ["--flags", demoFolder, "--env", "production", "--at", at];

interface Census {
  contexts: number;
  values: { value: unknown; variant?: string; count: number; percent: number }[];
  divisions: {
    asked: number;
    share?: { count: number; interval: [number, number]; pastEarlierShare?: number };
    split?: { variant: string; count: number }[];
  }[];
  missing: Record<string, number>;
  by: { groups: { group?: string; contexts: number; values: { count: number }[] }[] };
  read: { unreadableLines: number; firstUnreadable?: { line: number }; unreadableValues: Record<string, number> };
}

async function census(...words: string[]): Promise<Census> {
  return JSON.parse((await iudex("census", ...words, "--json")).out) as Census;
}

describe("the same people", () => {
  const set = `iudex: 1
flags:
  busy: { safe: false, by: account.id, rules: [{ when: trips > 5, give: true }] }
  crew: { safe: false, rules: [{ when: contractor, give: true }] }
  named: { safe: false, rules: [{ when: 'pier == "7"', give: true }] }
`;
  const people = Array.from({ length: 40 }, (_, i) => ({
    account: { id: i },
    trips: i % 10,
    contractor: i % 2 === 0,
    pier: String(i % 9),
  }));

  it("get the same from CSV as from NDJSON, though nobody declares an attribute", async () => {
    const folder = await folderWith({ "flags/a.yaml": set });
    const cells = people.map(({ account, trips, contractor, pier }) => [account.id, trips, contractor, pier].join(","));
    await writeFile(join(folder, "people.csv"), ["account.id,trips,contractor,pier", ...cells].join("\n"));
    await writeFile(join(folder, "people.ndjson"), people.map((each) => JSON.stringify(each)).join("\n"));
    const counted = async (flag: string, file: string) => {
      const flags = ["--flags", join(folder, "flags")];
      const { code, out } = await iudex("census", flag, "--people", join(folder, file), ...flags, "--json");
      expect(code).toBe(0);
      return (JSON.parse(out) as { values: unknown }).values;
    };
    for (const [flag, count] of [
      ["busy", 16],
      ["crew", 20],
      ["named", 4],
    ] as const) {
      const fromCsv = await counted(flag, "people.csv");
      expect(fromCsv).toEqual(await counted(flag, "people.ndjson"));
      expect(fromCsv).toContainEqual(expect.objectContaining({ value: true, count }));
    }
  });

  it("a misspelt column or attribute is told of", async () => {
    const folder = await folderWith({ "flags/a.yaml": set });
    await writeFile(join(folder, "people.csv"), "account.id,tirps\n1,9\n");
    const flags = ["--flags", join(folder, "flags")];
    const census = await iudex("census", "busy", "--people", join(folder, "people.csv"), ...flags);
    expect(`${census.out}${census.err}`).toContain("nothing reads the column tirps; did you mean trips?");
    expect((await iudex("why", "busy", "--as", "tirps=9", ...flags)).err).toContain(
      "nothing reads tirps; did you mean trips?",
    );
  });
});

describe("iudex census", () => {
  it("counts what asking one by one gives", async () => {
    const { definitions } = await loadFolder(demoFolder);
    const set = new FlagSet(definitions!, "production");
    const [, ...rows] = (await readFile(passengers, "utf8")).trim().split("\n");
    const expected = new Map<string, number>();
    for (const row of rows) {
      const [id, plan, email, trips, contractor, version] = row.split(",");
      const context = {
        account: { id, plan },
        app: { version: version || undefined },
        email: email || undefined,
        trips: trips ? Number(trips) : undefined,
        contractor: contractor ? contractor === "true" : undefined,
      };
      const variant = set.verdict("seat-map", context, { at: Date.parse(at) })!.variant!;
      expected.set(variant, (expected.get(variant) ?? 0) + 1);
    }
    const { values, contexts, by } = await census("seat-map", "--people", passengers, "--by", "account.plan", ...demo);
    expect(contexts).toBe(rows.length);
    expect(new Map(values.map(({ variant, count }) => [variant!, count]))).toEqual(expected);
    expect(by.groups.map(({ group }) => group)).toEqual(["foot", "vehicle", "freight"]);
    expect(by.groups.reduce((sum, { contexts: n }) => sum + n, 0)).toBe(rows.length);
  });

  it("reads NDJSON as it reads CSV, and says what it could not read", async () => {
    const folder = await folderWith({});
    const file = join(folder, "people.ndjson");
    const lines = Array.from({ length: 5_000 }, (_, i) =>
      JSON.stringify({ account: { id: `N-${i}` }, trips: i % 200 }),
    );
    await writeFile(file, `\uFEFF${lines.join("\r\n")}\n\n{"half": \n[1, 2]\n${JSON.stringify({ trips: 150 })}`);
    const { contexts, divisions, missing, read } = await census("zone-fares", "--people", file, ...demo);
    expect(contexts).toBe(5_001);
    expect(read).toMatchObject({ unreadableLines: 2, firstUnreadable: { line: 5_002 } });
    expect(missing).toMatchObject({ "account.id": 1, email: 5_001 });
    const [tenth, quarter] = divisions;
    // 99 of every 200 have more than 100 trips; the one without an id is not asked.
    expect(tenth!.asked).toBe(2_475);
    for (const { share, asked } of [tenth!, quarter!]) {
      const [low, high] = share!.interval;
      expect(low).toBeLessThan(high);
      expect(share!.count).toBeGreaterThan(0);
      expect(share!.count).toBeLessThan(asked);
    }
    // Who travels often and was outside the tenth comes to the quarter of the same salt with the lowest tenth gone: of
    // the others 25% are inside, of these 15 in 90.
    const past = tenth!.asked - tenth!.share!.count;
    expect([tenth!.share!.pastEarlierShare, quarter!.share!.pastEarlierShare]).toEqual([undefined, past]);
    const [low, high] = quarter!.share!.interval;
    const mean = (quarter!.asked - past) / 4 + past / 6;
    expect(Math.abs((low + high) / 2 - mean)).toBeLessThan(2);
    expect([quarter!.share!.count >= low, quarter!.share!.count <= high]).toEqual([true, true]);
  });

  it.each([
    ["the same salt", {}, {}, 600],
    ["salts of their own", {}, { salt: "another" }, undefined],
    ["other attributes", {}, { by: "device" }, undefined],
    ["an earlier share that has not begun", { share: { rising: ["40% from 2027-01-01T00:00Z"] } }, {}, undefined],
  ] as const)("allows for an earlier share with %s", async (_, first, second, wanted) => {
    const rules = [
      { when: "trips > 1", share: "40%", give: 1, ...first },
      { share: "50%", give: 2, ...second },
    ];
    const flags = { f: { safe: 0, by: "id", rules } };
    const folder = await folderWith({ "set.json": JSON.stringify({ iudex: 1, flags }) });
    const file = join(folder, "../people.ndjson");
    const lines = Array.from({ length: 2_000 }, (_, i) =>
      JSON.stringify({ id: `P-${i}`, device: `D-${i}`, trips: i % 2 }),
    );
    await writeFile(file, lines.join("\n").replaceAll('"trips":1', '"trips":2'));
    const words = ["f", "--people", file, "--flags", folder, "--at", at];
    const [, half] = (await census(...words)).divisions;
    const { count, interval, pastEarlierShare } = half!.share!;
    expect(pastEarlierShare === undefined).toBe(wanted === undefined);
    if (wanted) expect(Math.abs(pastEarlierShare! - wanted)).toBeLessThan(60);
    expect([count >= interval[0], count <= interval[1]]).toEqual([true, true]);
    const { out } = await iudex("census", ...words);
    expect(out.includes("had come past an earlier share of the same salt")).toBe(wanted !== undefined);
  });

  it("counts CSV values that are not of their type as missing, and shows it", async () => {
    const folder = await folderWith({});
    const file = join(folder, "people.csv");
    await writeFile(file, 'account.id,trips,"claims[""2 f""]"\nA-1,many,x\n"A-2",12,\n');
    const { read, missing } = await census("zone-fares", "--people", file, ...demo);
    expect(read.unreadableValues).toEqual({ trips: 1 });
    expect(missing["trips"]).toBe(1);
    const { out } = await iudex("census", "zone-fares", "--people", file, ...demo);
    expect(out).toContain("1 value of trips could not be read by its type, and counts as missing");
    expect(out).toContain("contractor in 2 (100.00%, taken as false)");
  });

  it("tells progress on standard error while it reads in constant memory", async () => {
    const folder = await folderWith({});
    const file = join(folder, "many.ndjson");
    const chunk = Array.from({ length: 10_000 }, (_, i) =>
      JSON.stringify({ account: { id: `M-${i}` }, note: "x".repeat(200) }),
    ).join("\n");
    await writeFile(file, Array.from({ length: 40 }, () => chunk).join("\n"));
    const words = [binary, "census", "zone-fares", "--people", file, ...demo, "--json"];
    // 100 MB of contexts in a heap of 48 MB.
    const run = promisify(execFile)(process.execPath, ["--max-old-space-size=48", ...words], { maxBuffer: 1 << 24 });
    expect((JSON.parse((await run).stdout) as Census).contexts).toBe(400_000);
  });

  it.each([
    [["census", "zone-fare", "--people", passengers, ...demo], "did you mean zone-fares?"],
    [["census", "zone-fares", "--people", "nobody.csv", ...demo], "“nobody.csv” cannot be read: it does not exist."],
    [["census", "zone-fares", "--people", join(demoFolder, "set.yaml"), ...demo], "neither CSV nor NDJSON"],
    [["census", "zone-fares", "--people", passengers, "--by", "email", ...demo], "“email” is private"],
    [["census", "zone-fares", ...demo], "--people"],
  ])("%j is wrong use", async (words, message) => {
    const { code, err } = await iudex(...words);
    expect([code, err]).toEqual([2, expect.stringContaining(message)]);
  });
});

describe("progress", () => {
  it("tells how far it is, how fast it goes and how long it will take, on one line of a terminal", () => {
    vi.useFakeTimers({ toFake: ["performance"] });
    onTestFinished(() => void vi.useRealTimers());
    let told = "";
    const err = (text: string) => {
      told += text;
    };
    const line = progressLine({ out() {}, err, colour: false, liveErr: true });
    line.see({ bytes: 1, totalBytes: 1_000, contexts: 1 });
    expect(told).toBe("");
    vi.advanceTimersByTime(500);
    line.see({ bytes: 250, totalBytes: 1_000, contexts: 1_234_567 });
    expect(told).toMatch(/^\r\u001b\[K1,234,567 contexts \(25%\), 2,469,134 a second, 2 s left$/);
    line.done();
    expect(told.endsWith("\r\u001b[K")).toBe(true);
  });
});

describe("what chance would give", () => {
  it("is the central 95 % of the binomial distribution, exactly where there are few", () => {
    // Worked out by adding up the distribution in whole-number arithmetic, for n = 20 and p = 1/4.
    const weights = Array.from({ length: 21 }, (_, k) => binomial(20n, BigInt(k)) * 3n ** BigInt(20 - k));
    const total = 4n ** 20n;
    const quantile = (num: bigint, den: bigint) => {
      let sum = 0n;
      return weights.findIndex((weight) => {
        sum += weight;
        return sum * den >= num * total;
      });
    };
    expect(chanceInterval([{ of: 20, chance: 0.25 }])).toEqual([quantile(25n, 1000n), quantile(975n, 1000n)]);
  });

  it("goes over into the normal one without a jump, and knows the ends", () => {
    const [low, high] = chanceInterval([{ of: 1_000, chance: 0.1 }]);
    const [lowAbove, highAbove] = chanceInterval([{ of: 1_001, chance: 0.1 }]);
    expect(Math.abs(low - lowAbove)).toBeLessThanOrEqual(2);
    expect(Math.abs(high - highAbove)).toBeLessThanOrEqual(2);
    expect(chanceInterval([])).toEqual([0, 0]);
    expect(chanceInterval([{ of: 0, chance: 0.5 }])).toEqual([0, 0]);
    expect(chanceInterval([{ of: 10, chance: 0 }])).toEqual([0, 0]);
    expect(chanceInterval([{ of: 10, chance: 1 }])).toEqual([10, 10]);
  });

  it("takes subjects of different chances together", () => {
    const halves = [1, 2, 3, 4].map(() => ({ of: 25, chance: 0.3 }));
    expect(chanceInterval(halves)).toEqual(chanceInterval([{ of: 100, chance: 0.3 }]));
    const [low, high] = chanceInterval([
      { of: 400, chance: 0.1 },
      { of: 600, chance: 0.5 },
      { of: 7, chance: 1 },
    ]);
    // Mean 347, standard deviation √(36 + 150) = 13.6: two of them each way.
    expect([347 - low, high - 347].every((away) => away > 25 && away < 29)).toBe(true);
  });

  function binomial(n: bigint, k: bigint): bigint {
    return k === 0n ? 1n : (binomial(n - 1n, k - 1n) * n) / k;
  }
});

describe("iudex agenda", () => {
  it("lists what changes by itself, in order, with zone and distance", async () => {
    const { code, out } = await iudex("agenda", "--flags", demoFolder, "--at", "2026-11-30T12:00Z");
    expect(code).toBe(0);
    const lines = out.split("\n");
    const step = lines.findIndex((line) => line.startsWith("2026-12-04 09:00 Atlantic/Faroe"));
    expect(lines[step]).toMatch(/in 4 days$/);
    expect(lines[step + 1]).toContain("zone-fares rises from 1% to 25% for true (rule 3 “everyone, step by step”)");
    expect(out).toContain("winter opens; winter-timetable goes by it");
    expect(out).toContain("seat-map to be reviewed by booking-team, and removed if it is done");
    const { out: json } = await iudex("agenda", "--json", "--flags", demoFolder, "--at", "2026-11-30T12:00Z");
    const { entries } = JSON.parse(json) as { entries: { at: string; kind: string; environments?: string[] }[] };
    expect(entries.map((e) => e.at)).toEqual(entries.map((e) => e.at).sort());
  });

  it("says in which environments a share rises, and lists bounds and exceptions of windows", async () => {
    const folder = await folderWith({
      "a.yaml": `iudex: 1
environments: { staging: {}, live: {} }
windows:
  w: { from: 2026-01-10T00:00Z, until: 2026-02-01T00:00Z, zone: UTC, except: [2026-01-20] }
flags:
  a:
    safe: 1
    by: id
    provided: window:w
    environments:
      live: { rules: [{ share: { rising: ["5% from 2026-01-05T00:00Z"] }, give: 2 }] }
`,
    });
    const { out } = await iudex("agenda", "--json", "--flags", folder, "--at", "2026-01-01T00:00Z");
    const { entries } = JSON.parse(out) as { entries: { at: string; kind: string; environments?: string[] }[] };
    expect(entries.map(({ at: when, kind, environments }) => [when.slice(0, 10), kind, environments])).toEqual([
      ["2026-01-05", "share", ["live"]],
      ["2026-01-10", "window-opens", undefined],
      ["2026-01-20", "window-shuts", undefined],
      ["2026-01-21", "window-opens", undefined],
      ["2026-02-01", "window-shuts", undefined],
    ]);
    expect((await iudex("agenda", "--flags", folder, "--at", "2027-01-01T00:00Z")).out).toBe(
      "Nothing will change by itself.\n",
    );
  });

  it("gives a calendar that a real parser reads, the same instants in it", async () => {
    const words = ["--flags", demoFolder, "--at", "2026-11-30T12:00Z"];
    const { out } = await iudex("agenda", "--ics", ...words);
    const { entries } = JSON.parse((await iudex("agenda", "--json", ...words)).out) as {
      entries: { at: string; kind: string }[];
    };
    const events = eventsOf(out);
    // A day has no zone.
    const at = ({ startDate }: (typeof events)[number]) =>
      startDate.isDate ? `${startDate}T00:00` : startDate.toJSDate().toISOString().slice(0, 16);
    expect(events.map(at)).toEqual(entries.map((entry) => entry.at.slice(0, 16)));
    expect(events.filter(({ startDate }) => startDate.isDate)).toHaveLength(
      entries.filter(({ kind }) => kind === "review").length,
    );
    expect(new Set(events.map(({ uid }) => uid)).size).toBe(events.length);
  });
});

describe("iudex leftovers", () => {
  it("finds flags past review, decided for everyone, and not named in the code, by syntax", async () => {
    const code = join(dirname(await folderWith({})), "code");
    const flags = await folderWith({
      "a.yaml": `iudex: 1
environments: { staging: {}, live: {} }
flags:
  late: { safe: 1, review-by: 2026-11-01, lifespan: lasting, otherwise: 2 }
  done: { safe: false, lifespan: passing, rules: [{ when: x, give: true }, { give: true }] }
  half-done: { safe: false, lifespan: passing, rules: [{ give: true }], environments: { live: { rules: [] } } }
  in-comment: { safe: 1, lifespan: lasting }
`,
    });
    const { mkdir } = await import("node:fs/promises");
    await mkdir(join(code, "node_modules"), { recursive: true });
    await writeFile(
      join(code, "a.ts"),
      "// in-comment\nimport { followFlags } from 'iudex';\nconst flags = await followFlags('x');\nif (flags.value('done') as boolean) go(`half-done`);\nflags.pin({}).verdict('halfdone');\nother.value('not a flag');\nexport const n: number = 1 satisfies number;",
    );
    await writeFile(
      join(code, "b.jsx"),
      "export const A = () => <p>{use({ late: 1 })} in-comment</p>;\ndefineCatalogue({ 'gone': yesNo({ fallback: false }) });",
    );
    await writeFile(join(code, "c.mjs"), "const = 1");
    await writeFile(join(code, "node_modules", "d.js"), "flags.value('in-comment')");
    const { out, code: exit } = await iudex(
      "leftovers",
      "--json",
      "--code",
      code,
      "--flags",
      flags,
      "--at",
      "2026-11-23T12:00Z",
    );
    const answer = JSON.parse(out) as {
      leftovers: { flag: string; reasons: string[]; namedAt: object[]; decided?: unknown }[];
      unknown: { name: string; places: object[] }[];
      unreadable: { file: string }[];
    };
    expect(exit).toBe(1);
    expect(answer.leftovers.map(({ flag, reasons }) => [flag, reasons])).toEqual([
      ["done", ["decided"]],
      ["in-comment", ["not-in-code"]],
      ["late", ["past-review"]],
    ]);
    expect(answer.leftovers[0]).toMatchObject({ decided: true, namedAt: [{ file: "a.ts", line: 4, column: 17 }] });
    expect(answer.unknown).toEqual([
      { name: "halfdone", places: [{ file: "a.ts", line: 5, column: 23 }] },
      { name: "gone", places: [{ file: "b.jsx", line: 2, column: 19 }] },
    ]);
    expect(answer.unreadable.map(({ file }) => file)).toEqual(["c.mjs"]);
  });

  it("counts a share that has risen to the end and a window that is over", async () => {
    const folder = await folderWith({
      "a.yaml": `iudex: 1
defaults: { by: id }
windows: { gone: { until: 2026-01-01T00:00Z } }
flags:
  risen: { safe: 1, lifespan: passing, rules: [{ share: { rising: ["100% from 2026-01-01T00:00Z"] }, give: 2 }] }
  rising: { safe: 1, lifespan: passing, rules: [{ share: { rising: ["100% from 2027-01-01T00:00Z"] }, give: 2 }] }
  over: { safe: 1, lifespan: passing, rules: [{ when: "window:gone and x", give: 2 }] }
  gated: { safe: 1, lifespan: passing, provided: x, rules: [{ give: 2 }] }
  unsaid: { safe: false }
`,
    });
    const { out } = await iudex("leftovers", "--json", "--flags", folder, "--at", "2026-11-23T12:00Z");
    const { leftovers } = JSON.parse(out) as {
      leftovers: { flag: string; decided: unknown; decidedWith?: string[] }[];
    };
    expect(leftovers.map(({ flag, decided, decidedWith }) => [flag, decided, decidedWith])).toEqual([
      ["over", 1, undefined],
      ["risen", 2, ["id"]],
    ]);
    expect((await iudex("leftovers", "--flags", demoFolder, "--at", "2026-11-23T12:00Z")).code).toBe(0);
  });
});

describe("iudex list of the other parts", () => {
  it("says what they mean and where they are used", async () => {
    const cohorts = (await iudex("list", "cohorts", "--flags", demoFolder)).out;
    expect(cohorts).toContain('People whose email ends with "@ternhaven.example" and whose contractor is false.');
    expect(cohorts).toContain("3 ids by account.id, from lists/pilot-captains.csv.\n  Used by berth-view (provided).");
    const windows = (await iudex("list", "windows", "--flags", demoFolder, "--at", at)).out;
    expect(windows).toContain("Open at this instant, until 2026-12-05 13:00 Atlantic/Faroe.");
    const attributes = (await iudex("list", "attributes", "--flags", demoFolder)).out;
    expect(attributes).toContain("Text; upper and lower case alike; private, shown as •••.");
    expect(attributes).toContain("tags\n  List.\n  Used by nothing.");
    expect((await iudex("list", "cohort", "--flags", demoFolder)).err).toContain("did you mean cohorts?");
  });
});

it("counts by no attribute that nobody has, and says which one was meant", async () => {
  const { code, err } = await iudex("census", "zone-fares", "--people", passengers, ...demo, "--by", "acount.plan");
  expect([code, err]).toEqual([2, expect.stringContaining("has acount.plan.\ndid you mean account.plan?")]);
});

it("gathers lines that come in many pieces at once, and refuses one that is longer than any context", async () => {
  const home = await folderWith({});
  const people = join(home, "people.ndjson");
  const one = (n: number) => `${JSON.stringify({ account: { id: `A-${n}` }, note: "x".repeat(40_000) })}\r\n`;
  await writeFile(people, `\ufeff${one(1)}\n${one(2)}${one(3).trimEnd()}`);
  const ask = () => iudex("census", "zone-fares", "--people", people, ...demo, "--json");
  expect((JSON.parse((await ask()).out) as Census).contexts).toBe(3);
  await writeFile(people, `${one(1)}{"note":"${"x".repeat(2 ** 20)}"}\n`);
  expect(await ask()).toMatchObject({ code: 2, err: expect.stringContaining("Line 2 of “") });
});
