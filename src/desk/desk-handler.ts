import type { IncomingMessage, ServerResponse } from "node:http";
import { getRequestListener } from "@hono/node-server";
import { Access } from "./access.ts";
import { guards, nothingHere } from "./answering.ts";
import { DeskFolder } from "./desk-folder.ts";
import type { DeskOptions } from "./options.ts";
import type { Visitor } from "./protocol.ts";
import { deskRoutes } from "./routes.ts";
import { DeskScales } from "./weighing.ts";

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
  const access = new Access(options.hosts, options.secret);
  const app = deskRoutes({
    desk,
    access,
    scales: new DeskScales(options.weighing),
    environment: options.environment,
    readOnly: options.readOnly === true,
    clock: options.clock ?? Date.now,
    failed,
  });

  /** Where it cannot be told who asks, nobody does. */
  const askWho = async (asker: unknown): Promise<Visitor | undefined> => {
    try {
      return (await inTime(options.who(asker as Request))) ?? undefined;
    } catch (error) {
      failed(error);
      return undefined;
    }
  };

  const isOwnName = (host: string): boolean => {
    if (access.isServedUnder(host)) return true;
    failed(new Error(`The desk was asked for under the name ${host}. Where it is its own, add it to \`hosts\`.`));
    return false;
  };

  /**
   * Answers a request. Strangers get the same answer at every address, after the same question.
   */
  const answer = async (request: globalThis.Request, asker: unknown, at: string): Promise<Response> => {
    const visitor = await askWho(asker);
    const url = new URL(request.url);
    const isHere = url.pathname === at || url.pathname.startsWith(`${at}/`);
    if (!isHere || !visitor?.may.includes("look")) return nothingHere();
    // A request of the Fetch standard says its host in the address.
    if (!isOwnName(request.headers.get("host") ?? url.host)) return nothingHere();
    // The addresses of the page are relative to its own.
    if (url.pathname === at)
      return new Response(undefined, { status: 308, headers: { ...guards, location: `${at}/${url.search}` } });
    url.pathname = url.pathname.slice(at.length);
    return app.fetch(new Request(url, request), { visitor, askAgain: () => askWho(asker) });
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

/** How long a program may take to say who asks, in milliseconds. */
const longestWho = 5_000;

async function inTime<T>(who: T | Promise<T>): Promise<T> {
  let timer: NodeJS.Timeout | undefined;
  const late = new Promise<never>((_, reject) => {
    const tell = () => reject(new Error(`It was not said for ${longestWho / 1_000} s who asks at the desk.`));
    timer = setTimeout(tell, longestWho);
  });
  try {
    return await Promise.race([who, late]);
  } finally {
    clearTimeout(timer);
  }
}

/** `/desk` of `/desk/`, and nothing of `/`. */
function trimmed(path: string): string {
  return path.replace(/\/+$/, "");
}
