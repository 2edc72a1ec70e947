import type { NameOf } from "../catalogue/index.ts";
import { type Flags, FlagsError, type PinnedFlags } from "../flags/index.ts";
import { beside } from "./beside.ts";
import { type CacheMarks, markForCaches } from "./caching.ts";
import { ChangeHub, type Listener } from "./change-hub.ts";
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
import { verdictHeader, verdictHeaderName } from "./verdict-header.ts";

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

/** An answer that was marked. A handler may give the same one to the next request, whose marks are others. */
interface Marked {
  readonly request: Request;
  /** What these headers were before. */
  readonly before: readonly (readonly [name: string, value: string | null])[];
}

/** Requests and their flags. */
export class FetchGate<C> {
  readonly #pinner: Pinner<C, Request>;
  readonly #marks = beside<Marked>();

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
      const stream = streamOf(hub, settled, {
        signal,
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
    const earlier = this.#marks.get(response);
    if (!marks && verdicts === "" && !earlier) return response;
    const mark = (answer: Response): Response => {
      this.#marks.set(answer, { request, before: markedWith(answer.headers, marks, verdicts, earlier?.before) });
      return answer;
    };
    if (earlier && earlier.request !== request) return mark(copyOf(response));
    try {
      return mark(response);
    } catch {
      // The headers of an answer that came from elsewhere cannot be changed.
      return mark(copyOf(response));
    }
  }
}

/** Marks an answer's headers. @returns what they were before */
function markedWith(
  headers: Headers,
  marks: CacheMarks | undefined,
  verdicts: string,
  known: Marked["before"] | undefined,
): Marked["before"] {
  const before = [...(known ?? [])];
  for (const [name, value] of before) put(headers, name, value);
  const get = (name: string) => {
    const value = headers.get(name);
    if (!known) before.push([name, value]);
    return value ?? undefined;
  };
  if (marks) markForCaches({ get, set: (name, value) => headers.set(name, value) }, marks);
  if (verdicts === "") return before;
  get(verdictHeaderName);
  headers.append(verdictHeaderName, verdicts);
  return before;
}

function copyOf({ body, status, statusText, headers }: Response): Response {
  return new Response(body, { status, statusText, headers: new Headers(headers) });
}

function put(headers: Headers, name: string, value: string | null): void {
  if (value === null) headers.delete(name);
  else headers.set(name, value);
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

/** Counted in characters: an approximation that is exact for ASCII, which JSON mostly is. */
const buffered = 1 << 20;

function streamOf<C>(
  hub: ChangeHub<C>,
  settled: PinnedRequest<C>,
  {
    signal,
    ...more
  }: Pick<Listener<C>, "isLast" | "again" | "failed" | "known" | "address"> & { readonly signal: AbortSignal },
): ReadableStream<Uint8Array> {
  const encoder = new TextEncoder();
  let remove: (() => void) | undefined;
  return new ReadableStream<Uint8Array>(
    {
      start(controller) {
        const ending = (how: () => void) => () => {
          remove?.();
          remove = undefined;
          signal.removeEventListener("abort", end);
          try {
            how();
          } catch {
            // It was closed from the other side.
          }
        };
        const end = ending(() => controller.close());
        remove = hub.add(
          {
            send: (text) => {
              try {
                controller.enqueue(encoder.encode(text));
              } catch {
                end();
              }
            },
            waiting: () => buffered - (controller.desiredSize ?? buffered),
            end,
            // What waits is forgotten, which a stream that is merely closed would still hand out.
            drop: ending(() => controller.error(new FlagsError("The client takes nothing."))),
            ...more,
          },
          settled,
        );
        signal.addEventListener("abort", end);
        if (signal.aborted) end();
      },
      cancel() {
        remove?.();
      },
    },
    new ByteLengthQueuingStrategy({ highWaterMark: buffered }),
  );
}
