import { folderShelf, postgresShelf, redisShelf, type Shelf, webShelf } from "../follow/index.ts";
import { EditionFault, reasonOf, ShelfFault } from "../shelf/index.ts";
import { optionalPackage } from "../study/index.ts";
import { type ExitCode, type Output, UsageError } from "./output.ts";

/** How long an engine may take to let us in, in milliseconds. */
const connectTime = 10_000;

/** Options of the commands that go to a shelf. */
export interface ShelfCommandOptions {
  readonly set?: string | undefined;
}

export const setOption = ["--set <name>", "the name of the definition set on the shelf"] as const;
export const keysOption = ["--keys <file>", "the public keys of those who publish, as a JWK Set"] as const;

/**
 * Does work with the shelf that a person names: a folder, https://…, redis://… or postgres://…. The client of an engine
 * is loaded only for such a shelf. Bad news of the shelf is told, and is the exit code.
 */
export async function withShelf(
  text: string,
  { set }: ShelfCommandOptions,
  output: Output,
  work: (shelf: Shelf) => Promise<ExitCode>,
): Promise<ExitCode> {
  try {
    if (/^rediss?:/.test(text)) return await inRedis(text, set, work);
    if (/^postgres(?:ql)?:/.test(text)) return await inPostgres(text, set, work);
    if (isAddress(text) && !/^https?:/.test(text)) throw unknownKind(text);
    return await work(/^https?:/.test(text) ? webShelf(addressOf(text), { set }) : folderShelf(text, { set }));
  } catch (error) {
    if (error instanceof EditionFault)
      return told(`What stands on the shelf is not to be trusted: ${error.message}.`, output);
    if (error instanceof ShelfFault) return told(error.message, output);
    if (error instanceof TypeError) throw new UsageError(error.message);
    throw error;
  }
}

/** Whether a person means an address, and not the path of a folder. */
export function isAddress(text: string): boolean {
  return /^[a-z][a-z0-9+.-]+:/i.test(text);
}

function unknownKind(text: string): UsageError {
  return new UsageError(
    `“${text.slice(0, text.indexOf(":") + 1)}” is not a kind of shelf.`,
    "write a path, https://host/path/, redis://host:6379 or postgres://host/database; an object store is followed over https:",
  );
}

function told(message: string, output: Output): ExitCode {
  output.err(`${message}\n`);
  return 1;
}

/** The address without the password that it may hold. */
function withoutSecrets(text: string): string {
  const address = addressOf(text);
  address.username = "";
  address.password = "";
  address.search = "";
  return address.href;
}

function addressOf(text: string): URL {
  try {
    return new URL(text);
  } catch {
    throw new UsageError(
      "The shelf's address cannot be read.",
      "write https://host/path/, redis://host:6379 or postgres://host/database",
    );
  }
}

async function inRedis(
  text: string,
  set: string | undefined,
  work: (shelf: Shelf) => Promise<ExitCode>,
): Promise<ExitCode> {
  const called = withoutSecrets(text);
  const { createClient } = await optionalPackage("redis", "For a shelf in Redis", () => import("redis"));
  const client = createClient({ url: text, socket: { connectTimeout: connectTime, reconnectStrategy: false } });
  client.on("error", () => {});
  try {
    await client.connect();
  } catch (error) {
    throw new ShelfFault(`${called} cannot be reached: ${reasonOf(error)}.`);
  }
  try {
    return await work(redisShelf(client, { set, called }));
  } finally {
    client.destroy();
  }
}

async function inPostgres(
  text: string,
  set: string | undefined,
  work: (shelf: Shelf) => Promise<ExitCode>,
): Promise<ExitCode> {
  const called = withoutSecrets(text);
  const { default: pg } = await optionalPackage("pg", "For a shelf in PostgreSQL", () => import("pg"));
  const pool = new pg.Pool({ connectionString: text, max: 4, connectionTimeoutMillis: connectTime });
  try {
    return await work(postgresShelf(pool, { set, called }));
  } finally {
    await pool.end();
  }
}
