import type { JWK } from "jose";
import type { EditionKeys, ShelfOptions } from "../flags/index.ts";
import { isObject, own } from "../values/index.ts";
import { type Edition, longestList, payloadOf, readPayload, tooLong } from "./edition.ts";
import { EditionFault, ShelfFault } from "./faults.ts";

/** A private JSON Web Key (RFC 7517) with its id (`kid`) and algorithm (`alg`): EdDSA or ES256. */
export type PublishKey = JWK & { readonly kid: string; readonly alg: string };

/** The `typ` of the protected header, so that no other signed thing of the same key is taken for an edition. */
const editionType = "iudex-edition";

const algorithms = ["EdDSA", "Ed25519", "ES256"];

/**
 * The list of an edition: a JWS in general JSON serialisation (RFC 7515, 7.2.1). Without a key it bears no signature.
 *
 * @throws {EditionFault} for a key that cannot sign
 */
export async function signEdition(edition: Edition, key: PublishKey | undefined): Promise<string> {
  const payload = new TextEncoder().encode(payloadOf(edition));
  if (!key) return JSON.stringify({ payload: Buffer.from(payload).toString("base64url"), signatures: [] });
  if (!algorithms.includes(key.alg))
    throw new EditionFault(`the key “${key.kid}” is for ${key.alg}, and editions are signed by EdDSA or ES256`);
  if (key.d === undefined) throw new EditionFault(`the key “${key.kid}” is a public one, which cannot sign`);
  const { GeneralSign, importJWK } = await import("jose");
  const jws = new GeneralSign(payload);
  jws.addSignature(await importJWK(key, key.alg)).setProtectedHeader({ alg: key.alg, kid: key.kid, typ: editionType });
  return JSON.stringify(await jws.sign());
}

interface Signature {
  readonly protected: string;
  readonly signature: string;
}

interface Jws {
  readonly payload: string;
  readonly signatures: readonly Signature[];
}

/**
 * Reads the list of an edition and verifies it by one of the keys; without keys nothing is verified.
 *
 * @throws {EditionFault} that says why it is not taken
 * @throws {ShelfFault} where the keys cannot be had at the moment
 */
export async function readEdition(text: string, keys: ShelfOptions["keys"]): Promise<Edition> {
  if (text.length > longestList) throw new EditionFault(tooLong);
  const jws = readJws(text);
  const payload = keys === undefined ? jws.payload : await verified(jws, await keysOf(keys));
  return readPayload(Buffer.from(payload, "base64url").toString("utf8"));
}

/** Of the general and of the flattened serialisation. */
function readJws(text: string): Jws {
  let data: unknown;
  try {
    data = JSON.parse(text);
  } catch {
    throw new EditionFault("its list is no JSON, or is cut off");
  }
  const payload = isObject(data) ? own(data, "payload") : undefined;
  if (!isObject(data) || typeof payload !== "string")
    throw new EditionFault("its list is no JWS in JSON serialisation");
  const signatures = own(data, "signatures") ?? [data];
  return { payload, signatures: Array.isArray(signatures) ? signatures.filter(isSignature) : [] };
}

function isSignature(value: unknown): value is Signature {
  return isObject(value) && typeof own(value, "protected") === "string" && typeof own(value, "signature") === "string";
}

async function keysOf(keys: NonNullable<ShelfOptions["keys"]>): Promise<EditionKeys> {
  try {
    const set = typeof keys === "function" ? await keys() : keys;
    if (Array.isArray(set?.keys)) return set;
  } catch (error) {
    throw new ShelfFault(`The keys cannot be had: ${error instanceof Error ? error.message : String(error)}.`);
  }
  throw new ShelfFault("The keys are no JWK Set: an object with a list “keys” is expected.");
}

/** The payload, if one of its signatures is by one of the keys. */
async function verified(jws: Jws, { keys }: EditionKeys): Promise<string> {
  if (jws.signatures.length === 0) throw new EditionFault("it is not signed");
  const faults: string[] = [];
  for (const signature of jws.signatures) {
    const fault = await faultOf(jws.payload, signature, keys);
    if (fault === undefined) return jws.payload;
    faults.push(fault);
  }
  throw new EditionFault(faults[0]!);
}

async function faultOf(payload: string, signature: Signature, keys: readonly JWK[]): Promise<string | undefined> {
  const { decodeProtectedHeader, flattenedVerify, importJWK } = await import("jose");
  let header: { readonly kid?: unknown; readonly alg?: unknown; readonly typ?: unknown };
  try {
    header = decodeProtectedHeader(signature);
  } catch {
    return "the header of its signature cannot be read";
  }
  const { kid, alg, typ } = header;
  if (typ !== editionType) return "what its signature is for is no edition";
  if (typeof alg !== "string" || !algorithms.includes(alg)) return `it is signed by ${String(alg)}, which is not taken`;
  const key = keys.find((each) => each.kid === kid && (each.alg === undefined || each.alg === alg));
  if (typeof kid !== "string" || !key)
    return `it is signed by the key “${String(kid)}”, which is none of those known here`;
  const expires = (key as { exp?: unknown }).exp;
  if (typeof expires === "number" && expires * 1_000 <= Date.now())
    return `it is signed by the key “${kid}”, which expired ${new Date(expires * 1_000).toISOString()}`;
  try {
    await flattenedVerify({ payload, ...signature }, await importJWK(key, alg), { algorithms });
    return undefined;
  } catch {
    return `its signature by the key “${kid}” does not fit what it says`;
  }
}

/** The public half of a key, as a set: by it a publisher trusts what he published himself. */
export function publicHalf({ d: _, ...key }: PublishKey): EditionKeys {
  return { keys: [key] };
}
