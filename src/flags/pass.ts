import { HarmlessCopy, idText, readPath } from "../judge/index.ts";
import { parsePath } from "../language/index.ts";
import { isObject, own } from "../values/index.ts";
import { FlagsError } from "./errors.ts";
import type { JWK, Keys } from "./keys.ts";

/** A pass that has been verified: overrides for one person's own requests. */
export interface Pass {
  readonly flags: Readonly<Record<string, unknown>>;
  readonly environment: string;
  /** Epoch milliseconds, not included. */
  readonly expires: number;
  /** The id of the key that signed it. */
  readonly key: string;
  /** Its own id, by which it can be revoked. */
  readonly id: string;
  /** Epoch milliseconds. */
  readonly issued: number;
  /** Whose requests it is for; anybody's who holds it if left out. */
  readonly subject?: PassSubject;
}

/** The person whose requests a pass is for: an attribute of the context, and the id that it must have. */
export interface PassSubject {
  /** The path of the attribute, as in conditions: `account.id`. */
  readonly by: string;
  readonly id: string;
}

/** What is taken for a good pass, besides its signature. */
export interface PassRules {
  /** The longest that any pass counts: one that runs out later than this from now is refused. Milliseconds, 24 hours by
   * default. */
  readonly longest?: number | undefined;
  /** Whether a pass must say whose requests it is for. False by default. */
  readonly subjectRequired?: boolean | undefined;
  /** The passes that no longer count, or a function that gives those of the moment. */
  readonly revoked?: RevokedPasses | (() => RevokedPasses | Promise<RevokedPasses>) | undefined;
}

/** Passes that no longer count. */
export interface RevokedPasses {
  /** By their own ids. */
  readonly ids?: readonly string[] | undefined;
  /** All that were issued before this; epoch milliseconds. */
  readonly issuedBefore?: number | undefined;
}

/** A JSON Web Key with its id (`kid`) and algorithm (`alg`). */
export type PassKey = JWK & { readonly kid: string; readonly alg: string };

/** The `typ` of the protected header, so that no other signed thing of the same key is taken for a pass. */
const passType = "iudex-pass";

/** No pass is longer than this; it bounds what a stranger can make a service read. */
const longestPass = 8_192;

/** What a pass is to say. */
export interface PassRequest {
  /** Flag → value, or the name of a variant. */
  readonly flags: Readonly<Record<string, unknown>>;
  readonly environment: string;
  /** Epoch milliseconds. A service takes a pass only while it runs out within 24 hours, unless it allows more. */
  readonly expires: number;
  /** Whose requests it is for; anybody's who holds it if left out. */
  readonly subject?: PassSubject | undefined;
  /** Its own id; a random one if left out. */
  readonly id?: string | undefined;
}

/**
 * Signs a pass as a compact JWS (RFC 7515), with the registered claims of RFC 7519: `jti`, `iat`, `exp`, `sub`.
 *
 * @param key a private or secret key with `kid` and `alg`, such as EdDSA, ES256 or HS256; a secret has at least as many
 * bits as its hash
 * @throws {FlagsError} for a secret that is too short
 */
export async function signPass(request: PassRequest, key: PassKey): Promise<string> {
  if (isTooShort(key)) throw new FlagsError(`a secret for ${key.alg} needs at least ${fewestBits(key.alg)} bits`);
  const { CompactSign, importJWK } = await import("jose");
  const { flags, environment, expires, subject, id = crypto.randomUUID() } = request;
  const payload = {
    jti: id,
    iat: Math.floor(Date.now() / 1_000),
    exp: Math.floor(expires / 1_000),
    env: environment,
    flags,
    ...(subject === undefined ? {} : { by: subject.by, sub: subject.id }),
  };
  return new CompactSign(new TextEncoder().encode(JSON.stringify(payload)))
    .setProtectedHeader({ alg: key.alg, kid: key.kid, typ: passType })
    .sign(await importJWK(key, key.alg));
}

/** What a key is for may be left out. */
function isForPasses(key: JWK): boolean {
  const roles = (key as { "iudex-for"?: unknown })["iudex-for"];
  return roles === undefined || (Array.isArray(roles) ? roles.includes("passes") : roles === "passes");
}

