// The resolved model: what is refused and in which words, what holds where, what refers to what, and the revision.
import { createHash } from "node:crypto";
import fc from "fast-check";
import { describe, expect, it } from "vitest";
import {
  type AttributeType,
  type Definitions,
  readDefinitions,
  type SchemaPort,
  shortRevision,
} from "../../src/core.ts";
import { isOfType } from "../../src/model/attribute-type.ts";
import {
  CanonicalMemory,
  canonicalNode,
  conditionsOf,
  digestOfIds,
  entryText,
  flagIn,
  flagsBehind,
  Graph,
  givenBy,
  holdsIn,
  isInside,
  nodeKey,
  partsOf,
  piecesOfIds,
  placeOfCondition,
  placeOfRule,
  putAt,
  rangeAt,
  rangesFrom,
  readDeclared,
  revisionInSteps,
  type Stop,
  saltedDigest,
  saysSuspensions,
  settingsIn,
  showShare,
  stepsOf,
  subjectOf,
  writtenRules,
  writtenStop,
} from "../../src/model/index.ts";
import { canonicalJson } from "../../src/values/index.ts";
import faults from "../fixtures/definition-faults.json" with { type: "json" };
import { defined } from "../support/definitions.ts";
import { problemLine } from "../support/problem-line.ts";
import { type Entries, revisionByRecipe, sha256 } from "../support/revision-recipe.ts";
import { runs } from "../support/runs.ts";

describe("definitions that cannot be used, or hardly, are told with their place, what was found and what to write", () => {
  it.each(faults.map(({ data, said }) => [JSON.stringify(data), data, said] as const))("%s", (_, data, said) => {
    const { problems } = readDefinitions([{ file: "a.json", data: { iudex: 1, ...data } }]);
    expect(problems.map(problemLine)).toEqual(said);
  });

  it("ids that are spelt in another way than they are compared", () => {
    const spelt = (id: number, spelling: string) => {
      const data = { iudex: 1, cohorts: { c: { of: "id", ids: [id] } } };
      const spellings = new Map([["/cohorts/c/ids/0", spelling]]);
      return readDefinitions([{ file: "a.yaml", data, spellings }]).problems.map(({ found, help }) => [found, help]);
    };
    expect(spelt(17, "17")).toEqual([]);
    expect(spelt(17, "017")).toEqual([["017", 'put it in quotes: "017"']]);
    expect(spelt(1000, "1e3")).toEqual([["1e3", 'put it in quotes: "1e3"']]);
  });

  it("words that YAML once read as a yes-no", () => {
    const told = (value: string, spelling: string) => {
      const data = { iudex: 1, flags: { a: { safe: value } } };
      const { problems } = readDefinitions([
        { file: "a.yaml", data, spellings: new Map([["/flags/a/safe", spelling]]) },
      ]);
      return problems.map(({ code, help }) => [code, help]);
    };
    expect(told("yes", "yes")).toEqual([
      ["looks-like-yes-no", 'write true if a yes-no is meant, "yes" if the text is'],
    ]);
    expect(told("OFF", "OFF")).toEqual([
      ["looks-like-yes-no", 'write false if a yes-no is meant, "OFF" if the text is'],
    ]);
    expect([told("yes", '"yes"'), told("maybe", "maybe")]).toEqual([[], []]);
  });

  it("values that do not keep the schema of their flag", () => {
    const schemas: SchemaPort = {
      compile: (schema) =>
        schema === true
          ? { fault: { code: "schema-invalid", path: ["type"], message: "No schema.", expected: "a schema" } }
          : {
              faultOf: (value) =>
                (value as { n: unknown }).n === 1 ? undefined : { path: ["n"], message: "must be 1" },
            },
    };
    const read = (flag: object) =>
      readDefinitions([{ file: "a.json", data: { iudex: 1, flags: { a: flag } } }], { schemas });
    const bad = read({
      safe: { n: 1 },
      schema: {},
      otherwise: { n: 2 },
      rules: [{ give: { n: 3 } }],
      environments: {},
    });
    expect(bad.problems.map(problemLine)).toEqual([
      'error schema-violated at flags a otherwise n: This value does not keep the flag\'s schema: must be 1. | found {"n":2} | expected undefined | help undefined | at flags a schema: the schema',
      'error schema-violated at flags a rules 0 give n: This value does not keep the flag\'s schema: must be 1. | found {"n":3} | expected undefined | help undefined | at flags a schema: the schema',
    ]);
    expect(read({ safe: { n: 1 }, schema: true }).problems.map(problemLine)).toEqual([
      "error schema-invalid at flags a schema type: No schema. | found undefined | expected a schema | help undefined",
    ]);
    const good = read({ safe: { n: 1 }, schema: {} }).definitions!.flags.get("a")!;
    expect([good.schemaFault?.({ n: 1 }), good.schemaFault?.({ n: 2 })]).toEqual([undefined, "n: must be 1"]);
    expect(Object.isFrozen(good.source.safe)).toBe(true);
  });
});

