import type { JWK, KeySet, ShelfOptions } from "../flags/index.ts";
import { isObject, own } from "../values/index.ts";
import { type Edition, payloadOf, readPayload } from "./edition.ts";
import { EditionFault, ShelfFault } from "./faults.ts";
import { cut, longestList, tooLong } from "./list-text.ts";
import { readStopsPayload, type ShelfStops, stopsPayload } from "./stops.ts";

/**
 * A private JSON Web Key (RFC 7517) with its id (`kid`) and algorithm (`alg`): EdDSA or ES256. Its `iudex-for` says what
 * it signs: `["editions"]` (also where it is left out), `["stops"]` or both.
 */
export type PublishKey = JWK & { readonly kid: string; readonly alg: string };

/** What a key may sign. */
export type KeyRole = "editions" | "stops";

/** One of the two lists of a shelf. */
export interface ListKind<T> {
  /** The `typ` of the protected header, so that no other signed thing of the same key is taken for it. */
  readonly type: string;
  readonly role: KeyRole;
  write(list: T): string;
  read(payload: string): T;
}

export const editionList: ListKind<Edition> = {
  type: "iudex-edition",
  role: "editions",
  write: payloadOf,
  read: readPayload,
};

export const stopsList: ListKind<ShelfStops> = {
  type: "iudex-stops",
  role: "stops",
  write: stopsPayload,
  read: readStopsPayload,
};

const algorithms = ["EdDSA", "Ed25519", "ES256"];

/** Signatures of a list that are looked at: so many publishers do not sign one. */
const maxSignatures = 8;

/**
 * A list as a JWS in general JSON serialisation (RFC 7515, 7.2.1). Without a key it bears no signature.
 *
 * @throws {EditionFault} for a key that cannot sign it
 */
export async function signList<T>(kind: ListKind<T>, list: T, key: PublishKey | undefined): Promise<string> {
  const payload = new TextEncoder().encode(kind.write(list));
  if (!key) return JSON.stringify({ payload: Buffer.from(payload).toString("base64url"), signatures: [] });
  if (!algorithms.includes(key.alg))
    throw new EditionFault(`the key “${cut(key.kid)}” is for ${key.alg}, and lists are signed by EdDSA or ES256`);
  if (key.d === undefined) throw new EditionFault(`the key “${cut(key.kid)}” is a public one, which cannot sign`);
  const { GeneralSign, importJWK } = await import("jose");
  const jws = new GeneralSign(payload);
  jws.addSignature(await importJWK(key, key.alg)).setProtectedHeader({ alg: key.alg, kid: key.kid, typ: kind.type });
  return JSON.stringify(await jws.sign());
}

/** What a key may sign; editions where it does not say. */
export function rolesOf(key: JWK): readonly KeyRole[] {
  const roles = (key as { "iudex-for"?: unknown })["iudex-for"];
  if (roles === undefined) return ["editions"];
  return (Array.isArray(roles) ? roles : [roles]).filter((role) => role === "editions" || role === "stops");
}

/** When a key ends, in epoch milliseconds. */
export function endOf(key: JWK): number | undefined {
  const { exp } = key as { exp?: unknown };
  return typeof exp === "number" ? exp * 1_000 : undefined;
}

/** A list that was read, and who has signed it. */
export interface ReadList<T> {
  readonly list: T;
  /** Of the key that verified it; undefined where nothing is verified. */
  readonly kid: string | undefined;
  /** The key's time is over: its list adds stops and ends none. Always false for editions, which are refused then. */
  readonly isExpired: boolean;
}

/**
 * Reads a list and verifies it by one of the keys of its role; without keys nothing is verified.
 *
 * @throws {EditionFault} that says why it is not taken
 * @throws {ShelfFault} where the keys cannot be had at the moment, or are not public keys
 */
export async function readList<T>(kind: ListKind<T>, text: string, keys: ShelfOptions["keys"]): Promise<ReadList<T>> {
  if (text.length > longestList) throw new EditionFault(tooLong);
  const jws = readJws(text);
  const by = keys === undefined ? { kid: undefined, isExpired: false } : await verified(kind, jws, await keysOf(keys));
  return { list: kind.read(Buffer.from(jws.payload, "base64url").toString("utf8")), ...by };
}

/** Reads the list of an edition. @throws as `readList` does */
export async function readEdition(text: string, keys: ShelfOptions["keys"]): Promise<Edition> {
  return (await readList(editionList, text, keys)).list;
}

interface Signature {
  readonly protected: string;
  readonly signature: string;
}

