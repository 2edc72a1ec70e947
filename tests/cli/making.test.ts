import { execFile, spawn } from "node:child_process";
import { mkdir, readdir, readFile, stat, writeFile } from "node:fs/promises";
import { join } from "node:path";
import { promisify } from "node:util";
import { describe, expect, it } from "vitest";
import { binary, iudex } from "../support/command.ts";
import { demoFolder, folderWith, put } from "../support/folders.ts";
import { demoRepository } from "../support/repository.ts";
import { scratch } from "../support/scratch.ts";

const run = promisify(execFile);

function text(folder: string, file: string): Promise<string> {
  return readFile(join(folder, file), "utf8");
}

describe("iudex new, pass, watch and catalogue", () => {
  it("makes a starter that check is content with, and writes over nothing", async () => {
    const home = await folderWith({});
    const folder = join(home, "flags");
    expect((await iudex("new", folder)).code).toBe(0);
    expect((await readdir(folder)).sort()).toEqual([".gitignore", "flags.yaml", "people.csv"]);
    expect(await text(folder, ".gitignore")).toContain("overrides.local.yaml");
    expect(await text(folder, "flags.yaml")).toMatch(/^# yaml-language-server: \$schema=/);
    const { code, out } = await iudex("check", "--flags", folder);
    expect([code, out]).toEqual([0, expect.stringContaining("nothing to complain of")]);
    expect((await iudex("new", folder)).err).toContain("holds files already");
  });

  it("signs a pass that the runtime takes, for that environment only", async () => {
    const { followFlags } = await import("iudex");
    const { folder } = await demoRepository();
    const key = {
      kty: "oct",
      kid: "2026-11",
      alg: "HS256",
      k: Buffer.from("a secret of the duty desk, thirty-two").toString("base64url"),
    };
    const file = join(folder, "..", "key.json");
    await writeFile(file, JSON.stringify(key));
    const words = ["pass", "berth-view=true", "seat-map=deck", "--for", "2h", "--env", "production", "--flags", folder];
    const { code, out } = await iudex(...words, "--key", file);
    expect(code).toBe(0);
    const flags = await followFlags(folder, {
      environment: "production",
      watch: false,
      keysForPasses: { keys: [key] },
    });
    const pass = await flags.verifyPass(out.trim());
    expect(flags.pin({ account: { id: "A-1" } }, { pass }).value("seat-map")).toBe("deck-plan");
    const own = await iudex(...words, "--key", file, "--subject", "account.id=A-1");
    expect(own.err).toMatch(/in production for account\.id A-1; its id is [0-9a-f-]{36}\n$/);
    const ownPass = await flags.verifyPass(own.out.trim());
    const given = (id: string) => flags.pin({ account: { id, plan: "freight" } }, { pass: ownPass }).value("seat-map");
    expect([given("A-1"), given("A-2")]).toEqual(["deck-plan", "list"]);
    const long = await iudex(...words, "--key", file, "--for", "7d");
    expect(long.err).toContain("only in its last 24 hours");
    const staging = await followFlags(folder, { environment: "staging", watch: false, keysForPasses: { keys: [key] } });
    expect(await staging.verifyPass(out.trim())).toBeUndefined();
    for (const [more, message] of [
      [[], "There is no key to sign with."],
      [["--key", "nowhere.json"], "cannot be read"],
      [["--key", file, "storm-mod=true"], "did you mean storm-mode?"],
      [["--key", file, "--for", "soon"], "write --for 30m, 2h or 7d"],
      [["--key", file, "--subject", "A-1"], "write an attribute and an id: --subject account.id=A-17"],
    ] as const) {
      const wrong = await iudex("pass", "storm-mode=true", ...words.slice(3), ...more);
      expect([wrong.code, wrong.err]).toEqual([2, expect.stringContaining(message)]);
    }
  });

  it("refuses a pass that no service would take", async () => {
    const { folder } = await demoRepository();
    const shared =
      "iudex: 1\nenvironments: { production: { passes: [storm-mode] } }\nflags: { storm-mode: { safe: false }, b: { safe: 1 } }\n";
    const few = join(folder, "../few");
    await mkdir(few);
    await put(few, "a.yaml", shared);
    const made = await iudex("key", "--for", "passes", "--to", join(few, "../pass.json"));
    expect(made.code).toBe(0);
    const words = ["--for", "2h", "--env", "production", "--flags", few, "--key", join(few, "../pass.json")];
    expect((await iudex("pass", "storm-mode=true", ...words)).code).toBe(0);
    expect(await iudex("pass", "storm-mode=true", "b=2", ...words)).toMatchObject({
      code: 2,
      err: "No pass has an effect on b in production.\nadd b to the passes of production in a.yaml\n",
    });
  });

  it("makes key pairs: the private half in a file of its owner, the public half as a set", async () => {
    const { followFlags, signPass } = await import("iudex");
    const home = await scratch();
    const make = (...words: string[]) => iudex("key", ...words);
    const file = join(home, "stop.json");
    const first = await make("--for", "passes", "--to", file, "--kid", "duty");
    expect((await stat(file)).mode & 0o777).toBe(0o600);
    const key = JSON.parse(await readFile(file, "utf8"));
    const { d, ...shared } = key;
    expect([d.length, shared]).toEqual([
      43,
      { crv: "Ed25519", x: shared.x, kty: "OKP", kid: "duty", alg: "EdDSA", "iudex-for": ["passes"] },
    ]);
    expect(JSON.parse(first.out)).toEqual({ keys: [shared] });
    await writeFile(join(home, "set.json"), first.out);
    const both = await make(
      "--for",
      "editions",
      "stops",
      "--to",
      join(home, "both.json"),
      "--keys",
      join(home, "set.json"),
    );
    const set = JSON.parse(both.out);
    expect(set.keys.map((each: { kid: string; "iudex-for": string[] }) => [each.kid, each["iudex-for"]])).toEqual([
      ["duty", ["passes"]],
      [expect.stringMatching(/^editions-stops-\d{4}-\d\d$/), ["editions", "stops"]],
    ]);
    const flags = await followFlags(demoFolder, { environment: "production", watch: false, keysForPasses: set });
    const request = { flags: { "storm-mode": true }, environment: "production", expires: Date.now() + 60_000 };
    expect(await flags.verifyPass(await signPass(request, key))).toMatchObject({ key: "duty" });
    // A key for something else signs no pass.
    const other = JSON.parse(await readFile(join(home, "both.json"), "utf8"));
    expect(await flags.verifyPass(await signPass(request, other))).toBeUndefined();
    for (const [words, message] of [
      [["--for", "passes", "--to", file], "cannot be made: "],
      [["--for", "doors"], "“doors” is not something that a key signs.\nwrite --for passes, editions or stops"],
      [["--for", "passes", "--kid", "duty", "--keys", join(home, "set.json")], "holds a key “duty” already"],
    ] as const) {
      const { code, err } = await make(...words);
      expect([code, err]).toEqual([2, expect.stringContaining(message)]);
    }
    expect(JSON.parse(await readFile(file, "utf8"))).toEqual(key);
  });

  it("watches: a line for each change, accepted or refused, and ends when interrupted", async () => {
    const { folder } = await demoRepository();
    const child = spawn(process.execPath, [binary, "watch", "--env", "production", "--json", "--flags", folder]);
    const lines: { event: string; summary: string }[] = [];
    const heard = new Map<string, () => void>();
    child.stdout.on("data", (chunk: Buffer) => {
      for (const line of String(chunk).trim().split("\n")) {
        const told = JSON.parse(line) as { event: string; summary: string };
        lines.push(told);
        heard.get(told.event)?.();
      }
    });
    const next = (event: string) => new Promise<void>((resolve) => heard.set(event, resolve));
    await next("watching");
    const changed = next("change");
    await put(folder, "operations.yaml", (await text(folder, "operations.yaml")).replace("safe: false", "safe: true"));
    await changed;
    const refused = next("rejected");
    await put(folder, "operations.yaml", "iudex: 1\nflags: [");
    await refused;
    const ended = new Promise((resolve) => child.on("close", resolve));
    child.kill("SIGINT");
    expect(await ended).toBe(0);
    expect(lines.map(({ event }) => event)).toEqual(["watching", "change", "rejected"]);
    expect(lines[1]!.summary).toContain("storm-mode: safe false → true");
  });

  it("writes a catalogue and a context type that compile and fit the set", async () => {
    const { folder } = await demoRepository();
    const { out } = await iudex("catalogue", "--flags", folder);
    const home = join(folder, "..");
    const root = join(import.meta.dirname, "../..");
    await writeFile(join(home, "flags.catalogue.ts"), out);
    await writeFile(
      join(home, "use.ts"),
      `import { followFlags } from "iudex";
import { catalogue, type FlagContext } from "./flags.catalogue.ts";
const flags = await followFlags(process.argv[2]!, { environment: "production", catalogue, watch: false });
const context: FlagContext = { account: { id: "A-17", plan: "freight" }, trips: 3 };
// @ts-expect-error no such plan
const wrong: FlagContext = { account: { plan: "raft" } };
const map: "list" | "deck-plan" | "walk-through" = flags.value("seat-map", context);
const lanes: number = flags.value("check-in", context).lanes;
console.log(map, lanes, flags.value("hold-minutes", context), wrong !== undefined);
`,
    );
    const compilerOptions = {
      strict: true,
      exactOptionalPropertyTypes: true,
      module: "nodenext",
      target: "es2022",
      outDir: "out",
      rewriteRelativeImportExtensions: true,
      types: ["node"],
      typeRoots: [join(root, "node_modules/@types")],
      paths: { iudex: [join(root, "dist/index.d.ts")] },
    };
    await writeFile(join(home, "tsconfig.json"), JSON.stringify({ compilerOptions, files: ["use.ts"] }));
    await writeFile(join(home, "package.json"), '{ "type": "module" }');
    const { symlink, mkdir } = await import("node:fs/promises");
    await mkdir(join(home, "node_modules"));
    await symlink(root, join(home, "node_modules/iudex"));
    const { stdout } = await run(join(root, "node_modules/.bin/tsc"), ["-p", "tsconfig.json"], { cwd: home }).catch(
      (error: { stdout: string }) => error,
    );
    expect(stdout).toBe("");
    expect((await run(process.execPath, ["out/use.js", folder], { cwd: home })).stdout.trim()).toBe("list 2 120 true");
  });

  it("has a help page for every command, whose example holds in an empty folder after the first of them", async () => {
    const home = await folderWith({});
    const { out } = await iudex("--help");
    const names = [...out.matchAll(/^ {2}([a-z]+) \[options\]/gm)].map(([, name]) => name!);
    expect(names).toHaveLength(21);
    expect((await iudex("help", "check")).out).toContain("--sarif");
    for (const name of names) {
      const page = (await iudex(name, "--help")).out;
      const example = new RegExp(`For example:\\n {2}iudex (${name}\\b.*)\\n`).exec(page)?.[1];
      expect([name, example]).toEqual([name, expect.any(String)]);
      // They go on until they are interrupted, which other tests see to.
      if (name === "watch" || name === "desk") continue;
      const fault = await run("sh", ["-c", `node ${binary} ${example}`], { cwd: home }).then(
        () => undefined,
        // 1 is bad news, such as a leftover; 2 is wrong use.
        ({ code, stderr }: { code: number; stderr: string }) => (code === 1 ? undefined : stderr),
      );
      expect([example, fault]).toEqual([example, undefined]);
      if (name === "new") await repository(home);
    }
  });
});

/** For the commands that look at a repository. */
async function repository(home: string): Promise<void> {
  const git = (...words: string[]) =>
    run("git", ["-c", "user.name=A", "-c", "user.email=a@b.example", ...words], { cwd: home });
  await git("init", "--quiet");
  await git("add", ".");
  await git("commit", "--quiet", "-m", "The first flags");
}