const dates = ["2026-12-01T09:00", "2026-12-08T09:00"].map((text) => Date.parse(`${text}Z`)) as [number, number];

const data = {
  defaults: { by: "account.id", zone: "UTC" },
  environments: { staging: {}, production: { protected: true } },
  attributes: {
    trips: "number",
    email: { type: "text", private: true, "ignore-case": true },
    contractor: "yes-no",
    "account.id": "text",
    "account.plan": ["foot", "vehicle"],
    id: "text",
    "seat.id": "text",
  },
  windows: { duty: { hours: "Mo 08:00-09:00", except: ["2026-12-25", "2026-12-24"] } },
  cohorts: {
    crew: { when: 'email ends with "@ternhaven.example" and not contractor', about: "Ours" },
    pilots: { of: "account.id", ids: ["A-2", "A-1"] },
    held: { share: "5% to 10%", salt: "apart" },
    both: { when: "cohort:crew or cohort:pilots" },
  },
  flags: {
    storm: { safe: false, rules: [{ name: "on duty", when: "window:duty", give: true }] },
    fares: {
      safe: 1,
      otherwise: 2,
      provided: "not flag:storm",
      salt: "prices",
      rules: [
        { name: "some", when: "trips > 3", share: "10%", give: 3 },
        {
          name: "more",
          share: { rising: ["20% from 2026-12-01T09:00", "100% from 2026-12-08T09:00"] },
          by: "id",
          give: 4,
        },
        { when: "cohort:both", give: 5 },
      ],
      environments: {
        staging: { provided: 'account.plan == "foot"', otherwise: 6, rules: [{ share: "20% to 45%", give: 7 }] },
        production: { adjust: { some: { share: "none" }, more: { give: 8 } } },
      },
    },
    seats: {
      variants: { list: "l", deck: "d", tour: "t" },
      safe: "list",
      by: "seat.id",
      rules: [{ when: "cohort:held", split: ["1 deck", "0 tour", "3 list"] }],
    },
  },
} as const;
const set: Definitions = defined(data);
const fares = set.flags.get("fares")!;

