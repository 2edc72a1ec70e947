import { setTimeout as sleep } from "node:timers/promises";
import { within } from "../deadline.ts";
import { reasonOf, ShelfFault } from "../faults.ts";
import type { Heard, Hearing } from "../place.ts";
import { answerTime, hearNews, type NewsLine } from "./news-line.ts";
import type { PostgresClient, PostgresPool } from "./postgres-pool.ts";

/** How long a connection may take to show that it is not dead, after another one was; milliseconds. */
const probeTime = 1_000;

/** Connections that are tried for one that answers: as many as a pool mostly has. */
const maxProbes = 10;

/** Connections that may be on their way without end: few, because each holds a place of the program's pool. */
const maxAbandoned = 3;

/** Sends one query; fails when it is not answered in time. */
export type Ask = (text: string, values?: unknown[]) => Promise<readonly Record<string, unknown>[]>;

/**
 * Connections of the program's pool. One that is taken is given back exactly once, here, after what it was asked has
 * settled; one that never answers is ended. Who gives up waiting gives nothing back.
 */
export class PostgresConnections {
  readonly #pool: PostgresPool;
  readonly #called: string;
  /** Connections that nobody waits for any more: of a server that hangs no more than a few are asked for. */
  readonly #abandoned = new Set<Promise<void>>();
  /** When the last one was given up, in milliseconds of the process. */
  #abandonedAt = 0;
  /** A connection was silent: others of the pool may be, too. */
  #isSuspicious = false;

  constructor(pool: PostgresPool, called: string) {
    if (typeof pool?.connect !== "function" || typeof pool.on !== "function")
      throw new TypeError("A shelf in PostgreSQL takes a pool of pg from 8.0 on: one with connect and on.");
    this.#pool = pool;
    this.#called = called;
    // An idle client that loses its connection is the pool's to replace; unheard, it would end the process.
    pool.on("error", () => {});
  }