/** HMAC with SHA-2 wants secrets as long as its hash (RFC 7518, 3.2). */
function fewestBits(alg: string): number {
  return Number(/^HS(\d+)$/.exec(alg)?.[1] ?? 0);
}

function isTooShort({ alg, k }: PassKey): boolean {
  return alg.startsWith("HS") && Buffer.from(k ?? "", "base64url").length * 8 < fewestBits(alg);
}

const defaultLongest = 86_400_000;

/** What a pass is held against. */
export interface PassCheck {
  readonly keys: Keys;
  readonly rules: PassRules;
  readonly environment: string | undefined;
  /** Epoch milliseconds. */
  readonly now: number;
}

/** Reads a pass, or says in a sentence why it is refused. Any doubt refuses it. */
export async function readPass(token: string, check: PassCheck): Promise<Pass | string> {
  try {
    if (token.length > longestPass) return "it is too long";
    const { compactVerify, decodeProtectedHeader, importJWK } = await import("jose");
    const { kid, typ } = decodeProtectedHeader(token);
    if (typ !== passType) return "it is not a pass";
    const { keys } = check;
    const set = typeof keys === "function" ? await keys() : keys;
    const known = set.keys.filter((key): key is PassKey => key.kid === kid && key.alg !== undefined);
    const [key] = known;
    if (!key || known.length > 1) return "its key is not known";
    if (!isForPasses(key)) return "its key is not for passes (iudex-for)";
    if (isTooShort(key)) return `its key has less than ${fewestBits(key.alg)} bits`;
    // The algorithm is the key's, never the token's.
    const { payload } = await compactVerify(token, await importJWK(key, key.alg), { algorithms: [key.alg] });
    const pass = passFrom(JSON.parse(new TextDecoder().decode(payload)), key.kid);
    if (!pass) return "it lacks an id, flags, an environment, an issue date or an expiry";
    return (await faultOf(pass, check)) ?? pass;
  } catch (error) {
    return error instanceof Error && error.name === "JWSSignatureVerificationFailed"
      ? "its signature is wrong"
      : "it cannot be read";
  }
}

function passFrom(claims: unknown, key: string): Pass | undefined {
  if (!isObject(claims)) return undefined;
  const [flags, environment, id] = [own(claims, "flags"), own(claims, "env"), own(claims, "jti")];
  const [exp, iat] = [own(claims, "exp"), own(claims, "iat")];
  if (!isObject(flags) || typeof environment !== "string" || typeof id !== "string" || id === "") return undefined;
  if (typeof exp !== "number" || typeof iat !== "number") return undefined;
  const [by, sub] = [own(claims, "by"), own(claims, "sub")];
  const pass = { flags, environment, expires: exp * 1_000, key, id, issued: iat * 1_000 };
  if (by === undefined && sub === undefined) return pass;
  // Half a subject must not become a pass for everybody.
  return typeof by === "string" && typeof sub === "string" ? { ...pass, subject: { by, id: sub } } : undefined;
}

async function faultOf(pass: Pass, { rules, environment, now }: PassCheck): Promise<string | undefined> {
  const { longest = defaultLongest, subjectRequired = false } = rules;
  if (pass.environment !== environment) return `it is for the environment “${pass.environment}”`;
  if (!(pass.expires > now)) return "it has expired";
  if (pass.expires > now + longest) return `it runs out later than ${longest / 3_600_000} hours from now`;
  if (subjectRequired && !pass.subject) return "it does not say whose requests it is for";
  const revoked = typeof rules.revoked === "function" ? await rules.revoked() : rules.revoked;
  if (revoked?.ids?.includes(pass.id)) return `it was revoked (${pass.id})`;
  if (pass.issued < (revoked?.issuedBefore ?? Number.NEGATIVE_INFINITY)) return "it was issued before what counts";
  return undefined;
}

/** Whether a pass is for the person of a context. */
export function isForContext({ subject }: Pass, context: unknown): boolean {
  if (!subject) return true;
  const { path } = parsePath(subject.by);
  return path !== undefined && idText(readPath(new HarmlessCopy(context).take([path]), path)) === subject.id;
}
