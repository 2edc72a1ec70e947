import type { Flags, NameOf, PinnedFlags } from "../runtime/index.ts";
import { ChangeHub } from "./change-hub.ts";
import type { Closed, Diversion, GateOptions, PageOptions, StreamOptions } from "./gate-options.ts";
import { not, type OpenWhen } from "./open-when.ts";
import { type Answer, closedAnswer, fullAnswer, valuesAnswer } from "./page-values.ts";
import { type Asked, type PinnedRequest, Pinner } from "./pinner.ts";
import { verdictHeader, verdictHeaderName } from "./verdict-header.ts";

/** A handler in the style of the Fetch standard. */
export type FetchHandler<Rest extends readonly unknown[] = readonly []> = (
  request: Request,
  ...rest: Rest
) => Response | Promise<Response>;

/**
 * Pins requests to flags for handlers in the style of the Fetch standard: a `Request` in, a `Response` out.
 *
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

  /** @internal */
  constructor(flags: Flags<C>, options: GateOptions<Request>) {
    this.#pinner = new Pinner(flags, options);
  }

  /** The flags of a request; the context is gathered once. */
  async of(request: Request): Promise<PinnedFlags<C>> {
    return (await this.#pinner.pin(askedBy(request))).pinned;
  }

  /** Wraps a handler: the context is gathered before it, and the answer is marked as it must be. */
  pin<Rest extends readonly unknown[]>(handler: FetchHandler<Rest>): FetchHandler<Rest> {
    return async (request, ...rest) => {
      const settled = await this.#pinner.pin(askedBy(request));
      return this.#marked(await handler(request, ...rest), settled);
    };
  }

  /** As `pin`, and the handler runs inside `flags.run`, so that `flags.current()` gives these flags. */
  run<Rest extends readonly unknown[]>(handler: FetchHandler<Rest>): FetchHandler<Rest> {
    return this.pin(async (request, ...rest) => {
      const { pinned } = await this.#pinner.pin(askedBy(request));
      return this.#pinner.flags.run(pinned, () => handler(request, ...rest));
    });
  }

  /** Wraps a handler: closed unless this holds; not found by default. What cannot be judged is closed. */
  closedUnless<Rest extends readonly unknown[]>(
    when: OpenWhen<C>,
    handler: FetchHandler<Rest>,
    { status = 404, handler: instead }: Closed<FetchHandler<Rest>> = {},
  ): FetchHandler<Rest> {
    const shut: FetchHandler<Rest> = instead ?? (() => responseOf(closedAnswer(status)));
    return this.divert(when, { to: handler, otherwise: shut });
  }

  /** Wraps a handler: closed while this flag is true, and open only where it was judged and is not. */
  closedWhile<Rest extends readonly unknown[]>(
    flag: OpenWhen<C>,
    handler: FetchHandler<Rest>,
    closed: Closed<FetchHandler<Rest>> = {},
  ): FetchHandler<Rest> {
    return this.closedUnless(not<C>(flag), handler, closed);
  }

  /** A handler that goes the new way where this holds, and the old way elsewhere. */
  divert<Rest extends readonly unknown[]>(
    when: OpenWhen<C>,
    { to, otherwise }: Diversion<FetchHandler<Rest>>,
  ): FetchHandler<Rest> {
    return async (request, ...rest) => {
      const asked = askedBy(request);
      const holds = await this.#pinner.holds(when, asked);
      const response = await (holds ? to : otherwise)(request, ...rest);
      const settled = this.#pinner.settled(asked.key);
      return settled ? this.#marked(response, settled) : response;
    };
  }

  /** A handler that gives a page the values of these flags as JSON. */
  values({ only }: PageOptions<NameOf<C>>): FetchHandler {
    return async (request) => {
      const settled = await this.#pinner.pin(askedBy(request));
      const answer = valuesAnswer(settled, only, request.headers.get("if-none-match") ?? undefined);
      return this.#marked(responseOf(answer), settled);
    };
  }

  /** A handler that streams the values of these flags to a page as server-sent events, again whenever they change. */
  changes(options: StreamOptions<NameOf<C>>): FetchHandler {
    const hub = new ChangeHub(this.#pinner.flags, options);
    return async (request) => {
      const settled = await this.#pinner.pin(askedBy(request));
      if (hub.isFull) return responseOf(fullAnswer);
      const headers = { "content-type": "text/event-stream", "cache-control": "no-store" };
      return this.#marked(new Response(streamOf(hub, settled, request.signal), { headers }), settled);
    };
  }

  #marked(response: Response, { pass, pinned }: PinnedRequest<C>): Response {
    const verdicts = this.#pinner.options.verdictHeader ? verdictHeader(pinned.asked()) : "";
    if (!pass && verdicts === "") return response;
    // The headers of an answer that came from elsewhere cannot be changed.
    const headers = new Headers(response.headers);
    if (pass) headers.set("cache-control", "no-store");
    if (verdicts !== "") headers.append(verdictHeaderName, verdicts);
    const { status, statusText } = response;
    return new Response(response.body, { status, statusText, headers });
  }
}

function askedBy(request: Request): Asked<Request> {
  return { key: request, request, header: (name) => request.headers.get(name) ?? undefined };
}

function responseOf({ status, headers, body }: Answer): Response {
  return new Response(status === 304 ? null : body, { status, headers });
}

/** Counted in characters: an approximation that is exact for ASCII, which JSON mostly is. */
const buffered = 1 << 20;

function streamOf<C>(hub: ChangeHub<C>, settled: PinnedRequest<C>, signal: AbortSignal): ReadableStream<Uint8Array> {
  const encoder = new TextEncoder();
  let remove: (() => void) | undefined;
  return new ReadableStream<Uint8Array>(
    {
      start(controller) {
        const end = () => {
          remove?.();
          remove = undefined;
          try {
            controller.close();
          } catch {
            // It was closed from the other side.
          }
        };
        const listener = {
          send: (text: string) => {
            try {
              controller.enqueue(encoder.encode(text));
            } catch {
              end();
            }
          },
          waiting: () => buffered - (controller.desiredSize ?? buffered),
          end,
          drop: end,
        };
        remove = hub.add(listener, settled);
        signal.addEventListener("abort", end);
      },
      cancel() {
        remove?.();
      },
    },
    new ByteLengthQueuingStrategy({ highWaterMark: buffered }),
  );
}
