import { randomUUID } from "node:crypto";
import { type AuditEvent, type FlagsOptions, followFlags, type PassKey, type PassRules, signPass } from "iudex";
import { CompactSign, importJWK } from "jose";
import { describe, expect, it, onTestFinished, vi } from "vitest";
import { folderWith } from "../support/folders.ts";
import { collected } from "../support/waiting.ts";

const set = `iudex: 1
environments: { production: { passes: [berth-view, seats] }, staging: {} }
attributes: { account.id: text }
defaults: { by: account.id }
flags:
  berth-view: { safe: false }
  storm-mode: { safe: false }
  seats: { variants: { classic: list, deck: deck-plan }, safe: classic }
`;

const key: PassKey = { kty: "oct", kid: "k", alg: "HS256", k: Buffer.alloc(32, 7).toString("base64url") };

async function opened(rulesForPasses: PassRules = {}, more: FlagsOptions<never> = {}) {
  const folder = await folderWith({ "a.yaml": set });
  const flags = await followFlags(folder, {
    environment: "production",
    keysForPasses: { keys: [key] },
    rulesForPasses,
    watch: false,
    ...more,
  });
  onTestFinished(() => flags.close());
  return flags;
}

const soon = () => Date.now() + 600_000;
const request = (more: object = {}) => ({
  flags: { "berth-view": true },
  environment: "production",
  expires: soon(),
  ...more,
});

const claims = (more: object) => ({
  jti: randomUUID(),
  iat: Math.floor(Date.now() / 1_000),
  exp: Math.floor(soon() / 1_000),
  env: "production",
  flags: { "berth-view": true },
  ...more,
});

async function signed(payload: object, by: PassKey = key): Promise<string> {
  return new CompactSign(new TextEncoder().encode(JSON.stringify(payload)))
    .setProtectedHeader({ alg: by.alg, kid: by.kid, typ: "iudex-pass" })
    .sign(await importJWK(by, by.alg));
}