describe("what holds in an environment", () => {
  it("is the flag's own, with what the environment adds, replaces or adjusts", () => {
    const here = (environment: string | undefined) => {
      const { provided, rules, otherwise } = flagIn(fares, environment);
      return [provided, rules.map(({ number, gives, source }) => [number, gives, source.share]), otherwise];
    };
    const rising = data.flags.fares.rules[1].share;
    const own = [
      [1, 3, "10%"],
      [2, 4, rising],
      [3, 5, undefined],
    ];
    expect(here(undefined)).toEqual([["not flag:storm"], own, 2]);
    expect(here("nowhere")).toEqual([["not flag:storm"], own, 2]);
    expect(here("staging")).toEqual([["not flag:storm", 'account.plan == "foot"'], [[1, 7, "20% to 45%"]], 6]);
    expect(here("production")).toEqual([
      ["not flag:storm"],
      [
        [1, 3, undefined],
        [2, 8, rising],
        [3, 5, undefined],
      ],
      2,
    ]);
    expect(flagIn(set.flags.get("storm")!, "staging")).toMatchObject({ provided: [], otherwise: false });
    expect(settingsIn(fares, "toString")).toBeUndefined();
  });

  it("is written where it stands, and named so", () => {
    const places = [...writtenRules(fares)].flatMap(({ environment, rules }) =>
      rules.map((rule) => [
        environment,
        placeOfRule(fares, rule),
        placeOfRule(fares, rule, "share"),
        placeOfRule(fares, rule, "give"),
      ]),
    );
    expect(
      places.map(([environment, ...all]) => [
        environment,
        ...all.map((place) => (place as { readonly path: readonly string[] }).path.slice(2).join(".")),
      ]),
    ).toEqual([
      [undefined, "rules.0", "rules.0.share", "rules.0.give"],
      [undefined, "rules.1", "rules.1.share", "rules.1.give"],
      [undefined, "rules.2", "rules.2.share", "rules.2.give"],
      [
        "staging",
        "environments.staging.rules.0",
        "environments.staging.rules.0.share",
        "environments.staging.rules.0.give",
      ],
      ["production", "rules.0", "environments.production.adjust.some.share", "rules.0.give"],
      ["production", "rules.1", "rules.1.share", "environments.production.adjust.more.give"],
    ]);
    const written = conditionsOf(fares).map((each) => [
      each.text,
      each.environment,
      each.rule,
      placeOfCondition(fares, each).path.slice(2).join("."),
    ]);
    expect(written).toEqual([
      ["not flag:storm", undefined, -1, "provided"],
      ["trips > 3", undefined, 0, "rules.0.when"],
      ["cohort:both", undefined, 2, "rules.2.when"],
      ['account.plan == "foot"', "staging", -1, "environments.staging.provided"],
    ]);
    expect(givenBy(fares)).toEqual([1, 2, 6, 3, 4, 5, 7, 3, 8]);
    expect(givenBy(set.flags.get("seats")!)).toEqual(["list", "deck", "list"]);
  });

  it("divides by the rule's, the flag's or the file's attribute and salt", () => {
    const [some, more, rest] = flagIn(fares, undefined).rules;
    expect([some!.division!.by, some!.division!.salt, some!.division!.share!.rises]).toEqual([
      ["account", "id"],
      "prices",
      false,
    ]);
    expect([more!.division!.by, more!.division!.share!.zone]).toEqual([["id"], "UTC"]);
    expect(rest!.division).toBeUndefined();
    expect(more!.division).toBe(more!.division);
    const { share } = more!.division!;
    expect([dates[0] - 1, dates[0], dates[1] - 1, dates[1]].map((at) => rangeAt(share!.steps, at).high)).toEqual([
      0, 20, 20, 100,
    ]);
    expect(rangesFrom(share, dates[0]).map(({ high }) => high)).toEqual([20, 100]);
    expect(rangesFrom(undefined, 0)).toEqual(stepsOf(undefined));
    expect([showShare(share!), showShare(some!.division!.share!)]).toEqual(["rising to 100%", "10%"]);
    expect([0.2, 0.449, 0.45, 0.199].map((position) => isInside(position, { low: 20, high: 45 }))).toEqual([
      true,
      true,
      false,
      false,
    ]);
    const { split, by, salt } = flagIn(set.flags.get("seats")!, undefined).rules[0]!.division!;
    expect([by, salt, split!.total]).toEqual([["seat", "id"], "seats", 4]);
    expect(partsOf(split!).map(({ variant, fraction }) => [variant, fraction])).toEqual([
      ["deck", 0.25],
      ["list", 0.75],
    ]);
    expect([...set.flags.values()].map(subjectOf)).toEqual(["account.id", "account.id", "seat.id"]);
    expect(subjectOf(defined({ flags: { a: { safe: 1 } } }).flags.get("a")!)).toBe("");
  });
});

