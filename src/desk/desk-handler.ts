import type { IncomingMessage, ServerResponse } from "node:http";
import { getRequestListener } from "@hono/node-server";
import { Access } from "./access.ts";
import { DeskFolder } from "./desk-folder.ts";
import type { DeskOptions } from "./options.ts";
import type { Visitor } from "./protocol.ts";
import { deskRoutes } from "./routes.ts";

/**
 * A desk, mounted: a handler for servers that hand `(request, response)` around, and one in the style of the Fetch
 * standard.
 */
export interface Desk {
  (request: IncomingMessage, response: ServerResponse): void;
  /** Answers a request of the Fetch standard. */
  fetch(request: Request): Promise<Response>;
  /** Ends everything that the desk holds open, the streams of pages included. */
  close(): Promise<void>;
}

/** What a web framework adds to a request. */
interface MountedRequest extends IncomingMessage {
  readonly originalUrl?: string;
  readonly baseUrl?: string;
  readonly body?: unknown;
  rawBody?: Buffer;
}

/**
 * Serves the desk over a definition folder, behind the sign-in of the program that mounts it.
 *
 * @example
 * const desk = deskHandler({ folder: "./flags", who: (request) => crewMember(request), hosts: ["booking.ternhaven.example"] });
 * app.use("/desk", desk); // Express; elsewhere say `at: "/desk"`
 */
export function deskHandler<Request = IncomingMessage>(options: DeskOptions<Request>): Desk {
  const desk = new DeskFolder(options);
  const failed = options.failed ?? (() => {});
  const app = deskRoutes({
    desk,
    access: new Access(options.hosts, options.secret),
    environment: options.environment,
    readOnly: options.readOnly === true,
    clock: options.clock ?? Date.now,
    failed,
  });

  /** Answers a request whose path has lost what stands in front of the desk. */
  const answer = async (request: globalThis.Request, asker: unknown, at: string): Promise<Response> => {
    const url = new URL(request.url);
    const isHere = url.pathname === at || url.pathname.startsWith(`${at}/`);
    if (!isHere) return app.fetch(new Request(new URL("/", url), { headers: request.headers }), { visitor: undefined });
    // The addresses of the page are relative to its own.
    if (url.pathname === at)
      return new Response(undefined, { status: 308, headers: { location: `${at}/${url.search}` } });
    let visitor: Visitor | undefined;
    try {
      visitor = (await options.who(asker as Request)) ?? undefined;
    } catch (error) {
      failed(error);
      return unknown();
    }
    url.pathname = url.pathname.slice(at.length);
    return app.fetch(new Request(url, request), { visitor });
  };

  const handler = (request: MountedRequest, response: ServerResponse): void => {
    const at = trimmed(options.at ?? request.baseUrl ?? "");
    const path = request.originalUrl ?? request.url ?? "/";
    // What a framework has read of the body already is not to be had once more.
    if (request.body !== undefined && request.readableEnded)
      request.rawBody = Buffer.from(JSON.stringify(request.body));
    const listener = getRequestListener((asked) => answer(new Request(new URL(path, asked.url), asked), request, at), {
      overrideGlobalObjects: false,
    });
    void listener(request, response);
  };
  return Object.assign(handler, {
    fetch: (request: globalThis.Request) => answer(request, request, trimmed(options.at ?? "")),
    close: () => desk.close(),
  });
}

/** Where it cannot be told who asks, nobody is answered. */
function unknown(): Response {
  return new Response("It cannot be told who you are.", { status: 500, headers: { "content-type": "text/plain" } });
}

/** `/desk` of `/desk/`, and nothing of `/`. */
function trimmed(path: string): string {
  return path.replace(/\/+$/, "");
}