describe("a pass", () => {
  it("that names a flag which passes may not touch has no effect on it, and it is said", async () => {
    const folder = await folderWith({ "a.yaml": set.replace("[berth-view, seats]", "[storm-mode]") });
    const flags = await followFlags(folder, {
      environment: "production",
      keysForPasses: { keys: [key] },
      watch: false,
    });
    onTestFinished(() => flags.close());
    const problems = collected(flags, "problem");
    const pass = await flags.verifyPass(
      await signPass(request({ flags: { "berth-view": true, "storm-mode": true } }), key),
    );
    const pinned = flags.pin({}, { pass });
    expect([pinned.value("berth-view"), pinned.value("storm-mode")]).toEqual([false, true]);
    expect(problems.map(({ message }) => message)).toEqual([
      "A pass was refused: the passes of production do not hold “berth-view”, so it has no effect.",
    ]);
  });

  it("for one person opens nobody else's requests", async () => {
    const flags = await opened();
    const problems = collected(flags, "problem");
    const pass = await flags.verifyPass(await signPass(request({ subject: { by: "account.id", id: "A-17" } }), key));
    const asked = (context: object) => flags.pin(context, { pass }).value("berth-view");
    expect(asked({ account: { id: "A-17" } })).toBe(true);
    for (const context of [{}, { account: { id: "A-18" } }, { "account.id": "A-17" }, { account: ["A-17"] }])
      expect(asked(context)).toBe(false);
    expect(problems.map(({ message }) => message)).toEqual(["A pass was refused: it is for somebody else."]);
  });

  it("touches only the flags that its environment names", async () => {
    const flags = await opened();
    const everything = { "berth-view": true, "storm-mode": true, seats: "deck" };
    const pass = await flags.verifyPass(await signPass(request({ flags: everything }), key));
    const pinned = flags.pin({}, { pass });
    expect(pinned.values()).toEqual({ "berth-view": true, "storm-mode": false, seats: "deck-plan" });
  });

  const day = 86_400_000;
  it.each<[string, () => Promise<string>, PassRules, RegExp]>([
    [
      "that runs out later than a day from now",
      () => signPass(request({ expires: Date.now() + day + 5_000 }), key),
      {},
      /24 hours/,
    ],
    [
      "without a subject, where one is required",
      () => signPass(request(), key),
      { subjectRequired: true },
      /whose requests/,
    ],
    [
      "that was revoked by its id",
      () => signPass(request({ id: "p-1" }), key),
      { revoked: { ids: ["p-1"] } },
      /revoked \(p-1\)/,
    ],
    [
      "issued before what counts",
      () => signPass(request(), key),
      { revoked: { issuedBefore: Date.now() + 60_000 } },
      /issued before/,
    ],
    [
      "when nobody can say what is revoked",
      () => signPass(request(), key),
      { revoked: () => Promise.reject(new Error("down")) },
      /cannot be read/,
    ],
    ["without an id", () => signed(claims({ jti: undefined })), {}, /lacks an id/],
    ["without an issue date", () => signed(claims({ iat: "now" })), {}, /lacks an id/],
    ["with half a subject", () => signed(claims({ sub: "A-17" })), {}, /lacks an id/],
  ])("is refused: one %s", async (_, make, rules, reason) => {
    const flags = await opened(rules);
    const problems = collected(flags, "problem");
    expect(await flags.verifyPass(await make())).toBeUndefined();
    expect(problems.at(-1)?.message).toMatch(reason);
  });

  it("may be longer where the verifier says so, and is taken while none of it is revoked", async () => {
    const revoked = { ids: [] as string[] };
    const flags = await opened({ longest: 7 * day, revoked: () => revoked });
    const token = await signPass(request({ expires: Date.now() + 3 * day, id: "p-1" }), key);
    expect(await flags.verifyPass(token)).toMatchObject({ id: "p-1", key: "k" });
    revoked.ids.push("p-1");
    expect(await flags.verifyPass(token)).toBeUndefined();
  });

  it("is neither signed nor taken with a secret shorter than its hash", async () => {
    const short: PassKey = { ...key, k: Buffer.alloc(31, 7).toString("base64url") };
    await expect(signPass(request(), short)).rejects.toThrow("a secret for HS256 needs at least 256 bits");
    const flags = await opened({}, { keysForPasses: { keys: [short] } });
    const problems = collected(flags, "problem");
    expect(await flags.verifyPass(await signed(claims({}), short))).toBeUndefined();
    expect(problems.at(-1)?.message).toBe("A pass was refused: its key has less than 256 bits.");
  });

  it("that is refused over and over is told of once a minute, with a count", async () => {
    const flags = await opened();
    const problems = collected(flags, "problem");
    vi.useFakeTimers();
    onTestFinished(() => void vi.useRealTimers());
    for (let i = 0; i < 500; i++) await flags.verifyPass("nonsense");
    expect(problems).toHaveLength(1);
    vi.advanceTimersByTime(60_000);
    vi.advanceTimersByTime(600_000);
    expect(problems.map(({ message }) => message)).toEqual([
      "A pass was refused: it cannot be read.",
      "499 more passes were refused within a minute, the last one because it cannot be read.",
    ]);
  });
});

it("every use of a pass and of an override can be told", async () => {
  const flags = await opened({}, { overrides: "storm-mode=true" });
  const told: AuditEvent[] = [];
  const off = flags.on("audit", (event) => void told.push(event));
  const pass = await flags.verifyPass(await signPass(request({ id: "p-1" }), key));
  await flags.verifyPass("nonsense");
  const pinned = flags.pin({}, { pass });
  pinned.value("berth-view");
  pinned.value("berth-view");
  flags.value("storm-mode");
  flags.value("seats");
  const block = flags.override({ seats: "deck-plan" });
  flags.value("seats");
  block.undo();
  expect(
    told.map((event) => [
      event.kind,
      event.environment,
      "pass" in event ? event.pass?.id : undefined,
      "verdict" in event ? [event.verdict.flag, event.verdict.value, event.verdict.overriddenBy] : undefined,
    ]),
  ).toEqual([
    ["pass-taken", "production", "p-1", undefined],
    ["pass-refused", "production", undefined, undefined],
    ["overridden", "production", "p-1", ["berth-view", true, "pass"]],
    ["overridden", "production", undefined, ["storm-mode", true, "variable"]],
    ["overridden", "production", undefined, ["seats", "deck-plan", "code"]],
  ]);
  off();
  flags.value("storm-mode");
  expect(told).toHaveLength(5);
});