describe("the graph of references", () => {
  const graph = new Graph(set);
  const from = (node: Parameters<Graph["from"]>[0]) =>
    graph
      .from(node)
      .map(
        ({ to, where, environment, place }) =>
          `${where}${environment ? ` in ${environment}` : ""} → ${to} at ${place().path.join(".")}`,
      );

  it("leads from a flag or a cohort to all that it looks at, and says where", () => {
    expect(from("flag:fares")).toEqual([
      "provided → flag:storm at flags.fares.provided",
      "rule 1 “some” → attribute:trips at flags.fares.rules.0.when",
      "rule 3 → cohort:both at flags.fares.rules.2.when",
      "provided in staging → attribute:account.plan at flags.fares.environments.staging.provided",
      "by → attribute:account.id at flags.fares.rules.0",
      "by → attribute:id at flags.fares.rules.1",
      "by in staging → attribute:account.id at flags.fares.environments.staging.rules.0",
      "by in production → attribute:id at flags.fares.rules.1",
    ]);
    expect(
      ["cohort:crew", "cohort:pilots", "cohort:held", "cohort:both"].map((node) => from(node as "cohort:x")),
    ).toEqual([
      ["when → attribute:email at cohorts.crew.when", "when → attribute:contractor at cohorts.crew.when"],
      ["of → attribute:account.id at cohorts.pilots.of"],
      ["by → attribute:account.id at cohorts.held.by"],
      ["when → cohort:crew at cohorts.both.when", "when → cohort:pilots at cohorts.both.when"],
    ]);
    expect([from("flag:nobody"), from("cohort:nobody"), from("window:duty"), from("attribute:trips")]).toEqual([
      [],
      [],
      [],
      [],
    ]);
  });

  it("tells all behind a flag, what depends on time, and who uses what", () => {
    expect([...graph.attributesBehind("fares").keys()].sort()).toEqual([
      "account.id",
      "account.plan",
      "contractor",
      "email",
      "id",
      "trips",
    ]);
    expect([...graph.behind(["flag:storm"]).keys()]).toEqual(["flag:storm", "window:duty"]);
    expect(graph.inEnvironment(fares, "staging")).toEqual(["flag:storm"]);
    expect(graph.inEnvironment(fares, "production")).toEqual(["flag:storm", "cohort:both"]);
    expect(["storm", "fares", "seats", "nobody"].map((name) => graph.dependsOnTime(name, "staging"))).toEqual([
      true,
      true,
      false,
      false,
    ]);
    const steady = defined({
      defaults: { by: "id", zone: "UTC" },
      environments: { e: {} },
      flags: {
        a: {
          safe: 1,
          rules: [{ name: "r", share: { rising: ["5% from 2026-12-01"] }, give: 2 }],
          environments: { e: { adjust: { r: { share: "5%" } } } },
        },
      },
    });
    expect([undefined, "e"].map((environment) => new Graph(steady).dependsOnTime("a", environment))).toEqual([
      true,
      false,
    ]);
    const uses = graph.uses();
    expect(uses.get("attribute:account.id")).toEqual([
      { user: "cohort", name: "pilots", where: "of" },
      { user: "cohort", name: "held", where: "by" },
      { user: "flag", name: "fares", where: "by" },
      { user: "flag", name: "fares", where: "by", environment: "staging" },
    ]);
    expect(uses.get("cohort:crew")).toEqual([{ user: "cohort", name: "both", where: "when" }]);
    expect([...flagsBehind([nodeKey("cohort", "crew")], uses)]).toEqual(["fares"]);
    expect([...flagsBehind([nodeKey("window", "duty")], uses)].sort()).toEqual(["fares", "storm"]);
  });
});

