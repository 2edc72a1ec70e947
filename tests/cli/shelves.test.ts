import { existsSync } from "node:fs";
import { readFile, writeFile } from "node:fs/promises";
import { join } from "node:path";
import { Ajv2020 } from "ajv/dist/2020.js";
import { followFlags } from "iudex";
import { describe, expect, onTestFinished, test } from "vitest";
import { iudexAlone, iudexIn } from "../support/command.ts";
import { demoPeople, projectRoot, replace } from "../support/folders.ts";
import { copiedDemo, holdFreight, publisherAndStopper, shelfKind, shelfKinds } from "../support/shelves.ts";

const schemas = JSON.parse(await readFile(join(projectRoot, "answers.schema.json"), "utf8")) as object;
const ajv = new Ajv2020({ strict: true, allowUnionTypes: true, formats: { "date-time": /^\d{4}-\d\d-\d\dT/ } });
ajv.addSchema({ ...schemas, $id: "answers" });

function faultsOf(name: string, answer: unknown): unknown[] {
  const validate = ajv.getSchema(`answers#/$defs/${name}`)!;
  validate(answer);
  return validate.errors ?? [];
}

/** A folder with a copy of the demo's definitions and the keys of a publisher and a stopper, and the command run in it. */
async function workplace() {
  const flags = await copiedDemo();
  const home = join(flags, "..");
  const { key, stopKey, keys } = await publisherAndStopper();
  await writeFile(join(home, "key.json"), JSON.stringify(key));
  await writeFile(join(home, "stop-key.json"), JSON.stringify(stopKey));
  await writeFile(join(home, "keys.json"), JSON.stringify(keys));
  const run = (...words: string[]) => iudexIn(home, ...words);
  return { home, flags, keys, run };
}

for (const kind of shelfKinds.filter(({ name }) => !name.startsWith("web"))) {
  describe.skipIf(!kind.isHere)(`at a shelf: ${kind.name}`, () => {
    test("publish, look, stop, go back: by hand, in text", async () => {
      const { flags, keys, run } = await workplace();
      const stand = await kind.stand();
      const at = [stand.address, "--set", "ternhaven"];
      const first = await run(
        "publish",
        "--to",
        ...at,
        "--key",
        "key.json",
        "--by",
        "Crew",
        "--note",
        "the first edition",
        "--yes",
      );
      // Node 20.19.0 to 20.19.2 tell of its own Ed25519.
      expect(first.err.replace(/^\(node:\d+\) ExperimentalWarning: The Ed25519 .*\n.*\n/, "")).toBe("");
      expect(first.out).toContain("The first edition: 8 flags, 3 cohorts, 3 windows and 3 environments.");
      expect(first.out).toContain("Published as edition 1 of ternhaven.");

      const following = await followFlags(await stand.following(), {
        environment: "production",
        keys,
        name: "booking-api",
      });
      onTestFinished(() => following.close());
      await holdFreight(flags, 125);
      const people = ["--people", join(demoPeople, "passengers.csv"), "--env", "production"];
      const second = await run(
        "publish",
        "--to",
        ...at,
        "--key",
        "key.json",
        "--note",
        "more time",
        ...people,
        "--yes",
      );
      expect(second.out).toContain("gives 125 instead of 120");
      expect(second.out).toMatch(/In production \d+ of 240 people in .* get another value\./);

      const stop = await run(
        "suspend",
        "storm-mode",
        "--at",
        ...at,
        "--key",
        "stop-key.json",
        "--keys",
        "keys.json",
        "--note",
        "false alarm",
        "--yes",
      );
      expect(stop.out).toContain("+ storm-mode  suspended: false alarm");
      expect(stop.out).toContain("Published as list 1 of the stops of ternhaven.");
      await expect.poll(() => following.verdict("storm-mode", {}).cause).toBe("suspended");

      const again = ["publish", "--again", "1", "--to", ...at, "--key", "key.json", "--keys", "keys.json", "--yes"];
      expect((await run(...again)).out).toContain("Published as edition 3 of ternhaven.");
      const look = await run("shelf", ...at, "--keys", "keys.json");
      expect(look.out).toMatch(
        /stands at edition 3 of ternhaven\.\n\nedition 3 .*edition 2 .*more time.*edition 1 .*Crew\n {2}the first edition/s,
      );
      expect(look.out).toMatch(/Stopped at .*, list 1:\n {2}storm-mode is stopped since .*: false alarm\n/);
      const stops = await run("stops", ...at, "--keys", "keys.json", "--json");
      expect(faultsOf("stops", JSON.parse(stops.out))).toEqual([]);
      expect(JSON.parse(stops.out)).toMatchObject({
        number: 1,
        suspended: { "storm-mode": [{ note: "false alarm" }] },
      });
      if (!kind.hasPresence) return expect(look.out).toContain("Who follows it is not known");
      const waited = await run("shelf", ...at, "--until", "3", "--json");
      expect(waited.code).toBe(0);
      const answer = JSON.parse(waited.out) as { followers: object[] };
      expect(faultsOf("shelf", answer)).toEqual([]);
      expect(answer.followers).toMatchObject([
        { name: "booking-api", edition: 3, stops: 1, environment: "production" },
      ]);
      const behind = await run("shelf", ...at, "--until", "4", "--within", "0.5");
      expect(behind.code).toBe(1);
      expect(behind.out).toContain("1 process follows it by what they say, 1 behind.");
    });

    test("answers as JSON are as their schemas say", async () => {
      const { flags, run } = await workplace();
      const { address } = await kind.stand();
      const publish = async (...words: string[]) =>
        JSON.parse((await run("publish", "--to", address, "--json", "--yes", ...words)).out) as object;
      expect(faultsOf("publish", await publish("--key", "key.json"))).toEqual([]);
      const again = await publish("--key", "key.json");
      expect(again).toMatchObject({ published: false, message: "Edition 1 holds the same already." });
      expect(faultsOf("publish", again)).toEqual([]);
      await replace(join(flags, "fares.yaml"), "cohort:testers", "cohort:tester");
      const refused = await publish("--key", "key.json");
      expect(refused).toMatchObject({ published: false, refused: [{ code: "unknown-cohort" }] });
      expect(faultsOf("publish", refused)).toEqual([]);
      const signing = ["--key", "stop-key.json", "--keys", "keys.json", "--json", "--yes"];
      const stop = JSON.parse((await run("suspend", "storm-mode", "--at", address, ...signing)).out) as object;
      expect(stop).toMatchObject({ published: true, number: 1, changes: [{ name: "storm-mode" }] });
      expect(faultsOf("stopping", stop)).toEqual([]);
      const twice = JSON.parse((await run("suspend", "storm-mode", "--at", address, ...signing)).out) as object;
      expect(twice).toMatchObject({ published: false, message: expect.stringContaining("already") });
      expect(faultsOf("stopping", twice)).toEqual([]);
      expect(faultsOf("shelf", JSON.parse((await run("shelf", address, "--json")).out))).toEqual([]);
    });
  });
}

