import { readFile } from "node:fs/promises";
import { join, relative } from "node:path";
import AjvDraft04 from "ajv-draft-04";
import type { Log } from "sarif";
import { describe, expect, it } from "vitest";
import { iudex } from "../support/command.ts";
import { demoFolder, demoPeople, folderWith, projectRoot } from "../support/folders.ts";

const demo = ["--flags", demoFolder, "--env", "production"];

describe("iudex check", () => {
  it("is content with the demo", async () => {
    const { code, out } = await iudex("check", "--at", "2026-12-02T12:00Z", "--flags", demoFolder);
    expect(code).toBe(0);
    expect(out).toMatch(/5 files, 8 flags, revision [0-9a-f]{12}: nothing to complain of\.\n$/);
  });

  it("shows a problem with its line, a mark and what to write, and exits 1", async () => {
    const folder = await folderWith({ "a.yaml": "iudex: 1\nflags:\n  a: { safe: true, provided: x && y }\n" });
    const { code, out } = await iudex("check", "--flags", folder);
    expect(code).toBe(1);
    expect(out).toContain("a.yaml:3:32  error  condition-syntax");
    const lines = out.split("\n");
    const mark = lines.findIndex((line) => line.includes("^^"));
    expect(lines[mark - 1]?.slice(lines[mark]?.indexOf("^"))).toMatch(/^&& y/);
    expect(out).toContain("help      write and");
  });

  it("gives stable JSON", async () => {
    const folder = await folderWith({ "a.yaml": "iudex: 1\nflags:\n  a: { safe: yes }\n" });
    const { code, out } = await iudex("check", "--json", "--flags", folder);
    expect(code).toBe(0);
    expect(JSON.parse(out)).toEqual({
      problems: [
        {
          severity: "warning",
          code: "looks-like-yes-no",
          file: "a.yaml",
          line: 3,
          column: 14,
          message: "“yes” is a text here, not a yes-no.",
          found: "yes",
          expected: "true or false, or a text in quotes",
          help: 'write true if a yes-no is meant, "yes" if the text is',
        },
      ],
    });
  });

  it("gives a SARIF log that its schema accepts, with places inside the repository", async () => {
    const folder = await folderWith({
      "a.yaml": "iudex: 1\nflags:\n  a: { safe: 1, rules: [{ when: x && y, give: two }] }\n",
      "b.yaml": "iudex: 1\nflags: { a: { safe: 2 } }\n",
      "suspended.yaml": "iudex: 1\nsuspended: { a: {} }\n",
    });
    const { code, out } = await iudex("check", "--sarif", "--flags", relative(projectRoot, folder));
    expect(code).toBe(1);
    const log = JSON.parse(out) as Log;
    const schema = JSON.parse(
      await readFile(join(projectRoot, "tests/fixtures/sarif-2.1.0.schema.json"), "utf8"),
    ) as object;
    const validate = new AjvDraft04.default({ strict: false, validateFormats: false, unicodeRegExp: false }).compile(
      schema,
    );
    validate(log);
    expect(validate.errors ?? []).toEqual([]);
    const [run] = log.runs;
    expect(run?.results?.map(({ ruleId, level }) => [ruleId, level])).toEqual([
      ["condition-syntax", "error"],
      ["value-type", "error"],
      ["defined-twice", "error"],
    ]);
    const place = run?.results?.[0]?.locations?.[0]?.physicalLocation;
    expect(place?.region).toEqual({ startLine: 3, startColumn: 35, endLine: 3, endColumn: 37 });
    expect(place?.artifactLocation?.uri).toMatch(/a\.yaml$/);
    expect(run?.results?.[2]?.relatedLocations?.[0]?.message?.text).toBe("the first definition");
    expect((await iudex("check", "--sarif", "--json")).code).toBe(2);
  });

  it("runs the examples, and says which rule gave another answer", async () => {
    const folder = await folderWith({
      "a.yaml": `iudex: 1
windows: { w: { from: 2026-01-01T00:00Z } }
flags:
  a:
    safe: 1
    rules: [{ name: the big ones, when: n > 5, give: 2 }]
    for-instance: [{ as: { n: 6 }, gives: 1 }]
  b:
    safe: true
    provided: window:w
    for-instance: [{ as: {}, gives: true }]
`,
    });
    const { code, out } = await iudex("check", "--json", "--flags", folder);
    expect(code).toBe(1);
    expect(JSON.parse(out).problems).toMatchObject([
      { code: "example-fails", line: 7, message: "This example gives 2, by rule 1 “the big ones”.", expected: "1" },
      { code: "example-needs-time", line: 11 },
    ]);
  });
});

