import type { NameOf } from "../catalogue/index.ts";
import { type Context, type Flags, FlagsError, type Pass, type PinnedFlags } from "../flags/index.ts";
import { show } from "../values/index.ts";
import { beside } from "./beside.ts";
import type { CacheMarks } from "./caching.ts";
import { parseCookie } from "./cookies.ts";
import type { GateOptions, Ways } from "./gate-options.ts";
import { holds, type OpenWhen } from "./open-when.ts";
import { checkGateOptions } from "./option-shapes.ts";

/** One request with its flags. */
export interface PinnedRequest<C> {
  readonly pinned: PinnedFlags<C>;
  readonly context: Context;
  /** The pass that was taken, if there was a good one. */
  readonly pass: Pass | undefined;
}

/** What a server knows of a request, whatever kind of server it is. */
export interface Asked<Request> {
  readonly request: Request;
  header(name: string): string | undefined;
}

/** What a gate knows of one request, from the first time that it is asked about it. */
export class Visit<C, Request> {
  readonly asked: Asked<Request>;
  /** The request with its flags, or what will be; undefined before anybody has asked for them. */
  settling: PinnedRequest<C> | Promise<PinnedRequest<C>> | undefined = undefined;
  /** Somebody else may have found the address closed. */
  isGated = false;

  constructor(asked: Asked<Request>) {
    this.asked = asked;
  }

  get settled(): PinnedRequest<C> | undefined {
    return this.settling instanceof Promise ? undefined : this.settling;
  }
}

const defaultMadeFrom = ["cookie", "authorization"];
const defaultPass = { header: "iudex-pass", cookie: "iudex-pass" };

/** Gathers the context of a request once, pins the flags once, and remembers both for as long as the request lasts. */
export class Pinner<C, Request> {
  readonly flags: Flags<C>;
  readonly options: GateOptions<Request>;
  /** The headers that an answer depends on, the one of a pass among them. */
  readonly #madeFrom: readonly string[];
  readonly #visits = beside<Visit<C, Request>>();
  /** The flags that gates ask for true or false. */
  readonly #yesNo = new Set<string>();
  readonly #toldWrong = new Set<string>();
  #off: (() => void) | undefined;

  constructor(flags: Flags<C>, options: GateOptions<Request>) {
    checkGateOptions(options ?? {});
    const { madeFrom = defaultMadeFrom, pass = defaultPass } = options;
    this.flags = flags;
    this.options = options;
    const known = new Set(madeFrom.map((name) => name.toLowerCase()));
    const carriers = pass === false ? [] : [pass.cookie === undefined ? "" : "cookie", pass.header ?? ""];
    this.#madeFrom = [...madeFrom, ...carriers.filter((name) => name !== "" && !known.has(name.toLowerCase()))];
  }

  /** @param key whatever stays the same object for as long as the request lasts */
  known(key: object): Visit<C, Request> | undefined {
    return this.#visits.get(key);
  }

  begin(key: object, asked: Asked<Request>): Visit<C, Request> {
    const visit = new Visit<C, Request>(asked);
    this.#visits.set(key, visit);
    return visit;
  }

  /** At once, where the context is there at once and no pass has to be verified. */
  pin(visit: Visit<C, Request>): PinnedRequest<C> | Promise<PinnedRequest<C>> {
    if (visit.settling !== undefined) return visit.settling;
    const gathered = this.#gather(visit.asked);
    visit.settling = gathered;
    if (gathered instanceof Promise) {
      gathered.then(
        (settled) => {
          visit.settling = settled;
        },
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
  holds(when: OpenWhen<C>, visit: Visit<C, Request>): boolean | Promise<boolean> {
    const { request } = visit.asked;
    const settling = this.pin(visit);
    if (!(settling instanceof Promise)) return this.#holds(when, settling, request);
    return settling.then(
      (settled) => this.#holds(when, settled, request),
      (error: unknown) => {
        this.failed(error, request);
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

  /**
   * The way for the variant that a request is given, or for its value; that of `otherwise` if there is none.
   *
   * @throws {FlagsError} if there is none of `otherwise` either
   */
  way<Handler>(flag: NameOf<C>, ways: Ways<Handler>, { pinned }: PinnedRequest<C>): Handler {
    const { value, variant } = pinned.verdict(flag);
    const names = [variant, String(value), "otherwise"];
    const name = names.find((each) => each !== undefined && Object.hasOwn(ways, each));
    if (name !== undefined) return ways[name]!;
    throw new FlagsError(`${flag} gives ${show(variant ?? value)}, and divert has no way for it.`);
  }

  /** Tells of flags that a gate asks for true or false and that give something else: it is closed to everybody. */
  expectYesNo(flags: readonly string[]): void {
    if (flags.length === 0) return;
    for (const flag of flags) this.#yesNo.add(flag);
    this.#tellWrongTypes();
    this.#off ??= this.flags.on("change", () => this.#tellWrongTypes());
  }

  #tellWrongTypes(): void {
    for (const flag of this.#yesNo) {
      const isDefined = this.flags.names.includes(flag);
      const isWrong =
        isDefined && this.flags.possible(flag as NameOf<C>).values.some((value) => typeof value !== "boolean");
      if (isWrong && !this.#toldWrong.has(flag))
        this.flags.report(
          `A gate asks whether “${flag}” is true, and it does not give yes or no: the gate is closed to all.`,
        );
      if (isWrong) this.#toldWrong.add(flag);
      else this.#toldWrong.delete(flag);
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
  marksFor({ settled, isGated }: Visit<C, Request>): CacheMarks | undefined {
    if (!isGated && !settled?.pass && !settled?.pinned.hasBeenAsked) return undefined;
    const { sharedCaches = false } = this.options;
    return { isNobodyElses: !settled || settled.pass !== undefined, isGated, madeFrom: this.#madeFrom, sharedCaches };
  }

  #passOf(asked: Asked<Request>): string | undefined {
    const { pass = defaultPass } = this.options;
    if (pass === false) return undefined;
    const fromHeader = pass.header === undefined ? undefined : asked.header(pass.header);
    if (fromHeader !== undefined && fromHeader !== "") return fromHeader;
    return pass.cookie === undefined ? undefined : parseCookie(asked.header("cookie"), pass.cookie);
  }
}

function isPromise(context: Context | Promise<Context>): context is Promise<Context> {
  return typeof (context as { then?: unknown } | undefined)?.then === "function";
}
