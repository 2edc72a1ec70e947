import type { IncomingMessage, ServerResponse } from "node:http";
import onHeaders from "on-headers";
import type { NameOf } from "../catalogue/index.ts";
import { type Flags, FlagsError, type PinnedFlags } from "../flags/index.ts";
import { markForCaches } from "./caching.ts";
import { ChangeHub } from "./change-hub.ts";
import { clientAddress } from "./client-address.ts";
import {
  type Closed,
  type Diversion,
  type GateOptions,
  isDiversion,
  type PageOptions,
  type StreamOptions,
  type Ways,
} from "./gate-options.ts";
import {
  headersOf,
  isClosing,
  isGone,
  listen,
  type RequestLike,
  type ResponseLike,
  type ResponseOf,
  rawRequest,
  rawResponse,
  readBody,
  send,
} from "./node-server.ts";
import { asksOf, not, type OpenWhen } from "./open-when.ts";
import { checkPageOptions } from "./option-shapes.ts";
import {
  closedAnswer,
  failedAnswer,
  fullAnswer,
  type PageScriptOptions,
  type PageValues,
  pageScript,
  pageValues,
  valuesAnswer,
} from "./page-values.ts";
import { type Asked, type PinnedRequest, Pinner, type Visit } from "./pinner.ts";
import { reportIn, seenAnswer } from "./seen.ts";
import { verdictHeader, verdictHeaderName } from "./verdict-header.ts";

/** The shape of middleware: it answers, or hands on by calling `next`. */
export type Middleware<Request> = (request: Request, response: ResponseLike, next: (error?: Error) => void) => void;

/** The end of the way: what fails goes to `next` where there is one, and is thrown where there is none. */
export type Answering<Request> = (
  request: Request,
  response: ResponseLike,
  next?: (error?: Error) => void,
) => Promise<void>;

/** A handler at the end of the way. */
export type Handler<Request, Response> = (
  request: Request,
  response: Response,
  next: (error?: Error) => void,
) => unknown;

/**
 * Pins requests to flags for servers that hand `(request, response, next)` around: `node:http`, Express and its kin,
 * the hooks of Fastify.
 *
 * @throws {FlagsError} without a context, for an option that there is not, and for one that cannot be meant
 * @example
 * const booking = nodeGate(flags, { context: (request) => ({ account: request.account }) });
 * app.use(booking.pin);
 * app.post("/holds", booking.closedUnless(not("storm-mode")), (request, response) => {
 *   response.json(hold(booking.of(request).value("hold-minutes")));
 * });
 */
export function nodeGate<C = undefined, Request extends RequestLike = IncomingMessage>(
  flags: Flags<C>,
  options: GateOptions<Request>,
): NodeGate<C, Request> {
  return new NodeGate(flags, options);
}

/** Requests and their flags; its functions can be handed around on their own. */
export class NodeGate<C, Request extends RequestLike> {
  readonly #pinner: Pinner<C, Request>;

  /** @internal */
  constructor(flags: Flags<C>, options: GateOptions<Request>) {
    this.#pinner = new Pinner(flags, options);
  }

  /** Middleware: gathers the context and pins the flags, once a request; what fails goes to `next`. */
  readonly pin: Middleware<Request> = (request, response, next) => {
    this.#behind(this.#settle(request, response), request, response, next, (_, onward) => onward());
  };