describe("at a shelf, in words", () => {
  test("what is wrong is said with what to write instead", async () => {
    const { run, home } = await workplace();
    const words = async (...asked: string[]) => {
      const { code, out, err } = await run(...asked);
      return [code, out + err];
    };
    expect(await words("publish")).toEqual([2, expect.stringContaining("required option '--to <shelf>'")]);
    expect(await words("publish", "--to", "shelf")).toEqual([
      2,
      expect.stringContaining("Nothing was published: there is nobody at a terminal to ask.\nadd --yes"),
    ]);
    expect(await words("publish", "--to", "https://config.ternhaven.example/", "--yes")).toEqual([
      2,
      expect.stringContaining("publish to the folder that its web server serves"),
    ]);
    expect(await words("publish", "--to", "shelf", "--again", "one", "--yes")).toEqual([
      2,
      expect.stringContaining("“one” is not a whole number above 0."),
    ]);
    expect(await words("publish", "--to", "shelf", "--key", "nothing.json", "--yes")).toEqual([
      2,
      expect.stringContaining("The key file “nothing.json” cannot be read."),
    ]);
    expect(await words("publish", "--to", "shelf", "--key", "keys.json", "--yes")).toEqual([
      2,
      expect.stringContaining("no JSON Web Key with kid and alg"),
    ]);
    expect(await words("shelf", "nowhere")).toEqual([
      1,
      expect.stringContaining("“nowhere” cannot be read: it does not exist."),
    ]);
    expect(await words("shelf", "http://config.ternhaven.example/")).toEqual([
      2,
      expect.stringContaining("would be asked in the open"),
    ]);
    expect(await words("suspend", "storm-mode", "--at", "redis://127.0.0.1:1", "--commit", "--yes")).toEqual([
      2,
      expect.stringContaining("At a shelf there is nothing to commit."),
    ]);
    // A mistyped time is not taken for a shelf, and makes no folder.
    expect(await words("suspend", "storm-mode", "--at", "tomorrow", "--yes")).toEqual([
      2,
      expect.stringContaining("“tomorrow” is neither an instant nor a shelf that is there."),
    ]);
    expect(existsSync(join(home, "tomorrow"))).toBe(false);
    expect(await words("suspend", "storm-mode", "--at", "flags", "--yes")).toEqual([
      2,
      expect.stringContaining("flags holds no edition, so there is nothing to stop"),
    ]);
    expect(await words("publish", "--to", "s3://bucket/flags", "--yes")).toEqual([
      2,
      expect.stringContaining("“s3:” is not a kind of shelf."),
    ]);
    expect((await run("publish", "--to", "shelf", "--yes")).code).toBe(0);
    expect(await words("shelf", "shelf", "--until", "1")).toEqual([
      2,
      expect.stringContaining("shelf has no list of followers: only shelves in Redis and PostgreSQL do."),
    ]);
    expect(await words("shelf", "shelf", "--keys", "key.json")).toEqual([2, expect.stringContaining("JWK Set")]);
    const own = await readFile(join(home, "key.json"), "utf8");
    await writeFile(join(home, "private.json"), `{ "keys": [${own}] }`);
    await writeFile(
      join(home, "twice.json"),
      `{ "keys": [${own.replace(/,"d":"[^"]*"/, "")}, ${own.replace(/,"d":"[^"]*"/, "")}] }`,
    );
    expect(await words("shelf", "shelf", "--keys", "private.json")).toEqual([
      1,
      expect.stringContaining("The keys hold the private key “2026-11”; write its public half"),
    ]);
    expect(await words("shelf", "shelf", "--keys", "twice.json")).toEqual([
      1,
      expect.stringContaining("Two of the keys are called “2026-11”"),
    ]);
  });

  test("passwords are in no message", async () => {
    const { run } = await workplace();
    for (const scheme of ["redis", "postgres"]) {
      const { code, out, err } = await run("shelf", `${scheme}://crew:of-ours@127.0.0.1:1/0`);
      expect([code, out + err]).toEqual([1, expect.stringContaining(`${scheme}://127.0.0.1:1/0`)]);
      expect(out + err).not.toContain("of-ours");
    }
  });

  test.skipIf(!shelfKind("PostgreSQL").isHere)(
    "the tables of PostgreSQL are made when asked, and who may only read is told",
    async () => {
      const { run } = await workplace();
      const { engine } = await shelfKind("PostgreSQL").stand();
      const { default: pg } = await import("pg");
      const address = `postgres://postgres@127.0.0.1:${engine!.port}/fresh`;
      const client = new pg.Client({ connectionString: address.replace("/fresh", "/postgres") });
      client.on("error", () => {});
      await client.connect();
      await client.query("create database fresh");
      await client.query("create role reader login");
      const missing = await run("publish", "--to", address, "--yes");
      expect([missing.code, missing.err]).toEqual([
        1,
        expect.stringContaining("its tables are missing; make them with iudex publish --prepare"),
      ]);
      const made = await run("publish", "--to", address, "--prepare", "--yes");
      expect(made.out).toContain("Published as edition 1 of flags, unsigned.");
      await client.end();
      const owner = new pg.Client({ connectionString: address });
      owner.on("error", () => {});
      await owner.connect();
      await owner.query("grant select on all tables in schema public to reader");
      const reader = address.replace("postgres@", "reader@");
      expect((await run("shelf", reader)).out).toContain("stands at edition 1 of flags.");
      const refused = await run("suspend", "storm-mode", "--at", reader, "--yes");
      expect([refused.code, refused.err]).toEqual([1, expect.stringContaining("permission denied for table")]);
      const { postgresShelf } = await import("iudex/fleet");
      const pool = new pg.Pool({ connectionString: reader });
      const flags = await followFlags(postgresShelf(pool), { environment: "production" });
      const problems: string[] = [];
      flags.on("problem", ({ message }) => problems.push(message));
      await expect
        .poll(() => problems.join("\n"))
        .toContain(
          "This process is not in the list of followers: PostgreSQL, set flags cannot be used: permission denied",
        );
      await owner.query("revoke select on iudex_editions from reader");
      await flags.close();
      await pool.end();
      await owner.end();
    },
  );

  test.skipIf(!shelfKind("Redis").isHere)("keys of other programs in the same Redis stay as they are", async () => {
    const { run } = await workplace();
    const { address } = await shelfKind("Redis").stand();
    const { createClient } = await import("redis");
    const client = await createClient({ url: address }).connect();
    onTestFinished(() => client.destroy());
    await client.set("iudex:{flags}:edition", "another program's");
    const refused = await run("publish", "--to", address, "--yes");
    expect([refused.code, refused.out + refused.err]).toEqual([
      2,
      expect.stringContaining("What stands on the shelf is not to be trusted: its list is not JSON"),
    ]);
    expect(await client.get("iudex:{flags}:edition")).toBe("another program's");
    await client.del("iudex:{flags}:edition");
    await client.hSet("iudex:{flags}:edition", "a", "b");
    const wrong = await run("shelf", address);
    expect([wrong.code, wrong.err]).toEqual([1, expect.stringContaining("WRONGTYPE")]);
  });

  test("a client that is not installed is a message that says what to install", async () => {
    const { home } = await workplace();
    const without = `
      import { register } from "node:module";
      register("data:text/javascript," + encodeURIComponent(
        "export async function resolve(name, context, next) { if (name === 'redis' || name === 'pg') { const e = new Error('no'); e.code = 'ERR_MODULE_NOT_FOUND'; throw e; } return next(name, context); }"));`;
    await writeFile(join(home, "without.mjs"), without);
    for (const [name, address] of [
      ["redis", "redis://127.0.0.1:1"],
      ["pg", "postgres://127.0.0.1:1/x"],
    ]) {
      const { code, err } = await iudexAlone(
        { cwd: home, env: { NODE_OPTIONS: "--import ./without.mjs" } },
        "shelf",
        address!,
      );
      expect([code, err]).toEqual([
        2,
        expect.stringContaining(
          `the package ${name} is needed, and it is not installed.\nnpm install --save-dev ${name}`,
        ),
      ]);
    }
  });
});