  /** Does work with one connection. @throws {ShelfFault} */
  async using<T>(calledOff: AbortSignal, work: (ask: Ask) => Promise<T>): Promise<T> {
    const taken = await this.#sound(calledOff);
    try {
      return await work((text, values) => taken.ask(text, values, answerTime, calledOff));
    } catch (error) {
      if (taken.isSilent) this.#isSuspicious = true;
      throw faultOf(error, this.#called);
    } finally {
      taken.giveBack();
    }
  }

  /** Where one was silent, the next ones have to answer at once, so that a pool of dead connections is soon gone through. */
  async #sound(calledOff: AbortSignal): Promise<Taken> {
    for (let probes = 0; ; probes++) {
      const taken = await this.#taken(calledOff);
      if (!this.#isSuspicious) return taken;
      try {
        await taken.ask("select 1", [], probeTime, calledOff);
        this.#isSuspicious = false;
        return taken;
      } catch (error) {
        taken.giveBack();
        if (calledOff.aborted || !taken.isSilent || probes === maxProbes) throw faultOf(error, this.#called);
      }
    }
  }

  /** A connection of the pool; one that comes too late is given back by who asked for it, which is here. */
  async #taken(calledOff: AbortSignal): Promise<Taken> {
    await within(answerTime, this.#called, calledOff, () => this.#turn());
    const connecting = this.#pool.connect();
    try {
      return new Taken(await within(answerTime, this.#called, calledOff, () => connecting), this.#called);
    } catch (error) {
      this.#abandon(connecting);
      if (error instanceof ShelfFault) throw error;
      throw new ShelfFault(`${this.#called} cannot be reached: ${wordsOf(error)}.`, { cause: error });
    }
  }

  /** One that got lost on its way may never settle, if the pool sets no limit; another one may arrive all the same. */
  async #turn(): Promise<void> {
    if (this.#abandoned.size === 0) return;
    const soon = this.#abandonedAt + probeTime - performance.now();
    // Longer than that nobody waits, unless there are too many: each wait is time in which a healed server is not asked.
    const others = this.#abandoned.size < maxAbandoned ? [sleep(soon, undefined, { ref: false })] : [];
    await Promise.race([...this.#abandoned, ...others]);
  }

  #abandon(connecting: Promise<PostgresClient>): void {
    const gone = connecting.then((client) => client.release()).catch(() => {});
    this.#abandoned.add(gone);
    this.#abandonedAt = performance.now();
    void gone.then(() => this.#abandoned.delete(gone));
  }

  /** Keeps one connection of the pool for hearing of news. */
  hear(channel: string, isMeant: (payload: string) => boolean, heard: Heard): Hearing {
    const own = `${channel}_${crypto.randomUUID().replaceAll("-", "")}`;
    let proven = () => {};
    const told = (message: unknown) => {
      const { channel: on, payload = "" } = message as { readonly channel?: string; readonly payload?: string };
      if (on === own) proven();
      else if (isMeant(payload)) heard.changed();
    };
    const open = async (lost: (error: unknown) => void, calledOff: AbortSignal): Promise<NewsLine> => {
      const taken = await this.#sound(calledOff);
      const ask: Ask = (text, values) => taken.ask(text, values, answerTime, calledOff);
      taken.hear("notification", told);
      for (const event of ["error", "end"]) taken.hear(event, (error) => lost(error ?? new Error("it has ended")));
      try {
        for (const each of [channel, own]) await ask(`listen ${each}`);
      } catch (error) {
        taken.end();
        throw error;
      }
      taken.client.unref?.();
      const prove = async () => {
        const back = new Promise<void>((resolve) => {
          proven = resolve;
        });
        await ask("select pg_notify($1, '')", [own]);
        await back;
      };
      return { prove, end: () => taken.end() };
    };
    return hearNews({ called: this.#called, open, wordsOf }, heard);
  }
}

/** A connection that was taken from the pool. */
class Taken {
  readonly client: PostgresClient;
  readonly #called: string;
  /** That of this taking: the pool sets another one when the client is taken again. */
  #release: ((destroy?: boolean) => void) | undefined;
  readonly #heard: (readonly [string, (...words: unknown[]) => void])[] = [];
  /** What was asked last. */
  #asked: Promise<unknown> = Promise.resolve();
  #isBroken = false;
  /** What was asked has not been answered in time. */
  isSilent = false;

  constructor(client: PostgresClient, called: string) {
    this.client = client;
    this.#called = called;
    const { release } = client;
    this.#release = (destroy) => release.call(client, destroy);
    this.hear("error", () => {
      this.#isBroken = true;
    });
  }

  hear(event: string, listener: (...words: unknown[]) => void): void {
    this.client.on(event, listener);
    this.#heard.push([event, listener]);
  }

  async ask(
    text: string,
    values: unknown[] | undefined,
    milliseconds: number,
    calledOff: AbortSignal,
  ): Promise<readonly Record<string, unknown>[]> {
    const query = this.client.query(text, values);
    let isSettled = false;
    this.#asked = query.then(
      () => {
        isSettled = true;
      },
      () => {
        isSettled = true;
      },
    );
    try {
      const { rows } = await within(milliseconds, this.#called, calledOff, () => query);
      return rows as readonly Record<string, unknown>[];
    } catch (error) {
      this.isSilent = !isSettled && !calledOff.aborted;
      throw error;
    }
  }

  /** Gives it back once what it was asked has settled, and ends it if that takes too long. */
  giveBack(): void {
    if (this.isSilent || this.#isBroken) return this.end();
    const timer = setTimeout(() => this.end(), answerTime).unref();
    void this.#asked.then(() => {
      clearTimeout(timer);
      this.#leave(this.#isBroken);
    });
  }

  /** Ends the connection. */
  end(): void {
    this.#leave(true);
  }

  #leave(destroy: boolean): void {
    const release = this.#release;
    this.#release = undefined;
    if (!release) return;
    for (const [event, listener] of this.#heard) this.client.removeListener(event, listener);
    // What it may still say while it ends is nobody's.
    if (destroy) this.client.on("error", () => {});
    release(destroy);
  }
}

function faultOf(error: unknown, called: string): Error {
  if (error instanceof ShelfFault) return error;
  return new ShelfFault(`${called} cannot be used: ${wordsOf(error)}.`, { cause: error });
}

/** What to do where the tables are not there, or not ours. */
function wordsOf(error: unknown): string {
  const { code } = (error ?? {}) as { code?: string };
  if (code === "42P01") return "its tables are missing; make them with iudex publish --prepare";
  if (code === "42501") return `${reasonOf(error)} (this role may not do that)`;
  if (code === "28P01" || code === "28000") return `it does not let us in (${reasonOf(error)})`;
  return reasonOf(error);
}
