import { followFlags } from "iudex";
import {
  type PostgresPool,
  postgresShelf,
  publishFolder,
  type RedisClient,
  redisShelf,
  suspendAtShelf,
} from "iudex/fleet";
import pg from "pg";
import { createClient } from "redis";
import { describe, expect, onTestFinished, test } from "vitest";
import { has, startPostgres, startRedis } from "../support/engines.ts";
import { type Loss, startProxy } from "../support/proxy.ts";
import { hangs, hangTime } from "../support/runs.ts";
import { copiedDemo, freight, holdFreight, publisherAndStopper, set } from "../support/shelves.ts";
import { collected, next, sleep } from "../support/waiting.ts";

const by = "Crew";

/** Everything that is done with a client or a pool, and that each of it ends. */
async function wholeLife(shelf: () => ReturnType<typeof redisShelf>): Promise<void> {
  const { key, stopKey, keys } = await publisherAndStopper();
  const folder = await copiedDemo();
  const publishing = shelf();
  await publishFolder(publishing, { folder, key, by });
  const flags = await followFlags(shelf(), { environment: "production", keys, name: "booking-api" });
  await holdFreight(folder, 125);
  const changed = next(flags, "change");
  await publishFolder(publishing, { folder, key, keys, by });
  await changed;
  const stopped = next(flags, "change");
  await suspendAtShelf(publishing, { flag: "hold-minutes" }, { key: stopKey, keys });
  await stopped;
  expect(flags.verdict("hold-minutes", freight).cause).toBe("suspended");
  await expect.poll(async () => (await publishing.followers())?.map(({ name }) => name)).toEqual(["booking-api"]);
  await flags.close();
  expect(await publishing.followers()).toEqual([]);
}

describe.skipIf(!has("redis"))("clients of Redis", () => {
  test.each(["redis-4.6", "redis-4.7", "redis-5", "redis"])(
    "%s",
    async (name) => {
      const engine = await startRedis();
      const { createClient: create } = (await import(name)) as typeof import("redis");
      const client = create({ url: `redis://127.0.0.1:${engine.port}` });
      client.on("error", () => {});
      await client.connect();
      await wholeLife(() => redisShelf(client as unknown as RedisClient, { every: 5_000 }));
      const old = client as unknown as { destroy?(): void; disconnect?(): Promise<void> };
      await (old.destroy ? old.destroy() : old.disconnect?.());
    },
    30_000,
  );

  test("what is not one is refused by name", () => {
    expect(() => redisShelf({ get: () => {} } as unknown as RedisClient)).toThrow(
      "A shelf in Redis takes a client of node-redis from 4.6 on",
    );
    expect(() => postgresShelf({} as PostgresPool)).toThrow("A shelf in PostgreSQL takes a pool of pg from 8.0 on");
  });
});

describe.skipIf(!has("postgres"))("pools of PostgreSQL", () => {
  test.each(["pg-8.11", "pg"])(
    "%s",
    async (name) => {
      const engine = await startPostgres();
      const { default: client } = (await import(name)) as typeof import("pg");
      const pool = new client.Pool({ connectionString: engine.url, max: 4 });
      const shelf = () => postgresShelf(pool as unknown as PostgresPool, { every: 5_000 });
      await shelf().prepare();
      await wholeLife(shelf);
      await pool.end();
    },
    30_000,
  );

  test.each([10, 2])(
    "one of %i that the program shares is never harmed, whatever hangs and breaks",
    async (max) => {
      const engine = await startPostgres();
      const pool = new pg.Pool({ connectionString: engine.url, max, connectionTimeoutMillis: 20_000 });
      onTestFinished(() => Promise.race([pool.end(), sleep(1_000)]).then(() => undefined));
      await pool.query("create table moved (id int, side text)");
      const shelf = postgresShelf(pool, { set, every: 200 });
      await shelf.prepare();
      await publishFolder(shelf, { folder: await copiedDemo(), by, set });
      const following = await followFlags(postgresShelf(pool, { set, every: 200 }), { environment: "production" });
      let isOver = false;
      let done = 0;
      const uncaught: unknown[] = [];
      const hear = (error: unknown) => uncaught.push(error);
      process.on("uncaughtException", hear);
      onTestFinished(() => void process.off("uncaughtException", hear));
      const worker = async (own: number) => {
        for (let i = 0; !isOver; i++) {
          const client = await pool.connect().catch(() => undefined);
          if (!client) continue;
          let isBroken = false;
          client.on("error", () => {
            isBroken = true;
          });
          const id = own * 1_000_000 + i;
          try {
            // Whoever releases this client in between makes a half of it land somewhere else.
            await client.query("begin");
            await client.query("insert into moved values ($1, 'from')", [id]);
            await sleep(2);
            await client.query("insert into moved values ($1, 'to')", [id]);
            await client.query("commit");
            done++;
          } catch {
            isBroken = true;
          } finally {
            client.release(isBroken);
          }
        }
      };
      const workers = Array.from({ length: 14 }, (_, own) => worker(own));
      for (let round = 0; round < hangs; round++) {
        await sleep(700);
        engine.hang();
        await sleep(hangTime);
        engine.goOn();
      }
      await sleep(1_500);
      isOver = true;
      await Promise.all(workers);
      await following.close();
      const { rows } = await pool.query(
        "select id from moved group by id having count(*) <> 2 or count(distinct side) <> 2",
      );
      expect([rows, uncaught]).toEqual([[], []]);
      expect(done).toBeGreaterThan(100);
      expect(pool.waitingCount).toBe(0);
    },
    120_000,
  );
});

