import type { JWK } from "jose";
import { isObject, own } from "../values/index.ts";

/** A pass that has been verified: overrides for one person's own requests. */
export interface Pass {
  readonly flags: Readonly<Record<string, unknown>>;
  readonly environment: string;
  /** Epoch milliseconds, not included. */
  readonly expires: number;
  /** The id of the key that signed it. */
  readonly key: string;
}

/** A JSON Web Key with its id (`kid`) and algorithm (`alg`). */
export type PassKey = JWK & { readonly kid: string; readonly alg: string };

/** Keys, or a function that gives the keys of the moment, so that they can rotate. */
export type PassKeys = readonly PassKey[] | (() => readonly PassKey[] | Promise<readonly PassKey[]>);

/** The `typ` of the protected header, so that no other signed thing of the same key is taken for a pass. */
const passType = "iudex-pass";

/** No pass is longer than this; it bounds what a stranger can make a service read. */
const longestPass = 8_192;

/** What a pass is to say. */
export interface PassRequest {
  /** Flag → value, or the name of a variant. */
  readonly flags: Readonly<Record<string, unknown>>;
  readonly environment: string;
  /** Epoch milliseconds. */
  readonly expires: number;
}

/**
 * Signs a pass as a compact JWS (RFC 7515).
 *
 * @param key a private or secret key with `kid` and `alg`, such as EdDSA, ES256 or HS256
 */
export async function signPass(request: PassRequest, key: PassKey): Promise<string> {
  const { CompactSign, importJWK } = await import("jose");
  const payload = { flags: request.flags, env: request.environment, exp: Math.floor(request.expires / 1_000) };
  return new CompactSign(new TextEncoder().encode(JSON.stringify(payload)))
    .setProtectedHeader({ alg: key.alg, kid: key.kid, typ: passType })
    .sign(await importJWK(key, key.alg));
}

/** Reads a pass, or says in a sentence why it is refused. Any doubt refuses it. */
export async function readPass(
  token: string,
  keys: PassKeys,
  environment: string | undefined,
  now: number,
): Promise<Pass | string> {
  try {
    if (token.length > longestPass) return "it is too long";
    const { compactVerify, decodeProtectedHeader, importJWK } = await import("jose");
    const { kid, typ } = decodeProtectedHeader(token);
    if (typ !== passType) return "it is no pass";
    const known = (typeof keys === "function" ? await keys() : keys).filter((key) => key.kid === kid);
    const [key] = known;
    if (!key || known.length > 1) return "its key is not known";
    // The algorithm is the key's, never the token's.
    const { payload } = await compactVerify(token, await importJWK(key, key.alg), { algorithms: [key.alg] });
    return checkClaims(JSON.parse(new TextDecoder().decode(payload)), key.kid, environment, now);
  } catch (error) {
    return error instanceof Error && error.name === "JWSSignatureVerificationFailed"
      ? "its signature is wrong"
      : "it cannot be read";
  }
}

function checkClaims(claims: unknown, key: string, environment: string | undefined, now: number): Pass | string {
  if (!isObject(claims)) return "it cannot be read";
  const flags = own(claims, "flags");
  const env = own(claims, "env");
  const exp = own(claims, "exp");
  if (!isObject(flags) || typeof env !== "string" || typeof exp !== "number")
    return "it lacks flags, an environment or an expiry";
  if (env !== environment) return `it is for the environment “${env}”`;
  if (!(exp * 1_000 > now)) return "it has expired";
  return { flags, environment: env, expires: exp * 1_000, key };
}