interface Jws {
  readonly payload: string;
  readonly signatures: readonly Signature[];
}

/** Of the general and of the flattened serialisation. */
function readJws(text: string): Jws {
  let data: unknown;
  try {
    data = JSON.parse(text);
  } catch {
    throw new EditionFault("its list is not JSON, or is cut off");
  }
  const payload = isObject(data) ? own(data, "payload") : undefined;
  if (!isObject(data) || typeof payload !== "string")
    throw new EditionFault("its list is not a JWS in JSON serialisation");
  const signatures = own(data, "signatures") ?? [data];
  return { payload, signatures: Array.isArray(signatures) ? signatures.filter(isSignature) : [] };
}

function isSignature(value: unknown): value is Signature {
  return isObject(value) && typeof own(value, "protected") === "string" && typeof own(value, "signature") === "string";
}

/** The keys of the moment. @throws {ShelfFault} where they cannot be had, or are not what they must be */
export async function keysOf(keys: NonNullable<ShelfOptions["keys"]>): Promise<KeySet> {
  try {
    const set = typeof keys === "function" ? await keys() : keys;
    if (Array.isArray(set?.keys)) return soundKeys(set);
  } catch (error) {
    if (error instanceof ShelfFault) throw error;
    throw new ShelfFault(`The keys cannot be had: ${error instanceof Error ? error.message : String(error)}.`);
  }
  throw new ShelfFault("The keys are not a JWK Set: an object with a list “keys” is expected.");
}

function soundKeys(set: KeySet): KeySet {
  const seen = new Set<string>();
  for (const key of set.keys) {
    const { kid, alg, d } = key;
    if (d !== undefined)
      throw new ShelfFault(`The keys hold the private key “${cut(String(kid))}”; write its public half, without “d”.`);
    const name = `${kid} ${alg}`;
    if (kid !== undefined && seen.has(name))
      throw new ShelfFault(`Two of the keys are called “${cut(kid)}”; give each a kid of its own.`);
    seen.add(name);
  }
  return set;
}

type Signer = Omit<ReadList<unknown>, "list">;

/** Who has signed it, if one of its signatures is by one of the keys. */
async function verified<T>(kind: ListKind<T>, jws: Jws, { keys }: KeySet): Promise<Signer> {
  if (jws.signatures.length === 0) throw new EditionFault("it is not signed");
  if (jws.signatures.length > maxSignatures)
    throw new EditionFault(`it bears ${jws.signatures.length} signatures, and at most ${maxSignatures} are looked at`);
  const faults: string[] = [];
  for (const signature of jws.signatures) {
    const found = await signerOf(kind, jws.payload, signature, keys);
    if (typeof found !== "string") return found;
    faults.push(found);
  }
  throw new EditionFault(faults[0]!);
}

/** Who has signed it, or why that is not known. */
async function signerOf<T>(
  { type, role }: ListKind<T>,
  payload: string,
  signature: Signature,
  keys: readonly JWK[],
): Promise<Signer | string> {
  const { decodeProtectedHeader, flattenedVerify, importJWK } = await import("jose");
  let header: { readonly kid?: unknown; readonly alg?: unknown; readonly typ?: unknown };
  try {
    header = decodeProtectedHeader(signature);
  } catch {
    return "the header of its signature cannot be read";
  }
  const { kid, alg, typ } = header;
  const what = role === "editions" ? "an edition" : "stops";
  if (typ !== type) return `what its signature is for is not ${what}`;
  if (typeof alg !== "string" || !algorithms.includes(alg))
    return `it is signed by ${cut(String(alg))}, which is not taken`;
  const key = keys.find((each) => each.kid === kid && (each.alg === undefined || each.alg === alg));
  if (typeof kid !== "string" || !key)
    return `it is signed by the key “${cut(String(kid))}”, which is none of those known here`;
  if (!rolesOf(key).includes(role))
    return `it is signed by the key “${cut(kid)}”, which is not for ${role} (iudex-for)`;
  const end = endOf(key);
  const isExpired = end !== undefined && end <= Date.now();
  if (isExpired && role === "editions")
    return `it is signed by the key “${cut(kid)}”, which expired ${new Date(end).toISOString()}`;
  try {
    await flattenedVerify({ payload, ...signature }, await importJWK(key, alg), { algorithms });
    return { kid, isExpired };
  } catch {
    return `its signature by the key “${cut(kid)}” does not fit what it says`;
  }
}

/** The public half of a key, as a set: by it a publisher trusts what it published itself. */
export function publicHalf({ d: _, ...key }: PublishKey): KeySet {
  return { keys: [key] };
}
