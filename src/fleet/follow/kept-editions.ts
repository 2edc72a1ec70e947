import { createHmac, randomUUID, timingSafeEqual } from "node:crypto";
import { mkdir, open, readFile, rename, rm } from "node:fs/promises";
import { join } from "node:path";
import { keyOf, knownKeyOf, removeAbandoned } from "../../folder/index.ts";
import { isObject, own } from "../../values/index.ts";
import { type Edition, payloadOf, readPayload } from "../edition.ts";

/** Good editions that are kept; the oldest go. */
const mostKept = 3;

/** What a folder for good copies holds of a shelf. */
export interface KeptEditions {
  /** The highest number that was ever seen and verified. */
  readonly seen: number;
  /** When the shelf last confirmed the newest of them; epoch milliseconds. */
  readonly confirmed: number;
  /** Newest first. */
  readonly editions: readonly Edition[];
}

const fileName = "editions.json";

/** How each is kept: the payload of its list, which was verified when it came. */
interface Written {
  readonly seen: number;
  readonly confirmed: number;
  readonly editions: readonly string[];
}

/**
 * Notes which editions are good, signed by a key of the folder's own: what came from a publisher whose key has gone
 * since is good all the same, what somebody else put there is not.
 */
export async function keepEditions(directory: string, kept: KeptEditions): Promise<void> {
  await mkdir(directory, { recursive: true, mode: 0o700 });
  const key = await keyOf(directory);
  const before = await readEditions(directory);
  const written: Written = {
    seen: Math.max(kept.seen, before?.seen ?? 0),
    confirmed: kept.confirmed,
    editions: kept.editions.slice(0, mostKept).map(payloadOf),
  };
  const text = JSON.stringify(written);
  const aside = join(directory, `.${randomUUID()}.tmp`);
  const file = await open(aside, "wx", 0o600);
  try {
    await file.writeFile(`${text}\n${signatureOf(text, key)}\n`);
    await file.sync();
    await file.close();
    await rename(aside, join(directory, fileName));
  } finally {
    await file.close().catch(() => {});
    await rm(aside, { force: true });
  }
  await removeAbandoned(directory);
}

/** What is kept; undefined where there is nothing that this folder has signed. */
export async function readEditions(directory: string): Promise<KeptEditions | undefined> {
  const key = await knownKeyOf(directory);
  const file = key && (await readFile(join(directory, fileName), "utf8").catch(() => undefined));
  if (!key || file === undefined) return undefined;
  const [text = "", signature = ""] = file.split("\n");
  const wanted = signatureOf(text, key);
  if (signature.length !== wanted.length || !timingSafeEqual(Buffer.from(signature), Buffer.from(wanted)))
    return undefined;
  const written: unknown = JSON.parse(text);
  if (!isObject(written)) return undefined;
  const texts = own(written, "editions") as string[];
  return {
    seen: Number(own(written, "seen")),
    confirmed: Number(own(written, "confirmed")),
    editions: texts.map(readPayload),
  };
}

function signatureOf(text: string, key: Buffer): string {
  return createHmac("sha256", key).update(text).digest("hex");
}

/** A new one in front of those that are kept. */
export function withEdition(editions: readonly Edition[], edition: Edition): readonly Edition[] {
  return [edition, ...editions.filter(({ number }) => number !== edition.number)].slice(0, mostKept);
}
