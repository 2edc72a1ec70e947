import type { IncomingMessage, ServerResponse } from "node:http";
import type { AnswerHeaders } from "./caching.ts";
import type { ChangeHub, Listener } from "./change-hub.ts";
import type { Answer } from "./page-values.ts";
import type { PinnedRequest } from "./pinner.ts";

/** A request of `node:http`, or something that holds one as `raw`. */
export type RequestLike = IncomingMessage | { readonly raw: IncomingMessage };

/** A response of `node:http`, or something that holds one as `raw` and can be told that it was answered. */
export type ResponseLike = ServerResponse | HeldResponse;

/** A response that a framework holds. */
export interface HeldResponse {
  readonly raw: ServerResponse;
  /** Tells the framework that somebody else answers. */
  hijack(): unknown;
  /** The headers that hooks have set so far. */
  getHeaders?(): Readonly<Record<string, number | string | readonly string[] | undefined>>;
}

/** The response that belongs to a kind of request, where the request's type names it, as Express's does. */
export type ResponseOf<Request> = Request extends { readonly res?: infer Response }
  ? Extract<Response, ResponseLike>
  : Request extends IncomingMessage
    ? ServerResponse
    : ResponseLike;

export function rawRequest(request: RequestLike): IncomingMessage {
  return "raw" in request ? request.raw : request;
}

export function rawResponse(response: ResponseLike): ServerResponse {
  return "raw" in response ? response.raw : response;
}

/** Nobody is there any more to be answered. */
export function isGone(raw: ServerResponse): boolean {
  return raw.destroyed || raw.closed || raw.writableEnded || raw.socket?.destroyed === true;
}

/** The raw response, with the framework told that it need not answer, and what its hooks set kept. */
function takeOver(response: ResponseLike): ServerResponse {
  if (!("raw" in response)) return response;
  const { raw } = response;
  if (!raw.headersSent) {
    for (const [name, value] of Object.entries(response.getHeaders?.() ?? {}))
      if (value !== undefined) raw.setHeader(name, value as number | string | string[]);
  }
  response.hijack();
  return raw;
}

export function send(response: ResponseLike, { status, headers, body }: Answer): void {
  const raw = takeOver(response);
  if (raw.headersSent || isGone(raw)) return;
  raw.statusCode = status;
  for (const [name, value] of Object.entries(headers)) raw.setHeader(name, value);
  raw.end(body);
}

/** What somebody sent, where a framework has read it already. */
export function readBody(request: RequestLike): unknown {
  return (request as { readonly body?: unknown }).body;
}

/** Begins the stream; what cannot be judged fails before it, like any other request. */
export function listen<C>(
  hub: ChangeHub<C>,
  settled: PinnedRequest<C>,
  {
    request,
    response,
    ...more
  }: Pick<Listener<C>, "isLast" | "again" | "failed" | "address"> & {
    readonly request: IncomingMessage;
    readonly response: ResponseLike;
  },
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
      known: request.headers["last-event-id"] as string | undefined,
      ...more,
    },
    settled,
  );
  raw.on("close", remove);
  raw.on("error", remove);
}

/** A server that was closed takes nobody any more, and lives on until its last answer has ended. */
export function isClosing({ socket }: IncomingMessage): boolean {
  const { server } = socket as { readonly server?: { readonly listening?: boolean } };
  return server?.listening === false;
}

/** The headers of an answer, as caches look at them. */
export function headersOf(response: ServerResponse): AnswerHeaders {
  return {
    get: (name) => {
      const value = response.getHeader(name);
      return value === undefined ? undefined : String(value);
    },
    set: (name, value) => void response.setHeader(name, value),
  };
}
