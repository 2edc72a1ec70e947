import type { Context, Flags, Pass, PinnedFlags } from "../runtime/index.ts";
import { parseCookie } from "./cookies.ts";
import type { GateOptions } from "./gate-options.ts";
import { holds, type OpenWhen } from "./open-when.ts";

/** One request with its flags. */
export interface PinnedRequest<C> {
  readonly pinned: PinnedFlags<C>;
  readonly context: Context;
  /** The pass that was taken, if there was a good one. */
  readonly pass: Pass | undefined;
}

/** What a server knows of a request, whatever kind of server it is. */
export interface Asked<Request> {
  /** Whatever stays the same object for as long as the request lasts. */
  readonly key: object;
  readonly request: Request;
  header(name: string): string | undefined;
}

const usualPass = { header: "iudex-pass", cookie: "iudex-pass" };

/** Gathers the context of a request once, pins the flags once, and remembers both for as long as the request lasts. */
export class Pinner<C, Request> {
  readonly flags: Flags<C>;
  readonly options: GateOptions<Request>;
  readonly #settled = new WeakMap<object, PinnedRequest<C>>();
  readonly #pending = new WeakMap<object, Promise<PinnedRequest<C>>>();

  constructor(flags: Flags<C>, options: GateOptions<Request>) {
    this.flags = flags;
    this.options = options;
  }

  /** The flags of a request that has been pinned. */
  settled(key: object): PinnedRequest<C> | undefined {
    return this.#settled.get(key);
  }

  pin(asked: Asked<Request>): Promise<PinnedRequest<C>> {
    let pending = this.#pending.get(asked.key);
    if (!pending) {
      pending = this.#pin(asked);
      this.#pending.set(asked.key, pending);
    }
    return pending;
  }

  /** Does it hold? False as well where nothing can be judged, which `onFailure` then hears of. */
  async holds(when: OpenWhen<C>, asked: Asked<Request>): Promise<boolean> {
    try {
      const { pinned } = await this.pin(asked);
      return holds(when, pinned);
    } catch (error) {
      this.failed(error, asked.request);
      return false;
    }
  }

  failed(error: unknown, request: Request): void {
    try {
      this.options.onFailure?.(error, request);
    } catch {
      // Whoever listens must not make a request fail.
    }
  }

  async #pin(asked: Asked<Request>): Promise<PinnedRequest<C>> {
    const token = this.#passOf(asked);
    const [context, pass] = await Promise.all([
      this.options.context(asked.request),
      token === undefined ? undefined : this.flags.verifyPass(token),
    ]);
    const settled = { pinned: this.flags.pin(context, { pass }), context, pass };
    this.#settled.set(asked.key, settled);
    return settled;
  }

  #passOf(asked: Asked<Request>): string | undefined {
    const { pass = usualPass } = this.options;
    if (pass === false) return undefined;
    const fromHeader = pass.header === undefined ? undefined : asked.header(pass.header);
    if (fromHeader !== undefined && fromHeader !== "") return fromHeader;
    return pass.cookie === undefined ? undefined : parseCookie(asked.header("cookie"), pass.cookie);
  }
}
