import { rename, rm, writeFile } from "node:fs/promises";
import { join } from "node:path";
import { type FlagsOptions, followFlags, type PassKey, signPass, variant } from "iudex";
import { CompactSign, exportJWK, generateKeyPair, generateSecret, importJWK } from "jose";
import { describe, expect, it, onTestFinished } from "vitest";
import { folderWith, put } from "../support/folders.ts";
import { collected, next } from "../support/waiting.ts";

const set = `iudex: 1
environments: { local: { local-overrides: true }, production: {} }
flags:
  storm: { safe: false }
  seats: { variants: { list: classic, deck: plan, same: plan }, safe: list }
  motto: { safe: "" }
  minutes: { safe: 15 }
  gates: { safe: { lanes: 1 } }
  follower: { safe: none, rules: [{ when: 'flag:seats == "deck"', give: saw deck }] }
`;

async function opened(options: FlagsOptions = {}, files: Record<string, string> = {}) {
  const folder = await folderWith({ "a.yaml": set, ...files });
  const flags = await followFlags(folder, { environment: "local", overrides: "", ...options });
  onTestFinished(() => flags.close());
  return { folder, flags };
}

describe("the variable", () => {
  it("overrides by variant name or value, and is seen by flags that refer to it", async () => {
    const { flags } = await opened({
      overrides: 'storm=true, seats=deck , motto="calm, then = fair", minutes=30, gates={"lanes":4}',
    });
    expect(["storm", "seats", "motto", "minutes", "gates"].map((name) => flags.value(name))).toEqual([
      true,
      "plan",
      "calm, then = fair",
      30,
      { lanes: 4 },
    ]);
    expect(flags.verdict("seats")).toMatchObject({ variant: "deck", cause: "override", overriddenBy: "variable" });
    expect(flags.value("follower")).toBe("saw deck");
  });

  it("is read by the type of each flag", async () => {
    const { flags } = await opened({ overrides: "motto=5, seats=5, storm=true" });
    expect([flags.value("motto"), flags.value("seats"), flags.value("storm")]).toEqual(["5", "classic", true]);
    const { flags: named } = await opened(
      { overrides: "b=true" },
      { "b.yaml": "iudex: 1\nflags: { b: { variants: { 'true': 1, 'false': 0 }, safe: 'false' } }\n" },
    );
    expect(named.verdict("b")).toMatchObject({ value: 1, variant: "true" });
  });

  it("is refused piece by piece where it does not fit", async () => {
    const { flags } = await opened({ overrides: "storm=yes, seats=dekc, nobody=1, minutes=20, oops" });
    const problems = collected(flags, "problem");
    expect([flags.value("storm"), flags.value("seats"), flags.value("minutes")]).toEqual([false, "classic", 20]);
    await expect.poll(() => problems.length).toBe(4);
    expect(problems.map((p) => p.message)).toEqual([
      'The override of “storm” is refused: "yes" is not of its type, yes-no.',
      "The override of “seats” is refused: “dekc” is none of its variants (list, deck and same).",
      "The override of “nobody” is refused: there is no such flag.",
      "IUDEX_OVERRIDES: “oops” is not “flag=value”.",
    ]);
  });
});

describe("the local file", () => {
  const local = "iudex: 1\noverrides: { storm: true, minutes: 99 }\n";
  it("counts where the environment lets it, is stronger than the variable, and is read anew", async () => {
    const { folder, flags } = await opened({ overrides: "minutes=1" }, { "overrides.local.yaml": local });
    expect(flags.verdict("minutes")).toMatchObject({ value: 99, overriddenBy: "local-file" });
    await writeFile(join(folder, "overrides.local.yaml"), local.replace("99", "100"));
    await expect.poll(() => flags.value("minutes")).toBe(100);
  });

  it("stays while the whole folder is away, as everything does", async () => {
    const { folder, flags } = await opened({}, { "overrides.local.yaml": local });
    const rejected = next(flags, "rejected");
    await rename(folder, `${folder}-away`);
    await rejected;
    expect(flags.value("minutes")).toBe(99);
    await rm(join(`${folder}-away`, "overrides.local.yaml"));
    await rename(`${folder}-away`, folder);
    await expect.poll(() => flags.value("minutes")).not.toBe(99);
  });

  it("counts no longer, or again, as soon as the environment says so", async () => {
    const { folder, flags } = await opened({}, { "overrides.local.yaml": local });
    const problems = collected(flags, "problem");
    const values: unknown[] = [];
    flags.on("change", () => values.push(flags.value("minutes")));
    await put(folder, "a.yaml", set.replace("local-overrides: true", "local-overrides: false"));
    await expect.poll(() => values).toEqual([15]);
    await expect.poll(() => problems.map((p) => p.message)).toEqual([expect.stringContaining("is left alone")]);
    await put(folder, "a.yaml", set);
    await expect.poll(() => values).toEqual([15, 99]);
    flags.goBackTo(flags.history[1]!.revision);
    expect(flags.value("minutes")).toBe(15);
  });

  it("is left alone elsewhere", async () => {
    const { flags } = await opened({ environment: "production" }, { "overrides.local.yaml": local });
    const problems = collected(flags, "problem");
    expect(flags.value("storm")).toBe(false);
    await expect.poll(() => problems.map((p) => p.message)).toEqual([expect.stringContaining("is left alone")]);
  });

  it("is reported where it is broken, and the set holds", async () => {
    const { folder, flags } = await opened();
    const problem = next(flags, "problem");
    await put(folder, "overrides.local.yaml", "iudex: 1\noverides: { storm: true }\n");
    expect((await problem).problems[0]).toMatchObject({ code: "unknown-key", help: "did you mean “overrides”?" });
    expect(flags.value("storm")).toBe(false);
  });
});

