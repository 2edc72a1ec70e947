import { type Context, type Flags, FlagsError, type Pass, type PinnedFlags } from "../runtime/index.ts";
import type { CacheMarks } from "./caching.ts";
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

const usuallyMadeFrom = ["cookie", "authorization"];
const usualPass = { header: "iudex-pass", cookie: "iudex-pass" };

/** Gathers the context of a request once, pins the flags once, and remembers both for as long as the request lasts. */
export class Pinner<C, Request> {
  readonly flags: Flags<C>;
  readonly options: GateOptions<Request>;
  /** The headers that an answer depends on, the one of a pass among them. */
  readonly #madeFrom: readonly string[];
  /** What is known of a request, or will be. */
  readonly #requests = new WeakMap<object, PinnedRequest<C> | Promise<PinnedRequest<C>>>();

  constructor(flags: Flags<C>, options: GateOptions<Request>) {
    const { madeFrom = usuallyMadeFrom, pass = usualPass } = options;
    this.flags = flags;
    this.options = options;
    const known = new Set(madeFrom.map((name) => name.toLowerCase()));
    const carriers = pass === false ? [] : [pass.cookie === undefined ? "" : "cookie", pass.header ?? ""];
    this.#madeFrom = [...madeFrom, ...carriers.filter((name) => name !== "" && !known.has(name.toLowerCase()))];
  }

  /** The flags of a request that has been pinned. */
  settled(key: object): PinnedRequest<C> | undefined {
    const known = this.#requests.get(key);
    return known instanceof Promise ? undefined : known;
  }

  /** At once, where the context is there at once and no pass has to be verified. */
  pin(asked: Asked<Request>): PinnedRequest<C> | Promise<PinnedRequest<C>> {
    const known = this.#requests.get(asked.key);
    if (known !== undefined) return known;
    const gathered = this.#gather(asked);
    this.#requests.set(asked.key, gathered);
    if (gathered instanceof Promise) {
      gathered.then(
        (settled) => this.#requests.set(asked.key, settled),
        () => {},
      );
    }
    return gathered;
  }

  /** Gathers the context and looks at the pass anew, for a stream that has been open for a while. */
  async again(asked: Asked<Request>): Promise<PinnedRequest<C>> {
    return this.#gather(asked);
  }

  /** Does it hold? False as well where nothing can be judged, which `onFailure` then hears of. */
  holds(when: OpenWhen<C>, asked: Asked<Request>): boolean | Promise<boolean> {
    const settling = this.pin(asked);
    if (!(settling instanceof Promise)) return this.#holds(when, settling, asked.request);
    return settling.then(
      (settled) => this.#holds(when, settled, asked.request),
      (error: unknown) => {
        this.failed(error, asked.request);
        return false;
      },
    );
  }

  #holds(when: OpenWhen<C>, { pinned }: PinnedRequest<C>, request: Request): boolean {
    try {
      return holds(when, pinned);
    } catch (error) {
      this.failed(error, request);
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

  #gather(asked: Asked<Request>): PinnedRequest<C> | Promise<PinnedRequest<C>> {
    let context: Context | Promise<Context>;
    let token: string | undefined;
    try {
      context = this.options.context(asked.request);
      token = this.#passOf(asked);
    } catch (error) {
      return Promise.reject(error instanceof Error ? error : new FlagsError(String(error)));
    }
    if (token === undefined && !isPromise(context)) return this.#pinned(context, undefined);
    return Promise.all([context, token === undefined ? undefined : this.flags.verifyPass(token)]).then(
      ([gathered, pass]) => this.#pinned(gathered, pass),
    );
  }

  #pinned(context: Context, pass: Pass | undefined): PinnedRequest<C> {
    return { pinned: this.flags.pin(context, { pass }), context, pass };
  }

  /** What an answer that belongs to a request tells caches. */
  marksFor(key: object, isGated: boolean): CacheMarks | undefined {
    const settled = this.settled(key);
    if (!isGated && !settled?.pass && !settled?.pinned.hasBeenAsked) return undefined;
    const { sharedCaches = false } = this.options;
    return { isNobodyElses: !settled || settled.pass !== undefined, isGated, madeFrom: this.#madeFrom, sharedCaches };
  }

  #passOf(asked: Asked<Request>): string | undefined {
    const { pass = usualPass } = this.options;
    if (pass === false) return undefined;
    const fromHeader = pass.header === undefined ? undefined : asked.header(pass.header);
    if (fromHeader !== undefined && fromHeader !== "") return fromHeader;
    return pass.cookie === undefined ? undefined : parseCookie(asked.header("cookie"), pass.cookie);
  }
}

function isPromise(context: Context | Promise<Context>): context is Promise<Context> {
  return typeof (context as { then?: unknown } | undefined)?.then === "function";
}
