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
  const door = new DeskDoor(desk, options);
  const at = trimmed(options.at ?? "");
  const handler = (request: MountedRequest, response: ServerResponse): void =>
    door.handle(request, response, options.at === undefined ? trimmed(request.baseUrl ?? "") : at);
  return Object.assign(handler, {
    fetch: (request: globalThis.Request) => door.answer(request, request, at),
    close: () => desk.close(),
  });
}

/** Where a desk lets people in. */
class DeskDoor<Asker> {
  readonly #options: DeskOptions<Asker>;
  readonly #access: Access;
  readonly #failed: (error: unknown) => void;
  readonly #routes: ReturnType<typeof deskRoutes>;

  constructor(desk: DeskFolder, options: DeskOptions<Asker>) {
    this.#options = options;
    this.#access = new Access(options.hosts, options.secret);
    this.#failed = options.failed ?? (() => {});
    this.#routes = deskRoutes({
      desk,
      access: this.#access,
      scales: new DeskScales(options.weighing),
      environment: options.environment,
      readOnly: options.readOnly === true,
      clock: options.clock ?? Date.now,
      failed: this.#failed,
    });
  }

  /** Answers a request of a server of Node's. */
  handle(request: MountedRequest, response: ServerResponse, at: string): void {
    const path = request.originalUrl ?? request.url ?? "/";
    // What a framework has read of the body already is not to be had once more.
    if (request.body !== undefined && request.readableEnded)
      request.rawBody = Buffer.from(JSON.stringify(request.body));
    const listener = getRequestListener(
      (asked) => this.answer(new Request(new URL(path, asked.url), asked), request, at),
      { overrideGlobalObjects: false },
    );
    void listener(request, response);
  }

  /** Answers a request. Strangers get the same answer at every address, after the same question. */
  async answer(request: globalThis.Request, asker: unknown, at: string): Promise<Response> {
    const visitor = await this.#askWho(asker);
    const url = new URL(request.url);
    const isHere = url.pathname === at || url.pathname.startsWith(`${at}/`);
    if (!isHere || !visitor?.may.includes("look")) return nothingHere();
    // A request of the Fetch standard says its host in the address.
    if (!this.#isOwnName(request.headers.get("host") ?? url.host)) return nothingHere();
    // The addresses of the page are relative to its own.
    if (url.pathname === at)
      return new Response(undefined, { status: 308, headers: { ...guards, location: `${at}/${url.search}` } });
    url.pathname = url.pathname.slice(at.length);
    return this.#routes.fetch(new Request(url, request), { visitor, askAgain: () => this.#askWho(asker) });
  }

  /** Where it cannot be told who asks, nobody does. */
  async #askWho(asker: unknown): Promise<Visitor | undefined> {
    try {
      return (await inTime(this.#options.who(asker as Asker))) ?? undefined;
    } catch (error) {
      this.#failed(error);
      return undefined;
    }
  }

  #isOwnName(host: string): boolean {
    if (this.#access.isServedUnder(host)) return true;
    this.#failed(new Error(`The desk was asked for under the name ${host}. Where it is its own, add it to \`hosts\`.`));
    return false;
  }
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
