import { within } from "../deadline.ts";
import { reasonOf, ShelfFault, SilentFault } from "../faults.ts";
import type { Heard, Hearing } from "../place.ts";
import { againAfter, answerTime, hearNews, type NewsLine } from "./news-line.ts";
import type { RedisClient, RedisSubscriber } from "./redis-client.ts";

/** How long making a connection may take where another one went silent, and how often it is tried; milliseconds. */
const makingTime = 2_000;
const maxAttempts = 20;

/** What sends commands: the program's client, or a connection of our own. */
type Sender = Pick<RedisClient, "sendCommand">;

/**
 * Commands for the program's client. One that has gone silent is left alone, since it is the program's: what follows goes
 * over a connection of our own, made with the same settings.
 */
export class RedisConnection {
  readonly #client: RedisClient;
  readonly #called: string;
  #isSilent = false;
  #own: RedisSubscriber | undefined;
  #making: Promise<RedisSubscriber> | undefined;

  constructor(client: RedisClient, called: string) {
    if (typeof client?.sendCommand !== "function" || typeof client.duplicate !== "function")
      throw new TypeError(
        "A shelf in Redis takes a client of node-redis from 4.6 on: one with sendCommand and duplicate.",
      );
    this.#client = client;
    this.#called = called;
    // The client connects again by itself; unheard, a lost connection would end the process.
    client.on("error", () => {});
  }

  /** @throws {ShelfFault} where it is refused, or not answered in time */
  async send(words: readonly (string | Buffer)[], calledOff: AbortSignal, options?: object): Promise<unknown> {
    let asked: Sender | undefined;
    let isAnswered = false;
    try {
      return await within(answerTime, this.#called, calledOff, async () => {
        asked = this.#isSilent ? await this.#ours() : this.#client;
        return asked.sendCommand(words, options).finally(() => {
          isAnswered = true;
        });
      });
    } catch (error) {
      if (error instanceof SilentFault && asked && !isAnswered) this.#giveUp(asked);
      if (error instanceof ShelfFault) throw error;
      throw new ShelfFault(`${this.#called} cannot be used: ${wordsOf(error)}.`, { cause: error });
    }
  }

  /** What goes silent is given up, and another connection made beside it. */
  #giveUp(silent: Sender): void {
    if (silent !== (this.#own ?? this.#client)) return;
    if (this.#own) end(this.#own);
    this.#own = undefined;
    this.#isSilent = true;
    this.#ours().catch(() => {});
  }

  async #ours(): Promise<Sender> {
    if (this.#own) return this.#own;
    this.#making ??= this.#made().finally(() => {
      this.#making = undefined;
    });
    return this.#making;
  }

  /** Tried again and again, each time for a short while: an engine that is back is found soon. */
  async #made(): Promise<RedisSubscriber> {
    for (let attempt = 1; ; attempt++) {
      const connection = this.#client.duplicate();
      connection.on("error", () => {});
      try {
        await within(makingTime, this.#called, new AbortController().signal, () => connection.connect());
        // Nobody follows any more.
        if (!this.#isSilent) throw new ShelfFault("It was called off.");
        connection.unref?.();
        this.#own = connection;
        return connection;
      } catch (error) {
        end(connection);
        if (attempt === maxAttempts || !this.#isSilent) throw error;
        await new Promise((resolve) => setTimeout(resolve, againAfter).unref());
      }
    }
  }

  /** Hears what is told on a channel, over a connection of its own. */
  hear(channel: string, heard: Heard): Hearing {
    let proofs = 0;
    const open = async (lost: (error: unknown) => void, calledOff: AbortSignal): Promise<NewsLine> => {
      const line = this.#client.duplicate();
      line.on("error", lost);
      const prove = async () => {
        const own = `${channel}:proof-${++proofs}`;
        await line.subscribe(own, () => {});
        await line.unsubscribe(own);
      };
      try {
        await within(answerTime, this.#called, calledOff, async () => {
          await line.connect();
          line.unref?.();
          await line.subscribe(channel, () => heard.changed());
        });
      } catch (error) {
        end(line);
        throw error;
      }
      return { prove, end: () => end(line) };
    };
    const hearing = hearNews({ called: this.#called, open, wordsOf }, heard);
    return {
      close: async () => {
        await hearing.close();
        if (this.#own) end(this.#own);
        this.#own = undefined;
        this.#isSilent = false;
      },
    };
  }
}

/** Clients before the fifth have another word for it; one that is not connected any more says so by an error. */
function end(connection: RedisSubscriber): void {
  try {
    const ended: unknown = connection.destroy ? connection.destroy() : connection.disconnect?.();
    if (ended instanceof Promise) ended.catch(() => {});
  } catch {
    // It has ended.
  }
}

/** What an engine means by its short words. */
function wordsOf(error: unknown): string {
  const reason = reasonOf(error);
  if (/^WRONGPASS|^NOAUTH/.test(reason)) return `it does not let us in (${reason})`;
  return reason;
}