describe("in code", () => {
  it("holds until undone, by value or variant, above everything else", async () => {
    const { flags } = await opened(
      { overrides: "seats=list" },
      { "suspended.yaml": "iudex: 1\nsuspended: { storm: {} }\n" },
    );
    const first = flags.override({ storm: true, seats: variant("deck") });
    expect(flags.verdict("storm")).toMatchObject({ value: true, cause: "override", overriddenBy: "code" });
    expect(flags.verdict("seats")).toMatchObject({ value: "plan", variant: "deck" });
    const second = flags.override({ seats: "plan" });
    expect(flags.verdict("seats")).toMatchObject({ value: "plan", variant: "deck" });
    first.undo();
    expect(flags.verdict("storm")).toMatchObject({ value: false, cause: "suspended" });
    second.undo();
    expect(flags.verdict("seats")).toMatchObject({ value: "classic", overriddenBy: "variable" });
  });

  it("refuses a value that no variant has, and another type", async () => {
    const { flags } = await opened();
    const problems = collected(flags, "problem");
    flags.override({ seats: "something else", minutes: "long" });
    expect(flags.verdict("seats")).toMatchObject({ value: "classic", variant: "list" });
    expect(flags.value("minutes")).toBe(15);
    expect(problems.map(({ message }) => message)).toEqual([
      'The override of “seats” is refused: "something else" is the value of none of its variants (list, deck and same).',
      'The override of “minutes” is refused: "long" is not of its type, number.',
    ]);
  });

  it("that is refused leaves those below it in force", async () => {
    const { flags } = await opened();
    flags.override({ minutes: 1, storm: true });
    flags.override({ minutes: "long" });
    expect(flags.value("minutes")).toBe(1);
    const inside = () => [flags.value("minutes"), flags.value("storm")];
    expect(flags.withOverrides({ minutes: 2 }, () => flags.withOverrides({ minutes: [], storm: 0 }, inside))).toEqual([
      2,
      true,
    ]);
  });

  it("gives a copy of the data that it was made of, and refuses what is none", async () => {
    const { flags } = await opened();
    const problems = collected(flags, "problem");
    const lanes = { lanes: 4, names: ["left"] };
    flags.override({ gates: lanes });
    lanes.lanes = 5;
    lanes.names.push("right");
    expect(flags.value("gates")).toEqual({ lanes: 4, names: ["left"] });
    const circle: { inner?: object } = {};
    circle.inner = circle;
    for (const bad of [{ lanes: [1, () => 2] }, { lanes: Number.NaN }, circle, new (class Gates {})()])
      flags.override({ gates: bad });
    expect(flags.value("gates")).toEqual({ lanes: 4, names: ["left"] });
    expect(
      problems.map(({ message }) => message.replace("The override of “gates” is refused: what it gives is ", "")),
    ).toEqual([
      "no plain data at /lanes/1.",
      "a number that is not finite at /lanes.",
      "nested deeper than 32, or in a circle.",
      "no plain data.",
    ]);
  });

  it("stays inside its asynchronous scope, also side by side", async () => {
    const { flags } = await opened();
    const seen = await Promise.all(
      [1, 2, 3].map((n) =>
        flags.withOverrides({ minutes: n }, async () => {
          await new Promise((resolve) => setTimeout(resolve, 10 - n));
          const inner = await flags.withOverrides({ storm: true }, async () => [
            flags.value("minutes"),
            flags.value("storm"),
          ]);
          return [...inner, flags.value("storm")];
        }),
      ),
    );
    expect(seen).toEqual([
      [1, true, false],
      [2, true, false],
      [3, true, false],
    ]);
    expect(flags.value("minutes")).toBe(15);
  });

  it("reports what it refuses once, however often is asked, and follows the set", async () => {
    const { folder, flags } = await opened();
    const problems = collected(flags, "problem");
    await flags.withOverrides({ minutes: "long", storm: true }, async () => {
      for (let i = 0; i < 10; i++) expect(flags.value("minutes")).toBe(15);
      const changed = next(flags, "change");
      await writeFile(join(folder, "a.yaml"), set.replace("minutes: { safe: 15 }", "minutes: { safe: short }"));
      await changed;
      expect([flags.value("minutes"), flags.value("storm")]).toEqual(["long", true]);
    });
    expect(problems).toHaveLength(1);
  });
});