  /** As `pin`, and everything behind it runs inside `flags.run`, so that `flags.current()` gives these flags. */
  readonly run: Middleware<Request> = (request, response, next) => {
    this.#behind(this.#settle(request, response), request, response, next, ({ pinned }, onward) =>
      this.#pinner.flags.run(pinned, () => onward()),
    );
  };

  /** The flags of a request that has come past `pin`. @throws {FlagsError} for one that has not */
  of(request: Request): PinnedFlags<C> {
    const pinned = this.#pinner.known(rawRequest(request))?.settled?.pinned;
    if (!pinned) throw new FlagsError("This request has no flags yet: put pin in front of its handler.");
    return pinned;
  }

  /**
   * Middleware: the address is closed unless this holds; not found by default. What cannot be judged is closed.
   *
   * @example app.use("/berths", booking.closedUnless("berth-view"))
   */
  closedUnless<Response extends ResponseLike = ResponseOf<Request>>(
    when: OpenWhen<C>,
    { status, handler }: Closed<Handler<Request, Response>> = {},
  ): Middleware<Request> {
    this.#pinner.expectYesNo(asksOf(when));
    return (request, response, next) => {
      this.#behind(this.#judge(when, request, response, true), request, response, next, (open, onward) => {
        if (open) return onward();
        if (!handler) return send(response, closedAnswer(status ?? 404));
        // A balancer would take 200 for healthy.
        if (status !== undefined) (response as { statusCode?: number }).statusCode = status;
        return handler(request, response as Response, onward);
      });
    };
  }

  /**
   * Middleware: the address is closed while this holds, and open only where it was judged and does not.
   *
   * @example app.use("/holds", booking.closedWhile("storm-mode", { status: 503 }))
   */
  closedWhile<Response extends ResponseLike = ResponseOf<Request>>(
    flag: OpenWhen<C>,
    closed: Closed<Handler<Request, Response>> = {},
  ): Middleware<Request> {
    return this.closedUnless<Response>(not<C>(flag), closed);
  }

  /**
   * A handler that goes the new way if this holds, and the old way if not; or the way of the variant that is given.
   *
   * @example app.get("/quote", booking.divert("zone-fares", { to: quoteByZone, otherwise: quoteByPortPair }))
   * @example app.get("/seats", booking.divert("seat-map", { classic: showList, deck: showDeck, tour: showTour }))
   */
  divert<Response extends ResponseLike = ResponseOf<Request>>(
    when: OpenWhen<C>,
    ways: Diversion<Handler<Request, Response>>,
  ): (request: Request, response: Response, next: (error?: Error) => void) => void;
  divert<Response extends ResponseLike = ResponseOf<Request>>(
    flag: NameOf<C>,
    ways: Ways<Handler<Request, Response>> & { readonly to?: never },
  ): (request: Request, response: Response, next: (error?: Error) => void) => void;
  divert<Response extends ResponseLike>(
    when: OpenWhen<C> | NameOf<C>,
    ways: Diversion<Handler<Request, Response>> | Ways<Handler<Request, Response>>,
  ): (request: Request, response: Response, next: (error?: Error) => void) => void {
    if (!isDiversion(ways)) {
      return (request, response, next) =>
        this.#behind(this.#settle(request, response), request, response, next, (settled, onward) =>
          this.#pinner.way(when as NameOf<C>, ways, settled)(request, response, onward),
        );
    }
    const { to, otherwise } = ways;
    this.#pinner.expectYesNo(asksOf(when as OpenWhen<C>));
    return (request, response, next) => {
      this.#behind(
        this.#judge(when as OpenWhen<C>, request, response, false),
        request,
        response,
        next,
        (holds, onward) => (holds ? to : otherwise)(request, response, onward),
      );
    };
  }

  /** What a page is told of a request that has come past `pin`, for rendering it here. */
  pageValues(request: Request, { only }: PageOptions<NameOf<C>>): PageValues {
    return pageValues(this.of(request), only);
  }

  /**
   * The values of these flags as an element of a page's markup, for its first paint: `<script type="application/json">`,
   * which no value can end. The request must have come past `pin`.
   *
   * @throws {FlagsError} for an id or a nonce that has no place in an attribute
   * @example response.send(`<body>…${booking.pageScript(request, { only: ["seat-map"], nonce })}</body>`)
   */
  pageScript(request: Request, { only, ...options }: PageOptions<NameOf<C>> & PageScriptOptions): string {
    return pageScript(this.pageValues(request, { only }), options);
  }

  /**
   * A handler that takes the reports of a page on which flags it has asked for: `{ "seen": ["seat-map"] }`. They are
   * judged again here, once each, and told of as verdicts with `asked: "seen"`; of what else is reported nothing is taken.
   *
   * @example app.post("/api/flags/seen", booking.seen({ only: ["seat-map"] }))
   */
  seen(options: PageOptions<NameOf<C>>): Answering<Request> {
    const { only } = checkPageOptions(options, "seen");
    return this.#answering(async ({ pinned }, request, response) => {
      const { method } = rawRequest(request);
      const read = method === "POST" ? readBody(request) : "";
      const body = read === undefined ? await reportIn(rawRequest(request)) : read;
      send(response, seenAnswer(pinned, only, method, body));
    });
  }

  /** A handler that gives a page the values of these flags as JSON. */
  values(options: PageOptions<NameOf<C>>): Answering<Request> {
    const { only } = checkPageOptions(options, "values");
    return this.#answering(({ pinned, pass }, request, response) =>
      send(response, valuesAnswer({ pinned, pass }, only, rawRequest(request).headers["if-none-match"])),
    );
  }

  /** A handler that streams the values of these flags to a page as server-sent events, again whenever they change. */
  changes(options: StreamOptions<NameOf<C>>): Answering<Request> {
    const hub = new ChangeHub(this.#pinner.flags, options);
    return this.#answering((settled, request, response) => {
      // Whoever left while the context was being gathered would never be heard of again.
      if (isGone(rawResponse(response))) return;
      const raw = rawRequest(request);
      const address = this.#pinner.options.address?.(request) ?? clientAddress(raw.socket?.remoteAddress);
      if (hub.isFullFor(address)) return send(response, fullAnswer);
      listen(hub, settled, {
        request: raw,
        response,
        address,
        isLast: () => this.#pinner.options.isStopping?.() ?? isClosing(raw),
        again: () => this.#pinner.again(askedBy(request, raw)),
        failed: (error) => this.#pinner.failed(error, request),
      });
    });
  }

  #answering(
    answer: (settled: PinnedRequest<C>, request: Request, response: ResponseLike) => void | Promise<void>,
  ): Answering<Request> {
    return async (request, response, next) => {
      try {
        await answer(await this.#settle(request, response), request, response);
      } catch (error) {
        this.#pinner.failed(error, request);
        if (next) next(error as Error);
        else if ("raw" in response) throw error;
        else fail(response);
      }
    };
  }

  /** What comes behind a gate: what fails goes to `next`, and what even that throws makes no process end. */
  #behind<T>(
    settling: T | Promise<T>,
    request: Request,
    response: ResponseLike,
    next: (error?: Error) => void,
    then: (settled: T, next: (error?: Error) => void) => unknown,
  ): void {
    let handedOn = false;
    const onward = (error?: unknown) => {
      handedOn = true;
      if (error === undefined) next();
      else next(error instanceof Error ? error : new FlagsError(String(error)));
    };
    const lost = (error: unknown) => {
      this.#pinner.failed(error, request);
      fail(response);
    };
    const failed = (error: unknown) => {
      // Whoever was handed the request threw: handing it on once more would answer it twice.
      if (handedOn) return lost(error);
      try {
        onward(error);
      } catch (again) {
        lost(again);
      }
    };
    const go = (settled: T) => {
      try {
        const answered = then(settled, onward);
        if (answered instanceof Promise) answered.catch(failed);
      } catch (error) {
        failed(error);
      }
    };
    if (!(settling instanceof Promise)) return go(settling);
    settling.then(go, (error: unknown) => {
      this.#pinner.failed(error, request);
      failed(error);
    });
  }

  #settle(request: Request, response: ResponseLike): PinnedRequest<C> | Promise<PinnedRequest<C>> {
    return this.#pinner.pin(this.#visit(request, response));
  }

  #judge(when: OpenWhen<C>, request: Request, response: ResponseLike, isGated: boolean): boolean | Promise<boolean> {
    const visit = this.#visit(request, response);
    visit.isGated ||= isGated;
    return this.#pinner.holds(when, visit);
  }

  /** What is known of a request; of a new one the answer will be marked. */
  #visit(request: Request, response: ResponseLike): Visit<C, Request> {
    const raw = rawRequest(request);
    const known = this.#pinner.known(raw);
    if (known) return known;
    const visit = this.#pinner.begin(raw, askedBy(request, raw));
    const answer = rawResponse(response);
    onHeaders(answer, () => this.#mark(answer, visit));
    return visit;
  }

  /** Tells caches and whoever debugs, at the moment when the headers are sent, what the answer depends on. */
  #mark(response: ServerResponse, visit: Visit<C, Request>): void {
    const marks = this.#pinner.marksFor(visit);
    if (marks) markForCaches(headersOf(response), marks);
    const pinned = visit.settled?.pinned;
    const verdicts = pinned && this.#pinner.options.verdictHeader ? verdictHeader(pinned.asked()) : "";
    if (verdicts === "") return;
    const earlier = response.getHeader(verdictHeaderName);
    response.setHeader(verdictHeaderName, earlier === undefined ? verdicts : `${String(earlier)}, ${verdicts}`);
  }
}

/** Ends an answer that nobody else will end. */
function fail(response: ResponseLike): void {
  const raw = rawResponse(response);
  if (raw.headersSent) raw.destroy();
  else send(response, failedAnswer);
}

function askedBy<Request extends RequestLike>(request: Request, raw: IncomingMessage): Asked<Request> {
  return {
    request,
    header: (name) => {
      const value = raw.headers[name.toLowerCase()];
      return Array.isArray(value) ? value[0] : value;
    },
  };
}
