import { ToolError } from "../../files/index.ts";
import type { ShelfOptions } from "../../flags/index.ts";
import {
  EditionFault,
  endOf,
  keysOf,
  type ListKind,
  type PublishKey,
  readList,
  rolesOf,
  signList,
} from "../../shelf/index.ts";

/** How a list is signed. */
export interface Signing {
  readonly key?: PublishKey | undefined;
  /** The keys that followers hold, where they are known. */
  readonly keys?: ShelfOptions["keys"];
  /** It is meant that followers with keys refuse it. */
  readonly unsigned?: boolean | undefined;
}

/**
 * A list, signed and verified as followers will. Nothing goes out that they would refuse.
 *
 * @param isSigned whether what stands on the shelf is
 * @throws {ToolError} that says what to write instead
 */
export async function signedFor<T>(
  kind: ListKind<T>,
  list: T,
  isSigned: boolean,
  { key, keys, unsigned = false }: Signing,
): Promise<string> {
  if (!key && (isSigned || keys !== undefined) && !unsigned)
    throw new ToolError(
      "What stands on the shelf is signed, or is to be, so followers with keys would refuse what is not.",
      "name the key to sign with (--key), or say that it is meant (--unsigned)",
    );
  if (key) await mustBeTaken(kind, key, keys);
  try {
    const text = await signList(kind, list, key);
    if (key && keys !== undefined) await readList(kind, text, keys);
    return text;
  } catch (error) {
    if (error instanceof EditionFault) throw new ToolError(`It cannot be signed: ${error.message}.`);
    throw new ToolError("It cannot be signed: the key is not a private JSON Web Key of its algorithm.");
  }
}

async function mustBeTaken<T>({ role }: ListKind<T>, key: PublishKey, keys: ShelfOptions["keys"]): Promise<void> {
  const other = role === "stops" ? "editions" : "stops";
  if (!rolesOf(key).includes(role))
    throw new ToolError(
      `The key “${key.kid}” is for ${rolesOf(key).join(" and ") || other}, and not for ${role}, so followers would refuse it.`,
      `sign with a key for ${role}, or write "iudex-for": ["editions", "stops"] into both halves of it`,
    );
  const end = endOf(key);
  if (end !== undefined && end <= Date.now())
    throw new ToolError(`The key “${key.kid}” ended ${new Date(end).toISOString()}.`, "sign with another one");
  if (keys === undefined) return;
  const known = (await keysOf(keys)).keys.find(({ kid }) => kid === key.kid);
  if (!known)
    throw new ToolError(
      `The keys do not hold the key “${key.kid}”, so followers with them would refuse it.`,
      "put its public half into them first",
    );
  if (!rolesOf(known).includes(role))
    throw new ToolError(
      `By the keys, “${key.kid}” is not for ${role}, so followers with them would refuse it.`,
      `sign with a key for ${role}, or write it into “iudex-for” of its public half`,
    );
}