describe("the revision", () => {
  it("is the hash of blocks of entries as the format's recipe writes them", () => {
    const { flags, windows, environments } = data;
    const common = { by: "account.id", zone: "UTC" };
    const recipe: Entries = {
      attribute: Object.fromEntries(
        Object.entries(data.attributes).map(([name, said]) => [
          name,
          { "ignore-case": false, private: false, ...(name === "email" ? (said as object) : { type: said }) },
        ]),
      ),
      cohort: {
        ...{ crew: data.cohorts.crew, both: data.cohorts.both },
        pilots: { of: "account.id", ids: sha256('"A-1"\n"A-2"\n') },
        held: { by: "account.id", salt: "apart", share: "5% to 10%" },
      },
      environment: environments,
      flag: {
        storm: { ...flags.storm, ...common, salt: "storm" },
        fares: { ...flags.fares, ...common, salt: (flags.fares as { salt?: string }).salt ?? "fares" },
        seats: {
          ...flags.seats,
          zone: "UTC",
          salt: (flags.seats as { salt?: string }).salt ?? "seats",
          variants: Object.entries(flags.seats.variants),
        },
      },
      window: { duty: { ...windows.duty, zone: "UTC", except: ["2026-12-24", "2026-12-25"] } },
    };
    expect(set.revision).toBe(revisionByRecipe(recipe));
  });

  const settled = (each: Definitions, memory: CanonicalMemory) => {
    const work = revisionInSteps(each, memory, sha256);
    for (;;) {
      const step = work.next();
      if (step.done) return step.value;
    }
  };

  it("is the same from memory, whatever changed since, and however many flags there are", () => {
    const many = (count: number, changed: number) =>
      Object.fromEntries(
        Array.from({ length: count }, (_, i) => (i * 7_919) % count).map((i) => [
          `f${i}`,
          { safe: i === changed ? -1 : i },
        ]),
      );
    const recipe = (flags: object) =>
      revisionByRecipe({
        flag: Object.fromEntries(
          Object.entries(flags).map(([name, flag]) => [name, { ...(flag as object), salt: name }]),
        ),
      });
    const memory = new CanonicalMemory();
    const sets = [0, 1, 16, 500, 1_300, 1_300, 1_301, 40, 0].flatMap((count) => [
      many(count, -1),
      many(count, 0),
      many(count, count - 1),
    ]);
    for (const flags of sets) {
      const each = defined({ flags });
      expect(settled(each, memory)).toBe(recipe(flags));
      // Once more, with nothing changed, and with the very same flags.
      expect(settled(each, memory)).toBe(recipe(flags));
      expect(each.revision).toBe(recipe(flags));
    }
  });

  it("is the same from memory where the very same flags come and go", () => {
    const { flags } = defined({
      flags: Object.fromEntries(Array.from({ length: 40 }, (_, i) => [`f${i}`, { safe: i }])),
    });
    const some = fc.uniqueArray(fc.constantFrom(...flags.keys())).map((names) => {
      const held = new Map(names.map((name) => [name, flags.get(name)!]));
      return { ...set, flags: held };
    });
    fc.assert(
      fc.property(fc.array(some), (sets) => {
        const memory = new CanonicalMemory();
        for (const each of sets) expect(settled(each, memory)).toBe(settled(each, new CanonicalMemory()));
      }),
      { numRuns: runs(200) },
    );
  });

  it("hashes one block again where one flag of many has changed", () => {
    const flags = (changed: number) =>
      Object.fromEntries(Array.from({ length: 9_000 }, (_, i) => [`f${i}`, { safe: i === 77 ? changed : i }]));
    const [before, after] = [defined({ flags: flags(1) }), defined({ flags: flags(2) })];
    // As a reload has it: the flags that did not change are the very same.
    const kept = new Map(
      [...after.flags].map(([name, flag]) => [name, name === "f77" ? flag : before.flags.get(name)!]),
    );
    const memory = new CanonicalMemory();
    settled(before, memory);
    let hashed = 0;
    const counting = (text: string) => {
      hashed++;
      return sha256(text);
    };
    const work = revisionInSteps({ ...after, flags: kept }, memory, counting);
    while (!work.next().done);
    // The block, and the list of all blocks.
    expect(hashed).toBe(2);
  });

  it("holds the suspensions, with the environments in order", () => {
    const stop = { since: "2026-11-30T02:00Z", who: "kari", in: ["staging", "production"] };
    const { definitions } = readDefinitions(
      [{ file: "a.json", data: { iudex: 1, environments: data.environments, flags: { a: { safe: 1 } } } }],
      { suspended: { file: "suspended.yaml", data: { iudex: 1, suspended: { b: {}, a: stop } } } },
    );
    expect(entryText(definitions!, "suspension", "a")).toBe(
      `iudex 1\nsuspension\na\n${canonicalJson({ ...stop, in: ["production", "staging"] })}\n`,
    );
    expect(entryText(definitions!, "suspension", "b")).toBe("iudex 1\nsuspension\nb\n{}\n");
    expect([definitions!.revision.length, shortRevision(definitions!.revision).length]).toEqual([32, 12]);
  });

  it("shows no part that means nothing, and each that means something", () => {
    const of = (other: object) => defined({ ...data, ...other }).revision;
    const { revision } = set;
    expect(of({ flags: Object.fromEntries(Object.entries(data.flags).reverse()) })).toBe(revision);
    expect(of({ cohorts: { ...data.cohorts, pilots: { of: "account.id", ids: ["A-1", "A-2", "A-1"] } } })).toBe(
      revision,
    );
    expect(of({ windows: { duty: { ...data.windows.duty, except: ["2026-12-24", "2026-12-25"], zone: "UTC" } } })).toBe(
      revision,
    );
    expect(of({ defaults: { by: "account.id", zone: "Atlantic/Faroe" } })).not.toBe(revision);
    expect(of({ cohorts: { ...data.cohorts, pilots: { of: "account.id", ids: ["A-1"] } } })).not.toBe(revision);
    expect(of({ attributes: { ...data.attributes, trips: "text" }, flags: { storm: data.flags.storm } })).not.toBe(
      revision,
    );
  });

  it("has parts that can be held against each other", () => {
    const text = (kind: Parameters<typeof canonicalNode>[1], name: string) => canonicalNode(set, kind, name);
    expect(text("attribute", "trips")).toBe('{"ignore-case":false,"private":false,"type":"number"}');
    expect(text("cohort", "crew")).toBe(canonicalJson(data.cohorts.crew));
    expect(text("window", "duty")).toContain('"except":["2026-12-24","2026-12-25"]');
    expect(text("flag", "storm")).toContain('"safe":false');
    expect([text("flag", "x"), text("cohort", "x"), text("window", "x"), text("attribute", "x")]).toEqual(
      Array(4).fill(undefined),
    );
  });

  it("of a list is that of its sorted ids, each once", () => {
    const ids = Array.from({ length: 2_500 }, (_, i) => `A-${(i * 7) % 2_400}`);
    const lines = [...new Set(ids)]
      .sort()
      .map((id) => `${JSON.stringify(id)}\n`)
      .join("");
    expect([...piecesOfIds(ids)].join("")).toBe(lines);
    expect(digestOfIds(ids)).toBe(createHash("sha256").update(lines).digest("hex"));
    expect(saltedDigest("salt", "A-17")).toBe(createHash("sha256").update("salt:A-17").digest("hex"));
  });
});