describe("the signed pass", async () => {
  const { privateKey, publicKey } = await generateKeyPair("EdDSA", { extractable: true });
  const signing = { ...(await exportJWK(privateKey)), kid: "k1", alg: "EdDSA" } as PassKey;
  const verifying = { ...(await exportJWK(publicKey)), kid: "k1", alg: "EdDSA" } as PassKey;
  const secret = {
    ...(await exportJWK(await generateSecret("HS256", { extractable: true }))),
    kid: "k2",
    alg: "HS256",
  } as PassKey;
  const now = Date.parse("2026-12-01T09:00:00Z");
  const request = { flags: { seats: "deck", storm: true }, environment: "local", expires: now + 60_000 };
  const clockAt = { now };
  const options = { clock: () => clockAt.now, keysForPasses: async () => ({ keys: [verifying, secret] }) };

  it("opens one person's own requests, above the local file and below code", async () => {
    const { flags } = await opened(options, { "overrides.local.yaml": "iudex: 1\noverrides: { seats: list }\n" });
    const pass = await flags.verifyPass(await signPass(request, signing));
    const pinned = flags.pin({}, { pass });
    expect(pinned.verdict("seats")).toMatchObject({ variant: "deck", overriddenBy: "pass" });
    expect(pinned.value("follower")).toBe("saw deck");
    expect(flags.value("seats")).toBe("classic");
    const block = flags.override({ seats: variant("same") });
    expect(flags.pin({}, { pass }).verdict("seats").variant).toBe("same");
    block.undo();
  });

  it("never opens what is suspended, nor after its expiry", async () => {
    const { flags } = await opened(options, { "suspended.yaml": "iudex: 1\nsuspended: { storm: {} }\n" });
    const pass = await flags.verifyPass(await signPass(request, secret));
    expect(flags.pin({}, { pass }).verdict("storm").cause).toBe("suspended");
    clockAt.now = now + 60_000;
    expect(flags.pin({}, { pass }).value("seats")).toBe("classic");
    clockAt.now = now;
  });

  const forged = async () => {
    const [head, , signature] = (await signPass(request, signing)).split(".");
    return `${head}.${Buffer.from(JSON.stringify({ flags: { storm: true }, env: "local", exp: 9e9 })).toString("base64url")}.${signature}`;
  };
  const otherType = async () =>
    new CompactSign(new TextEncoder().encode(JSON.stringify({ flags: {}, env: "local", exp: 9e9 })))
      .setProtectedHeader({ alg: "EdDSA", kid: "k1" })
      .sign(await importJWK(signing, "EdDSA"));
  it.each<[string, () => Promise<string>, string]>([
    [
      "for another environment",
      () => signPass({ ...request, environment: "production" }, signing),
      "it is for the environment “production”",
    ],
    ["expired", () => signPass({ ...request, expires: now }, signing), "it has expired"],
    ["of an unknown key", () => signPass(request, { ...signing, kid: "k9" }), "its key is not known"],
    [
      "signed by another key under a known name",
      () => signPass(request, { ...secret, kid: "k1" }),
      "it cannot be read",
    ],
    ["with other words under the signature", forged, "its signature is wrong"],
    [
      "without an algorithm",
      async () => `${Buffer.from('{"alg":"none","kid":"k1","typ":"iudex-pass"}').toString("base64url")}.e30.`,
      "it cannot be read",
    ],
    ["that is something else", otherType, "it is not a pass"],
    ["that is nonsense", async () => "abc", "it cannot be read"],
    ["that is huge", async () => "x".repeat(100_000), "it is too long"],
  ])("is refused: one %s", async (_, make, reason) => {
    const { flags } = await opened(options);
    const problems = collected(flags, "problem");
    expect(await flags.verifyPass(await make())).toBeUndefined();
    expect(problems.at(-1)?.message).toBe(`A pass was refused: ${reason}.`);
  });
});
