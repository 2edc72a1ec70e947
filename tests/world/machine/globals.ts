// What a program finds everywhere: timers, clocks, chance, cryptography, fetch. Each answers for the process that asks.
import { createHash, KeyObject, sign, verify } from "node:crypto";
import { type Due, world } from "./clock.ts";
import { request } from "./net.ts";

class Timer {
  #due: Due | undefined;
  readonly #process = world.process;
  readonly #work: () => void;
  readonly #every: number | undefined;

  constructor(work: () => void, milliseconds: number, every?: number) {
    this.#work = work;
    this.#every = every;
    this.#process.open.add(this);
    this.#due = world.later(milliseconds, () => this.#fire());
  }

  #fire(): void {
    this.#due = undefined;
    if (this.#every === undefined) this.#process.open.delete(this);
    else this.#due = world.later(this.#every, () => this.#fire());
    this.#work();
  }

  unref(): this {
    return this;
  }

  ref(): this {
    return this;
  }

  close(): void {
    if (this.#due) this.#due.work = undefined;
    this.#process.open.delete(this);
  }
}

const RealDate = Date;

class WorldDate extends RealDate {
  constructor(...words: [] | [number | string | Date]) {
    if (words.length === 0) super(WorldDate.now());
    else super(...(words as [number]));
  }

  static override now(): number {
    return Math.floor(world.now + world.process.ahead);
  }
}

/** Real work outlasts a turn: time waits for it, and what follows belongs to who asked. */
function waitedFor<A extends unknown[], T>(really: (...words: A) => Promise<T>): (...words: A) => Promise<T> {
  let before: Promise<unknown> = Promise.resolve();
  return (...words) => {
    const { process } = world;
    world.underWay++;
    // One after the other, so that they end in the order in which they began.
    const work = before.then(() => really(...words));
    before = work.catch(() => {});
    return new Promise((resolve, reject) => {
      const ended = (then: () => void) => {
        world.later(0, then, process);
        world.underWay--;
      };
      work.then(
        (value) => ended(() => resolve(value)),
        (error: unknown) => ended(() => reject(error as Error)),
      );
    });
  };
}

type Bytes = ArrayBuffer | Uint8Array;

function bytesOf(data: Bytes): Uint8Array {
  return data instanceof ArrayBuffer ? new Uint8Array(data) : data;
}

function useCryptography(): void {
  const { subtle } = globalThis.crypto;
  const keys = new WeakMap<CryptoKey, KeyObject>();
  const keyOf = (key: CryptoKey): KeyObject => {
    const known = keys.get(key) ?? KeyObject.from(key);
    keys.set(key, known);
    return known;
  };
  Object.assign(subtle, {
    digest: async (_: unknown, data: Bytes) =>
      new Uint8Array(createHash("sha256").update(bytesOf(data)).digest()).buffer,
    verify: async (_: unknown, key: CryptoKey, signature: Bytes, data: Bytes) =>
      verify(null, bytesOf(data), keyOf(key), bytesOf(signature)),
    sign: async (_: unknown, key: CryptoKey, data: Bytes) =>
      new Uint8Array(sign(null, bytesOf(data), keyOf(key))).buffer,
    importKey: waitedFor(subtle.importKey.bind(subtle) as (...words: unknown[]) => Promise<CryptoKey>),
    generateKey: waitedFor(subtle.generateKey.bind(subtle) as (...words: unknown[]) => Promise<CryptoKey>),
    exportKey: waitedFor(subtle.exportKey.bind(subtle) as (...words: unknown[]) => Promise<unknown>),
  });
  Object.assign(globalThis.crypto, { randomUUID: uuid });
}

export function uuid(): string {
  const digits = () =>
    Math.floor(world.random() * 2 ** 32)
      .toString(16)
      .padStart(8, "0");
  const all = digits() + digits() + digits() + digits();
  return [all.slice(0, 8), all.slice(8, 12), `4${all.slice(13, 16)}`, `8${all.slice(17, 20)}`, all.slice(20)].join("-");
}

/** Puts this world in the place of the real one. */
export function enterWorld(): void {
  const clear = (timer: Timer | undefined) => timer?.close();
  const began = world.now;
  Object.assign(globalThis, {
    Date: WorldDate,
    setTimeout: (work: () => void, milliseconds = 0) => new Timer(work, milliseconds),
    setInterval: (work: () => void, milliseconds: number) => new Timer(work, milliseconds, milliseconds),
    setImmediate: (work: () => void) => world.later(0, work),
    clearTimeout: clear,
    clearInterval: clear,
    fetch: request,
  });
  Math.random = () => world.random();
  performance.now = () => world.now - began;
  useCryptography();
}