describe("attributes", () => {
  it.each<[AttributeType, readonly unknown[], readonly unknown[]]>([
    ["text", ["", "x"], [1, true, null, []]],
    ["number", [0, 1.5, -1], ["1", true]],
    ["yes-no", [true, false], ["true", 0]],
    ["list", [[], ["a", "b"]], ["a", ["a", 1], {}]],
    ["version", ["1.2", "v4.0.0-rc.1"], [1.2, "one", ""]],
    ["time", [0, "2026-12-01T09:00Z"], ["2026-12-01T09:00", "soon", true]],
    [
      ["foot", "vehicle"],
      ["foot", "vehicle"],
      ["freight", 1, ["foot"]],
    ],
  ])("of type %j hold %j and not %j", (type, good, bad) => {
    expect(good.filter((value) => !isOfType(value, type))).toEqual([]);
    expect(bad.filter((value) => isOfType(value, type))).toEqual([]);
  });

  it.each<[AttributeType, string, unknown]>([
    ["number", "12.5", 12.5],
    ["number", " ", undefined],
    ["number", "", undefined],
    ["number", "many", undefined],
    ["number", "Infinity", undefined],
    ["yes-no", "true", true],
    ["yes-no", "false", false],
    ["yes-no", "yes", undefined],
    ["list", "a, b ,c", ["a", "b", "c"]],
    ["list", "", []],
    ["list", '["a, b", "c"]', ["a, b", "c"]],
    ["list", "[a", undefined],
    ["time", "2026-12-01T09:00Z", "2026-12-01T09:00Z"],
    ["time", "soon", undefined],
    ["text", "12", "12"],
    ["version", "1.2", "1.2"],
    [["foot"], "foot", "foot"],
  ])("of type %j are read from %j as %j", (type, text, value) => {
    expect(readDeclared(text, type)).toEqual(value);
  });

  it("are put under their paths, whatever stands there already, and whatever their keys are called", () => {
    const context: Record<string, unknown> = { account: { id: "A-17" }, trips: 3 };
    putAt(context, ["account", "plan"], "foot");
    putAt(context, ["trips", "of", "late"], 1);
    putAt(context, ["email"], "x");
    putAt(context, ["__proto__", "deep"], true);
    putAt(context, ["toString"], "own");
    expect(JSON.stringify(context)).toBe(
      '{"account":{"id":"A-17","plan":"foot"},"trips":{"of":{"late":1}},"email":"x","__proto__":{"deep":true},"toString":"own"}',
    );
    expect(Object.getPrototypeOf(context)).toBe(Object.prototype);
  });
});