const losses: readonly Loss[] = ["both", "to the client", "to the server"];

describe.skipIf(!has("redis"))("silence of Redis", () => {
  const heals = async (loss: Loss) => {
    const engine = await startRedis();
    const proxy = await startProxy(engine.port);
    const url = (port: number) => `redis://127.0.0.1:${port}`;
    const direct = await createClient({ url: url(engine.port) }).connect();
    const client = createClient({ url: url(proxy.port) });
    client.on("error", () => {});
    await client.connect();
    onTestFinished(() => {
      direct.destroy();
      client.destroy();
    });
    const folder = await copiedDemo();
    await publishFolder(redisShelf(direct, { set }), { folder, by, set });
    const flags = await followFlags(redisShelf(client, { set, every: 1_000 }), { environment: "production" });
    onTestFinished(() => flags.close());
    const problems = collected(flags, "problem");
    proxy.fresh = loss;
    for (const way of proxy.open) way.loss = loss;
    await sleep(8_000);
    await holdFreight(folder, 125);
    await publishFolder(redisShelf(direct, { set }), { folder, by, set });
    // New ways are open; those that were silent stay so.
    proxy.fresh = "none";
    const healed = performance.now();
    await expect.poll(() => flags.value("hold-minutes", freight), { timeout: 20_000 }).toBe(125);
    expect(performance.now() - healed).toBeLessThan(10_000);
    const silent = problems.filter(({ message }) => message.includes("has not answered for 5 seconds"));
    expect(silent).toHaveLength(1);
  };

  // In one test: what runs at the same time is cleared away together.
  test("packets that vanish, both ways or one way", async () => {
    await Promise.all(losses.map(heals));
  }, 90_000);
});

describe.skipIf(!has("postgres"))("silence of PostgreSQL", () => {
  const heals = async (loss: Loss, limits: pg.PoolConfig = {}) => {
    const engine = await startPostgres();
    const proxy = await startProxy(engine.port);
    const direct = new pg.Pool({ connectionString: engine.url });
    direct.on("error", () => {});
    const connectionString = engine.url.replace(`:${engine.port}`, `:${proxy.port}`);
    const pool = new pg.Pool({ connectionString, max: 10, ...limits });
    onTestFinished(async () => {
      await Promise.race([Promise.all([direct.end(), pool.end()]), sleep(1_000)]);
    });
    await postgresShelf(direct, { set }).prepare();
    // A pool that is full of idle connections, all of which go silent.
    await Promise.all(Array.from({ length: 10 }, () => pool.query("select pg_sleep(0.2)")));
    const folder = await copiedDemo();
    await publishFolder(postgresShelf(direct, { set }), { folder, by, set });
    const flags = await followFlags(postgresShelf(pool, { set, every: 1_000 }), { environment: "production" });
    onTestFinished(() => flags.close());
    const problems = collected(flags, "problem");
    if (limits.idleTimeoutMillis) await expect.poll(() => proxy.open.length).toBeLessThan(3);
    proxy.fresh = loss;
    for (const way of proxy.open) way.loss = loss;
    await sleep(8_000);
    await holdFreight(folder, 125);
    await publishFolder(postgresShelf(direct, { set }), { folder, by, set });
    proxy.fresh = "none";
    const healed = performance.now();
    await expect.poll(() => flags.value("hold-minutes", freight), { timeout: 40_000 }).toBe(125);
    expect(performance.now() - healed).toBeLessThan(10_000);
    expect(problems.filter(({ message }) => message.includes("has not answered for 5 seconds"))).toHaveLength(1);
  };

  // In one test: what runs at the same time is cleared away together.
  test("packets that vanish, both ways or one way", async () => {
    await Promise.all(losses.map((loss) => heals(loss)));
  }, 90_000);

  test("new connections that get lost on their way, with a limit of the pool and without one", async () => {
    await Promise.all([
      heals("both", { idleTimeoutMillis: 300 }),
      heals("to the client", { idleTimeoutMillis: 300, connectionTimeoutMillis: 5_000 }),
    ]);
  }, 90_000);

  test("of the connection for news alone", async () => {
    const engine = await startPostgres();
    const proxy = await startProxy(engine.port);
    const direct = new pg.Pool({ connectionString: engine.url });
    direct.on("error", () => {});
    onTestFinished(() => Promise.race([direct.end(), sleep(1_000)]).then(() => undefined));
    const shelf = postgresShelf(direct, { set });
    await shelf.prepare();
    const folder = await copiedDemo();
    await publishFolder(shelf, { folder, by, set });
    const wide = new pg.Pool({ connectionString: engine.url.replace(`:${engine.port}`, `:${proxy.port}`), max: 2 });
    onTestFinished(() => Promise.race([wide.end(), sleep(1_000)]).then(() => undefined));
    const flags = await followFlags(postgresShelf(wide, { set, every: 60_000 }), { environment: "production" });
    onTestFinished(() => flags.close());
    await expect.poll(() => proxy.open.length).toBe(2);
    await sleep(500);
    for (const way of proxy.open) way.loss = "to the client";
    await sleep(22_000);
    await holdFreight(folder, 125);
    await publishFolder(shelf, { folder, by, set });
    await expect.poll(() => flags.value("hold-minutes", freight), { timeout: 10_000 }).toBe(125);
  }, 60_000);
});
