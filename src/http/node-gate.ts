import type { IncomingMessage, ServerResponse } from "node:http";
import onHeaders from "on-headers";
import { type Flags, FlagsError, type NameOf, type PinnedFlags } from "../runtime/index.ts";
import { ChangeHub } from "./change-hub.ts";
import type { Closed, Diversion, GateOptions, PageOptions, StreamOptions } from "./gate-options.ts";
import { not, type OpenWhen } from "./open-when.ts";
import { type Answer, closedAnswer, fullAnswer, valuesAnswer } from "./page-values.ts";
import { type Asked, type PinnedRequest, Pinner } from "./pinner.ts";
import { verdictHeader, verdictHeaderName } from "./verdict-header.ts";

/** A request of `node:http`, or something that holds one as `raw`. */
export type RequestLike = IncomingMessage | { readonly raw: IncomingMessage };

/** A response of `node:http`, or something that holds one as `raw` and can be told that it was answered. */
export type ResponseLike = ServerResponse | HeldResponse;

/** A response that a framework holds. */
export interface HeldResponse {
  readonly raw: ServerResponse;
  /** Tells the framework that somebody else answers. */
  hijack(): unknown;
}

/** The response that belongs to a kind of request, where the request's type names it, as Express's does. */
export type ResponseOf<Request> = Request extends { readonly res?: infer Response }
  ? Extract<Response, ResponseLike>
  : Request extends IncomingMessage
    ? ServerResponse
    : ResponseLike;

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
  /** The requests whose answers this gate marks. */
  readonly #marked = new WeakSet<IncomingMessage>();

  /** @internal */
  constructor(flags: Flags<C>, options: GateOptions<Request>) {
    this.#pinner = new Pinner(flags, options);
  }

  /** Middleware: gathers the context and pins the flags, once a request; what fails goes to `next`. */
  readonly pin: Middleware<Request> = (request, response, next) => {
    this.#settle(request, response).then(
      () => next(),
      (error: unknown) => {
        this.#pinner.failed(error, request);
        next(error instanceof Error ? error : new FlagsError(String(error)));
      },
    );
  };

  /** As `pin`, and everything behind it runs inside `flags.run`, so that `flags.current()` gives these flags. */
  readonly run: Middleware<Request> = (request, response, next) => {
    this.pin(request, response, (error) => {
      const pinned = this.#pinner.settled(rawRequest(request))?.pinned;
      if (error !== undefined || !pinned) next(error);
      else this.#pinner.flags.run(pinned, next);
    });
  };

  /** The flags of a request that has come past `pin`. @throws {FlagsError} for one that has not */
  of(request: Request): PinnedFlags<C> {
    const pinned = this.#pinner.settled(rawRequest(request))?.pinned;
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
    closed: Closed<Handler<Request, Response>> = {},
  ): Middleware<Request> {
    return (request, response, next) => {
      this.#judge(when, request, response).then((open) => {
        if (open) next();
        else close(closed, request, response as Response, next);
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
   * A handler that goes the new way where this holds, and the old way elsewhere.
   *
   * @example app.get("/quote", booking.divert("zone-fares", { to: quoteByZone, otherwise: quoteByPortPair }))
   */
  divert<Response extends ResponseLike = ResponseOf<Request>>(
    when: OpenWhen<C>,
    { to, otherwise }: Diversion<Handler<Request, Response>>,
  ): (request: Request, response: Response, next: (error?: Error) => void) => void {
    return (request, response, next) => {
      this.#judge(when, request, response)
        .then((diverted) => (diverted ? to : otherwise)(request, response, next))
        .catch(next);
    };
  }

  /** A handler that gives a page the values of these flags as JSON. */
  values({ only }: PageOptions<NameOf<C>>): Answering<Request> {
    return answering(async (request, response) => {
      const settled = await this.#settle(request, response);
      send(response, valuesAnswer(settled, only, rawRequest(request).headers["if-none-match"]));
    });
  }

  /** A handler that streams the values of these flags to a page as server-sent events, again whenever they change. */
  changes(options: StreamOptions<NameOf<C>>): Answering<Request> {
    const hub = new ChangeHub(this.#pinner.flags, options);
    return answering(async (request, response) => {
      const settled = await this.#settle(request, response);
      if (hub.isFull) send(response, fullAnswer);
      else listen(hub, settled, rawRequest(request), response);
    });
  }

  #settle(request: Request, response: ResponseLike): Promise<PinnedRequest<C>> {
    const raw = rawRequest(request);
    const isNew = this.#pinner.settled(raw) === undefined;
    const pending = this.#pinner.pin(askedBy(request, raw));
    return isNew ? pending.then((settled) => this.#mark(settled, raw, rawResponse(response))) : pending;
  }

  /** Answers to a pass are nobody else's; they must not be kept. */
  #mark(settled: PinnedRequest<C>, request: IncomingMessage, response: ServerResponse): PinnedRequest<C> {
    const { verdictHeader: tells } = this.#pinner.options;
    if ((!settled.pass && !tells) || this.#marked.has(request)) return settled;
    this.#marked.add(request);
    onHeaders(response, () => {
      if (settled.pass) response.setHeader("cache-control", "no-store");
      const verdicts = tells ? verdictHeader(settled.pinned.asked()) : "";
      if (verdicts === "") return;
      const earlier = response.getHeader(verdictHeaderName);
      response.setHeader(verdictHeaderName, earlier === undefined ? verdicts : `${String(earlier)}, ${verdicts}`);
    });
    return settled;
  }

  async #judge(when: OpenWhen<C>, request: Request, response: ResponseLike): Promise<boolean> {
    await this.#settle(request, response).catch(() => {});
    return this.#pinner.holds(when, askedBy(request, rawRequest(request)));
  }
}

function close<Request, Response extends ResponseLike>(
  { status = 404, handler }: Closed<Handler<Request, Response>>,
  request: Request,
  response: Response,
  next: (error?: Error) => void,
): void {
  if (!handler) return send(response, closedAnswer(status));
  try {
    Promise.resolve(handler(request, response, next)).catch(next);
  } catch (error) {
    next(error as Error);
  }
}

function answering<Request>(answer: (request: Request, response: ResponseLike) => Promise<void>): Answering<Request> {
  return (request, response, next) => {
    const answered = answer(request, response);
    return next ? answered.catch(next) : answered;
  };
}

function askedBy<Request extends RequestLike>(request: Request, raw: IncomingMessage): Asked<Request> {
  return {
    key: raw,
    request,
    header: (name) => {
      const value = raw.headers[name.toLowerCase()];
      return Array.isArray(value) ? value[0] : value;
    },
  };
}

function rawRequest(request: RequestLike): IncomingMessage {
  return "raw" in request ? request.raw : request;
}

function rawResponse(response: ResponseLike): ServerResponse {
  return "raw" in response ? response.raw : response;
}

/** The raw response, with the server told that it need not answer. */
function takeOver(response: ResponseLike): ServerResponse {
  if (!("raw" in response)) return response;
  response.hijack();
  return response.raw;
}

function send(response: ResponseLike, { status, headers, body }: Answer): void {
  const raw = takeOver(response);
  if (raw.headersSent) return;
  raw.statusCode = status;
  for (const [name, value] of Object.entries(headers)) raw.setHeader(name, value);
  raw.end(body);
}

/** Begins the stream; what cannot be judged fails before it, like any other request. */
function listen<C>(
  hub: ChangeHub<C>,
  settled: PinnedRequest<C>,
  request: IncomingMessage,
  response: ResponseLike,
): void {
  const raw = rawResponse(response);
  const begin = () => {
    takeOver(response);
    raw.writeHead(200, {
      "content-type": "text/event-stream",
      "cache-control": "no-store",
      "x-accel-buffering": "no",
      // So that nothing stays open behind a stream that ended. Later versions of HTTP have no such header.
      ...(request.httpVersionMajor === 1 ? { connection: "close" } : {}),
    });
  };
  const remove = hub.add(
    {
      send: (text) => {
        if (!raw.headersSent) begin();
        raw.write(text);
      },
      waiting: () => raw.writableLength,
      end: () => void raw.end(),
      drop: () => void raw.destroy(),
    },
    settled,
  );
  request.on("close", remove);
  raw.on("close", remove);
  raw.on("error", remove);
}