describe("suspensions", () => {
  const read = (data: unknown) => {
    const suspended = { file: "suspended.yaml", data };
    const { definitions, suspensions, problems } = readDefinitions(
      [
        {
          file: "a.json",
          data: { iudex: 1, environments: { staging: {} }, flags: { a: { safe: 1 }, b: { safe: 1 } } },
        },
      ],
      { suspended },
    );
    const stops = [...suspensions].flatMap(([flag, { stops }]) =>
      stops.map((stop) => [flag, writtenStop(stop), stop.place.path.join(" ")]),
    );
    return {
      usable: definitions !== undefined,
      stops,
      told: problems.map(problemLine),
      says: saysSuspensions(suspended),
    };
  };
  const at = (path: string) => expect.stringMatching(new RegExp(`^error suspension-fault at ${path}: `));

  it("take effect as far as they can be read, and what is wrong with them keeps no set from being used", () => {
    const whole = { since: "2026-11-30T02:00Z", who: "kari", note: "storm", in: ["staging"] };
    expect(read({ iudex: 1, suspended: { a: whole, b: {} } })).toEqual({
      usable: true,
      stops: [
        ["a", whole, "suspended a"],
        ["b", {}, "suspended b"],
      ],
      told: [],
      says: true,
    });
    expect(
      read({ iudex: 1, suspended: { a: { since: 1, who: [], note: true, in: [] }, "no name": {}, b: null } }),
    ).toMatchObject({
      usable: true,
      stops: [
        ["a", {}, "suspended a"],
        ["b", {}, "suspended b"],
      ],
      told: expect.arrayContaining([
        at("suspended a since"),
        at("suspended a who"),
        at("suspended a note"),
        at("suspended a in"),
        at("suspended no name \\(key\\)"),
      ]),
    });
    expect(read({ iudex: 1, suspended: { a: { in: ["staging", 2] } } }).stops).toEqual([["a", {}, "suspended a"]]);
  });

  it("of another format are told of, and hold; a file that does not say which says so", () => {
    expect(read({ iudex: 2, suspended: { a: {} } })).toMatchObject({
      stops: [["a", {}, "suspended a"]],
      told: [
        "error suspension-fault at iudex: This file is written in format 2; this Iudex reads format 1. | found undefined | expected iudex: 1 | help undefined",
      ],
    });
    for (const data of [
      undefined,
      null,
      {},
      { iudex: 1 },
      { iudex: 1, suspended: null },
      { iudex: 1, suspended: ["a"] },
      "a",
    ])
      expect(read(data)).toMatchObject({ usable: true, stops: [], says: false });
    expect(read({ iudex: 1, suspended: {} })).toMatchObject({ stops: [], told: [], says: true });
  });

  it("hold everywhere, or where they say", () => {
    const stop = (limits: Partial<Stop>) => limits as Stop;
    expect([
      holdsIn(stop({}), "x"),
      holdsIn(stop({}), undefined),
      holdsIn(stop({ in: ["x"] }), "x"),
      holdsIn(stop({ in: ["x"] }), "y"),
      holdsIn(stop({ in: ["x"] }), undefined),
      holdsIn(stop({ except: ["x"] }), "x"),
      holdsIn(stop({ except: ["x"] }), "y"),
      holdsIn(stop({ except: ["x"] }), undefined),
    ]).toEqual([true, true, true, false, false, false, true, true]);
  });

  it("of one flag may be several, each with what it says; one that cannot be read holds everywhere", () => {
    const list = [
      { note: "one", in: ["staging"] },
      { note: "two", except: ["staging"] },
    ];
    expect(read({ iudex: 1, suspended: { a: list, b: [{ in: ["staging"], except: ["staging"] }, 7] } })).toEqual({
      usable: true,
      stops: [
        ["a", list[0], "suspended a 0"],
        ["a", list[1], "suspended a 1"],
        ["b", {}, "suspended b 0"],
        ["b", {}, "suspended b 1"],
      ],
      told: [at("suspended b 0"), at("suspended b 1")],
      says: true,
    });
    expect(read({ iudex: 1, suspended: { a: [] } })).toMatchObject({ stops: [["a", {}, "suspended a"]] });
    expect(read({ iudex: 1, suspended: { a: { except: ["stagin"] } } }).told).toEqual([at("suspended a except 0")]);
  });

  it("mean the same in another order", () => {
    const list = [{ note: "one", in: ["staging"] }, { note: "two" }];
    const text = (stops: readonly object[]) => {
      const suspended = { file: "suspended.yaml", data: { iudex: 1, suspended: { a: stops } } };
      const flags = { file: "a.json", data: { iudex: 1, environments: { staging: {} }, flags: { a: { safe: 1 } } } };
      return entryText(readDefinitions([flags], { suspended }).definitions!, "suspension", "a");
    };
    expect(text(list)).toBe(text(list.toReversed()));
    expect(text(list)).toBe('iudex 1\nsuspension\na\n[{"in":["staging"],"note":"one"},{"note":"two"}]\n');
    expect(text([list[1]!])).toBe('iudex 1\nsuspension\na\n{"note":"two"}\n');
  });
});
