import { cp, mkdtemp, rm } from "node:fs/promises";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { folderShelf, type PublishKey, postgresShelf, redisShelf, type Shelf, webShelf } from "iudex/fleet";
import { exportJWK, generateKeyPair } from "jose";
import pg from "pg";
import { createClient } from "redis";
import { onTestFinished } from "vitest";
import { type Engine, has, startNginx, startPostgres, startRedis } from "./engines.ts";
import { demoFolder, replace } from "./folders.ts";

/** A folder of its own, gone when the test is over. */
export async function scratchFolder(): Promise<string> {
  const folder = await mkdtemp(join(tmpdir(), "iudex-fleet-"));
  onTestFinished(() => rm(folder, { recursive: true, force: true, maxRetries: 5 }));
  return folder;
}

/** A copy of the demo's definitions, to be changed. */
export async function copiedDemo(): Promise<string> {
  const folder = join(await scratchFolder(), "flags");
  await cp(demoFolder, folder, { recursive: true });
  return folder;
}

/** A private key with its public half as a set. */
export async function keyPair(kid = "2026-11", alg = "EdDSA", more: object = {}) {
  const { privateKey } = await generateKeyPair(alg, { extractable: true });
  const key = { ...(await exportJWK(privateKey)), kid, alg, ...more } as PublishKey;
  const { d: _, ...shared } = key;
  return { key, keys: { keys: [shared] } };
}

/** A publisher's key, a stopper's key, and the public halves of both. */
export async function publisherAndStopper() {
  const [publisher, stopper] = [await keyPair(), await keyPair("stopper", "EdDSA", { "iudex-for": ["stops"] })];
  return {
    key: publisher.key,
    stopKey: stopper.key,
    keys: { keys: [...publisher.keys.keys, ...stopper.keys.keys] },
  };
}

/** A shelf of a kind, with the server behind it. */
export interface Stand {
  /** For those who publish. */
  readonly shelf: Shelf;
  /** What the command line calls it. */
  readonly address: string;
  /** As a process would see it that follows it. */
  following(options?: { readonly every?: number }): Promise<Shelf>;
  readonly engine: Engine | undefined;
  /** The folder, where there is one. */
  readonly folder?: string;
  /** In how many milliseconds the last note of the list of followers goes by itself. */
  notesRunOut?(): Promise<number>;
  /** Takes everything away. */
  empty?(): Promise<void>;
}

export const set = "ternhaven";

export interface ShelfKind {
  readonly name: string;
  readonly isHere: boolean;
  readonly hasPresence: boolean;
  stand(): Promise<Stand>;
}

export const shelfKinds: readonly ShelfKind[] = [
  { name: "folder", isHere: true, hasPresence: false, stand: standInFolder },
  { name: "web (nginx)", isHere: has("nginx"), hasPresence: false, stand: standOnWeb },
  { name: "Redis", isHere: has("redis"), hasPresence: true, stand: standInRedis },
  { name: "PostgreSQL", isHere: has("postgres"), hasPresence: true, stand: standInPostgres },
];

export function shelfKind(name: string): ShelfKind {
  return shelfKinds.find((kind) => kind.name === name)!;
}

async function standInFolder(): Promise<Stand> {
  const folder = join(await scratchFolder(), "shelf");
  const shelf = folderShelf(folder, { set });
  await shelf.prepare();
  return { shelf, address: folder, folder, engine: undefined, following: async () => folderShelf(folder, { set }) };
}

export async function standOnWeb(): Promise<Stand> {
  const folder = join(await scratchFolder(), "shelf");
  const shelf = folderShelf(folder, { set });
  await shelf.prepare();
  const engine = await startNginx(folder);
  return {
    shelf,
    address: engine.url,
    folder,
    engine,
    following: async ({ every = 300 } = {}) => webShelf(engine.url, { set, every }),
  };
}

export async function standInRedis(): Promise<Stand> {
  const engine = await startRedis();
  const address = `redis://127.0.0.1:${engine.port}`;
  const connected = async () => {
    const client = createClient({ url: address, socket: { reconnectStrategy: 50 } });
    client.on("error", () => {});
    await client.connect();
    onTestFinished(() => client.destroy());
    return client;
  };
  const client = await connected();
  const shelf = redisShelf(client, { set });
  return {
    shelf,
    address,
    engine,
    notesRunOut: async () => {
      const keys = await client.keys(`iudex:{${set}}:follower:*`);
      return Math.max(...(await Promise.all(keys.map((key) => client.pTTL(key)))));
    },
    empty: async () => void (await client.flushAll()),
    following: async (options) => redisShelf(await connected(), { set, every: 300, ...options }),
  };
}

export async function standInPostgres(): Promise<Stand> {
  const engine = await startPostgres();
  const pool = () => {
    const made = new pg.Pool({ connectionString: engine.url, max: 5, connectionTimeoutMillis: 2_000 });
    // A server that was killed cannot be told goodbye.
    onTestFinished(() => Promise.race([made.end(), new Promise<void>((resolve) => setTimeout(resolve, 1_000))]));
    return made;
  };
  const own = pool();
  const shelf = postgresShelf(own, { set });
  await shelf.prepare();
  return {
    shelf,
    address: engine.url,
    engine,
    notesRunOut: async () => {
      const query = "select extract(epoch from max(runs_out) - now()) * 1000 as left from iudex_followers";
      const { rows } = await own.query<{ left: string }>(query);
      return Number(rows[0]!.left);
    },
    following: async (options) => postgresShelf(pool(), { set, every: 300, ...options }),
  };
}

/** Somebody whom holdFreight concerns. */
export const freight = { account: { plan: "freight" } };

/** Gives freight another time to pay, in a copy of the demo; 120 minutes at first. */
export async function holdFreight(folder: string, minutes: number): Promise<void> {
  await replace(join(folder, "fares.yaml"), /(give: |gives: )1\d\d/g, `$1${minutes}`);
}