describe("iudex why", () => {
  it("numbers the steps, and marks the test that decided under the condition's own text", async () => {
    const { code, out } = await iudex(
      "why",
      "zone-fares",
      ...demo,
      "--at",
      "2026-12-05T12:00Z",
      "--as",
      "account.id=A-17",
      "trips=140",
    );
    expect(code).toBe(0);
    const lines = out.split("\n");
    expect(lines[0]).toBe("zone-fares is true: rule 3 “everyone, step by step” matches");
    expect(lines).toContain("    ^^^^^^^^^^^ true: trips is 140");
    expect(lines).toContain("    share 10% by account.id: A-17 is at 20.22%, outside");
    expect(lines).toContain("    share 25% by account.id: A-17 is at 20.22%, inside");
    const steps = lines.filter((line) => /^ \d {2}/.test(line)).map((line) => line.slice(0, 13));
    expect(steps).toEqual([" 1  goes past", " 2  goes past", " 3  matches  "]);
  });

  it("reads a file of attributes, hides private ones, and tells when a rising share arrives", async () => {
    const { out } = await iudex(
      "why",
      "zone-fares",
      ...demo,
      "--at",
      "2026-12-02T10:00Z",
      "--as",
      join(demoPeople, "jonas.yaml"),
    );
    expect(out).toContain("email is •••");
    expect(out).not.toContain("haulage");
    expect(out).toMatch(/it rises to \d+% and reaches this subject on 2026-12-0[48] 09:00 Atlantic\/Faroe/);
  });

  it("says what is undecided, and why", async () => {
    const { out } = await iudex("why", "seat-map", ...demo, "--as", "app.version=new");
    expect(out).toContain('undecided: app.version is "new", which is not a version');
  });

  it("counts a value of another type as missing, and says so", async () => {
    const { out, err } = await iudex("why", "hold-minutes", ...demo, "--as", "account.plan=vehicle", "trips=many");
    expect(out).toContain("undecided: trips is missing");
    expect(err).toContain("trips=many is not of the attribute's type");
  });

  it("gives the explanation as JSON", async () => {
    const { out } = await iudex(
      "why",
      "berth-view",
      "--json",
      ...demo,
      "--at",
      "2026-12-02T10:00Z",
      "--as",
      "account.id=C-204",
    );
    expect(JSON.parse(out)).toMatchObject({
      flag: "berth-view",
      environment: "production",
      at: "2026-12-02T10:00:00.000Z",
      value: true,
      cause: "otherwise",
      steps: [
        { step: "provided", holds: "true", condition: { text: "cohort:pilot-captains", answer: "true" } },
        { step: "otherwise", value: true },
      ],
    });
  });

  it("never lets control characters of a context reach the terminal", async () => {
    const { out } = await iudex("why", "seat-map", ...demo, "--as", "app.version=\u001b[2J\u202e");
    expect(out).not.toMatch(/[\u001b\u202e]/);
  });
});

