import { readFile } from "node:fs/promises";
import { isObject, own } from "../values/index.ts";
import { UsageError } from "./output.ts";

/** A JSON Web Key with its id and algorithm. */
export interface NamedKey {
  readonly kid: string;
  readonly alg: string;
}

/**
 * The key in a file, or in a variable of the environment; undefined where neither is given. What a file holds is a
 * secret and is not shown.
 */
export async function keyFrom(file: string | undefined, variable: string): Promise<NamedKey | undefined> {
  const text =
    file === undefined
      ? process.env[variable]
      : await textOf(file, `write --key FILE, or put a JSON Web Key into ${variable}`);
  if (text === undefined) return undefined;
  const key = parsed(text);
  if (isObject(key) && typeof own(key, "kid") === "string" && typeof own(key, "alg") === "string")
    return key as unknown as NamedKey;
  throw new UsageError(
    "The key is no JSON Web Key with kid and alg.",
    'write { "kty": "OKP", "kid": "2026-11", "alg": "EdDSA", … }',
  );
}

/** The public keys in a file, as a JWK Set; undefined where none is named. */
export async function keySetFrom(file: string | undefined): Promise<{ readonly keys: readonly object[] } | undefined> {
  if (file === undefined) return undefined;
  const set = parsed(await textOf(file, "name a file that can be read"));
  const keys = isObject(set) ? own(set, "keys") : undefined;
  if (Array.isArray(keys)) return { keys: keys.filter(isObject) };
  throw new UsageError(`“${file}” holds no JWK Set.`, 'write { "keys": [ { "kty": "OKP", "kid": "2026-11", … } ] }');
}

async function textOf(file: string, help: string): Promise<string> {
  try {
    return await readFile(file, "utf8");
  } catch {
    throw new UsageError(`The key file “${file}” cannot be read.`, help);
  }
}

function parsed(text: string): unknown {
  try {
    return JSON.parse(text);
  } catch {
    return undefined;
  }
}
