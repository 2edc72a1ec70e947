import type { NameOf } from "../catalogue/index.ts";
import type { Flags, PinnedFlags } from "../flags/index.ts";
import { AnswerMarks } from "./answer-marks.ts";
import { ChangeHub } from "./change-hub.ts";
import { streamOf } from "./fetch-stream.ts";
import {
  type Closed,
  type Diversion,
  type GateOptions,
  isDiversion,
  type PageOptions,
  type StreamOptions,
  type Ways,
} from "./gate-options.ts";
import { asksOf, not, type OpenWhen } from "./open-when.ts";
import { checkPageOptions } from "./option-shapes.ts";
import {
  type Answer,
  closedAnswer,
  fullAnswer,
  type PageScriptOptions,
  type PageValues,
  pageScript,
  pageValues,
  valuesAnswer,
} from "./page-values.ts";
import { type Asked, type PinnedRequest, Pinner, type Visit } from "./pinner.ts";
import { reportIn, seenAnswer } from "./seen.ts";
import { verdictHeader } from "./verdict-header.ts";

type Answered = Response | Promise<Response>;

/** A handler in the style of the Fetch standard. */
export type FetchHandler<Rest extends readonly unknown[] = readonly []> = (
  request: Request,
  ...rest: Rest
) => Response | Promise<Response>;

/**
 * Pins requests to flags for handlers in the style of the Fetch standard: a `Request` in, a `Response` out.
 *
 * @throws {FlagsError} as `nodeGate` does
 * @example
 * const booking = fetchGate(flags, { context: (request) => contextOf(request) });
 * const quote = booking.divert("zone-fares", { to: quoteByZone, otherwise: quoteByPortPair });
 * app.get("/quote", (c) => quote(c.req.raw));
 */
export function fetchGate<C = undefined>(flags: Flags<C>, options: GateOptions<Request>): FetchGate<C> {
  return new FetchGate(flags, options);
}

/** Requests and their flags. */
export class FetchGate<C> {
  readonly #pinner: Pinner<C, Request>;
  readonly #marks = new AnswerMarks();

  /** @internal */
  constructor(flags: Flags<C>, options: GateOptions<Request>) {
    this.#pinner = new Pinner(flags, options);
  }

  /** The flags of a request; the context is gathered once. */
  async of(request: Request): Promise<PinnedFlags<C>> {
    return (await this.#pinner.pin(this.#visit(request))).pinned;
  }

  /** Wraps a handler: the context is gathered before it, and the answer is marked as it must be. */
  pin<Rest extends readonly unknown[]>(handler: FetchHandler<Rest>): FetchHandler<Rest> {
    return (request, ...rest) => this.#answered(request, () => handler(request, ...rest));
  }

  /** As `pin`, and the handler runs inside `flags.run`, so that `flags.current()` gives these flags. */
  run<Rest extends readonly unknown[]>(handler: FetchHandler<Rest>): FetchHandler<Rest> {
    return (request, ...rest) =>
      this.#answered(request, ({ pinned }) => this.#pinner.flags.run(pinned, () => handler(request, ...rest)));
  }

  /** Wraps a handler: closed unless this holds; not found by default. What cannot be judged is closed. */
  closedUnless<Rest extends readonly unknown[]>(
    when: OpenWhen<C>,
    handler: FetchHandler<Rest>,
    { status, handler: instead }: Closed<FetchHandler<Rest>> = {},
  ): FetchHandler<Rest> {
    const shut: FetchHandler<Rest> = async (request, ...rest) => {
      if (!instead) return responseOf(closedAnswer(status ?? 404));
      const answer = await instead(request, ...rest);
      // A balancer would take 200 for healthy.
      return status === undefined || answer.status !== 200
        ? answer
        : new Response(answer.body, { status, headers: answer.headers });
    };
    return this.#judged(when, { to: handler, otherwise: shut }, true);
  }

  /** Wraps a handler: closed while this flag is true, and open only where it was judged and is not. */
  closedWhile<Rest extends readonly unknown[]>(
    flag: OpenWhen<C>,
    handler: FetchHandler<Rest>,
    closed: Closed<FetchHandler<Rest>> = {},
  ): FetchHandler<Rest> {
    return this.closedUnless(not<C>(flag), handler, closed);
  }

  /** A handler that goes the new way if this holds, and the old way if not; or the way of the variant that is given. */
  divert<Rest extends readonly unknown[]>(when: OpenWhen<C>, ways: Diversion<FetchHandler<Rest>>): FetchHandler<Rest>;
  divert<Rest extends readonly unknown[]>(
    flag: NameOf<C>,
    ways: Ways<FetchHandler<Rest>> & { readonly to?: never },
  ): FetchHandler<Rest>;
  divert<Rest extends readonly unknown[]>(
    when: OpenWhen<C> | NameOf<C>,
    ways: Diversion<FetchHandler<Rest>> | Ways<FetchHandler<Rest>>,
  ): FetchHandler<Rest> {
    if (isDiversion(ways)) return this.#judged(when as OpenWhen<C>, ways, false);
    return (request, ...rest) =>
      this.#answered(request, (settled) => this.#pinner.way(when as NameOf<C>, ways, settled)(request, ...rest));
  }

  #judged<Rest extends readonly unknown[]>(
    when: OpenWhen<C>,
    { to, otherwise }: Diversion<FetchHandler<Rest>>,
    isGated: boolean,
  ): FetchHandler<Rest> {
    this.#pinner.expectYesNo(asksOf(when));
    return (request, ...rest) => {
      const visit = this.#visit(request);
      visit.isGated ||= isGated;
      const go = (holds: boolean) => (holds ? to : otherwise)(request, ...rest);
      const holds = this.#pinner.holds(when, visit);
      return this.#markedOnce(request, () => (holds instanceof Promise ? holds.then(go) : go(holds)));
    };
  }

