import { AsyncLocalStorage } from "node:async_hooks";
import type { OverrideMap } from "./overrides.ts";

/** What holds inside one asynchronous scope. */
export interface Scope {
  /** The outermost first. */
  readonly overrides?: readonly OverrideMap[] | undefined;
  readonly pinned?: unknown;
}

/**
 * Asynchronous scopes, made only when first used: on Node 20 the first `AsyncLocalStorage.run` of a process makes every
 * later `await` slower, so nobody pays for it who does not use it.
 */
export class Scopes {
  #storage: AsyncLocalStorage<Scope> | undefined;

  get current(): Scope | undefined {
    return this.#storage?.getStore();
  }

  run<T>(scope: Scope, work: () => T): T {
    this.#storage ??= new AsyncLocalStorage();
    return this.#storage.run({ ...this.current, ...scope }, work);
  }

  /** Does work outside of every scope. */
  outside<T>(work: () => T): T {
    return this.#storage ? this.#storage.run({}, work) : work();
  }
}