describe("iudex why of a condition", () => {
  it.each<[string, string[], string[]]>([
    [
      "cohort:pilot-captains",
      ["--as", "account.id=C-204"],
      ["The answer is true.", "account.id is C-204, which is in lists/pilot-captains.csv"],
    ],
    ["cohort:crew", [], ["The answer is undecided.", "undecided: email is missing"]],
    [
      "window:duty-hours",
      ["--at", "2026-12-25T10:00Z"],
      ["The answer is false.", "it is shut, until 2026-12-26 09:00 Atlantic/Faroe"],
    ],
    [
      "trips > 3 and not contractor",
      ["--as", "trips=4"],
      ["The answer is true.", "^^^^^^^^^ true: trips is 4", "contractor is missing, taken as false"],
    ],
  ])("%s", async (condition, words, expected) => {
    const { code, out } = await iudex("why", condition, ...demo, ...words);
    expect(code).toBe(0);
    for (const text of expected) expect(out).toContain(text);
  });

  it("answers as JSON too, and says what cannot be asked", async () => {
    const { out } = await iudex("why", "trips > 3", "--json", ...demo, "--at", "2026-12-25T10:00Z", "--as", "trips=4");
    expect(JSON.parse(out)).toMatchObject({
      condition: "trips > 3",
      environment: "production",
      answer: "true",
      at: "2026-12-25T10:00:00.000Z",
    });
    const { code, err } = await iudex("why", "trips && 3", ...demo);
    expect(code).toBe(2);
    expect(err).toContain("  trips && 3\n        ^^\nwrite and");
  });
});

describe("iudex list", () => {
  it("says of each flag who gets what, and where environments differ", async () => {
    const { code, out } = await iudex("list", "--flags", demoFolder, "--at", "2026-12-02T10:00Z");
    expect(code).toBe(0);
    expect(out).toContain("storm-mode  Closes booking while the boats stay in harbour\n  Everybody gets false.\n");
    expect(out).toContain(
      "  local, production: From 1 December 2026 through 28 February 2027, Atlantic/Faroe time,\n    everybody gets true; otherwise false.\n  staging: Everybody gets true.\n",
    );
    expect(out.split("\n").every((line) => line.length <= 100)).toBe(true);
    expect(out).toMatch(/8 flags, revision [0-9a-f]{12}, 2026-12-02 10:00 UTC\n$/);
  });

  it("answers as JSON", async () => {
    const { out } = await iudex(
      "list",
      "--json",
      "--flags",
      demoFolder,
      "--env",
      "staging",
      "--at",
      "2026-12-02T10:00Z",
    );
    const { flags } = JSON.parse(out) as { flags: { flag: string }[] };
    expect(flags.find(({ flag }) => flag === "winter-timetable")).toMatchObject({
      owner: "timetable-team",
      says: [{ sentence: "Everybody gets true." }],
    });
  });
});

describe("wrong use exits 2 and names the nearest right word", () => {
  it.each([
    [["why", "zone-fare", ...demo], "did you mean zone-fares?"],
    [["why", "zone-fares", "--flags", demoFolder], "add --env and one of local, staging or production"],
    [["why", "zone-fares", "--flags", demoFolder, "--env", "prod"], "There is no environment “prod”"],
    [["why", "zone-fares", ...demo, "--at", "noon"], "write --at 2026-12-05T12:00Z"],
    [["why", "zone-fares", ...demo, "--as", "nobody"], "neither a file nor a pair"],
    [["chekc"], "Did you mean check?"],
    [["toggle", "zone-fares"], "write iudex set FLAG --otherwise true, or iudex suspend FLAG"],
    [["status"], "write iudex list, or iudex stops SHELF"],
    [["check", "--jsn"], "Did you mean --json?"],
  ])("%j", async (words, message) => {
    const { code, err } = await iudex(...words);
    expect(err).toContain(message);
    expect(code).toBe(2);
  });

  it("prints the problems when the folder cannot be used", async () => {
    const { code, err } = await iudex("why", "x", "--flags", "no/such");
    expect(code).toBe(1);
    expect(err).toContain("The definition folder “no/such” cannot be opened: it does not exist.");
  });
});

it("runs the whole demo, from files to rejection", async () => {
  const { execFileSync } = await import("node:child_process");
  const out = execFileSync(process.execPath, [join(demoFolder, "../demo.mjs")], { encoding: "utf8" });
  expect(out.replace(/\s+/g, " ")).toContain(
    "zone-fares: rule “frequent travellers, one in ten”: share 10% taken out, which widens it",
  );
  expect(out).toMatch(/The file is refused; revision [0-9a-f]{12} goes on answering/);
});