  /** What a page is told, for rendering it here. */
  async pageValues(request: Request, { only }: PageOptions<NameOf<C>>): Promise<PageValues> {
    return pageValues(await this.of(request), only);
  }

  /** The values of these flags as an element of a page's markup, for its first paint. See `NodeGate.pageScript`. */
  async pageScript(
    request: Request,
    { only, ...options }: PageOptions<NameOf<C>> & PageScriptOptions,
  ): Promise<string> {
    return pageScript(await this.pageValues(request, { only }), options);
  }

  /** A handler that takes the reports of a page on which flags it has asked for. See `NodeGate.seen`. */
  seen(options: PageOptions<NameOf<C>>): FetchHandler {
    const { only } = checkPageOptions(options, "seen");
    return async (request) => {
      const { pinned } = await this.#settle(request);
      const { method } = request;
      const body = method === "POST" ? await reportIn(request.body ?? []) : "";
      return this.#marked(responseOf(seenAnswer(pinned, only, method, body)), request);
    };
  }

  /** A handler that gives a page the values of these flags as JSON. */
  values(options: PageOptions<NameOf<C>>): FetchHandler {
    const { only } = checkPageOptions(options, "values");
    return async (request) => {
      const settled = await this.#settle(request);
      const answer = valuesAnswer(settled, only, request.headers.get("if-none-match") ?? undefined);
      return this.#marked(responseOf(answer), request);
    };
  }

  /** A handler that streams the values of these flags to a page as server-sent events, again whenever they change. */
  changes(options: StreamOptions<NameOf<C>>): FetchHandler {
    const hub = new ChangeHub(this.#pinner.flags, options);
    return async (request) => {
      // Asked for at once, since some servers notice that a client left only once somebody has asked.
      const { signal } = request;
      const settled = await this.#settle(request);
      const address = this.#pinner.options.address?.(request);
      if (signal.aborted || hub.isFullFor(address)) return responseOf(fullAnswer);
      const headers = { "content-type": "text/event-stream", "cache-control": "no-store" };
      const stream = streamOf(hub, settled, signal, {
        known: request.headers.get("last-event-id") ?? undefined,
        address,
        isLast: () => this.#pinner.options.isStopping?.() ?? false,
        again: () => this.#pinner.again(askedBy(request)),
        failed: (error) => this.#pinner.failed(error, request),
      });
      return this.#marked(new Response(stream, { headers }), request);
    };
  }

  /** The flags of a request; what fails is told before it is thrown on. */
  async #settle(request: Request): Promise<PinnedRequest<C>> {
    try {
      return await this.#pinner.pin(this.#visit(request));
    } catch (error) {
      this.#pinner.failed(error, request);
      throw error;
    }
  }

  #answered(request: Request, handle: (settled: PinnedRequest<C>) => Answered): Answered {
    const settling = this.#pinner.pin(this.#visit(request));
    return this.#markedOnce(request, () =>
      settling instanceof Promise ? this.#settle(request).then(handle) : handle(settling),
    );
  }

  /** Nothing is waited for where the answer is there at once: each wait is a good part of what a gate costs. */
  #markedOnce(request: Request, handle: () => Answered): Answered {
    try {
      const answer = handle();
      if (!isPromise(answer)) return this.#marked(answer, request);
      return answer.then((given) => this.#marked(given, request));
    } catch (error) {
      return Promise.reject(error);
    }
  }

  #visit(request: Request): Visit<C, Request> {
    return this.#pinner.known(request) ?? this.#pinner.begin(request, askedBy(request));
  }

  #marked(response: Response, request: Request): Response {
    const visit = this.#visit(request);
    const marks = this.#pinner.marksFor(visit);
    const pinned = visit.settled?.pinned;
    const verdicts = pinned && this.#pinner.options.verdictHeader ? verdictHeader(pinned.asked()) : "";
    return this.#marks.mark(response, request, marks, verdicts);
  }
}

function isPromise(answer: Answered): answer is Promise<Response> {
  return typeof (answer as { readonly then?: unknown }).then === "function";
}

function askedBy(request: Request): Asked<Request> {
  return { request, header: (name) => request.headers.get(name) ?? undefined };
}

function responseOf({ status, headers, body }: Answer): Response {
  return new Response(status === 304 || status === 204 ? null : body, { status, headers });
}
