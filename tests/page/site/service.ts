import { createServer, type Server } from "node:http";
import type { AddressInfo } from "node:net";
import { join } from "node:path";
import files from "@fastify/static";
import express, { type Express, type Request } from "express";
import fastify, { type FastifyRequest } from "fastify";
import { type Flags, followFlags, type VerdictEvent } from "iudex";
import { nodeGate } from "iudex/http";
import type { Told } from "iudex/page";
import { catalogue, pageFlags } from "./catalogue.ts";

const nonce = "c2VjcmV0";
const policy = `default-src 'none'; script-src 'nonce-${nonce}'; connect-src 'self'; worker-src 'self'; base-uri 'none'`;

type Render = (first: Told) => string;

/** A page whose first values are in its markup, and whose script may do what a strict policy allows. */
function markup(path: string, body: () => string, first: string): string {
  const [name, inside] = path === "/plain" ? ["plain", '<p id="seats"></p>'] : ["client", body()];
  return `<!doctype html><html lang="en"><head><meta charset="utf-8"><title>Ternhaven Ferries</title>
<meta name="viewport" content="width=device-width, initial-scale=1"></head>
<body><div id="app">${inside}</div>${first}<script type="module" nonce="${nonce}" src="/${name}.js"></script></body></html>`;
}

/** Who has signed in; somebody by default. */
function signedIn(cookie: string | undefined): string {
  return /\bwho=([\w-]+)/.exec(cookie ?? "")?.[1] ?? "A-1";
}

/** The service of the page, as a program would write it. */
export class Site {
  readonly #folder: string;
  readonly #built: string;
  readonly #kind: "Express" | "Fastify";
  readonly seen: VerdictEvent[] = [];
  /** Streams are cut as soon as they begin, as by something on the way that does not know them. */
  cutsStreams = false;
  /** Streams that began. */
  streams = 0;
  flags!: Flags<typeof catalogue>;
  port = 0;
  #server: Server | undefined;

  constructor(kind: "Express" | "Fastify", folder: string, built: string) {
    this.#kind = kind;
    this.#folder = folder;
    this.#built = built;
  }

  get address(): string {
    return `http://127.0.0.1:${this.port}`;
  }

  async start(): Promise<void> {
    const { render } = (await import(join(this.#built, "server/server.mjs"))) as { render: Render };
    this.flags = await followFlags(this.#folder, { catalogue, watch: { quiet: 20 } });
    this.flags.on("verdict", (event) => void this.seen.push(event), { asked: "seen" });
    const app = this.#kind === "Express" ? this.#express(render) : await this.#fastify(render);
    this.#server = app;
    await new Promise<void>((resolve) => app.listen(this.port, "127.0.0.1", resolve));
    this.port = (app.address() as AddressInfo).port;
  }

  /** Ends at once, as a process that is killed does. */
  async kill(): Promise<void> {
    const server = this.#server!;
    const gone = new Promise<void>((resolve) => server.close(() => resolve()));
    server.closeAllConnections();
    await gone;
    await this.flags.close();
  }

  #express(render: Render): Server {
    const gate = nodeGate<typeof catalogue, Request>(this.flags, {
      context: (request) => ({ account: { id: String(request.query["who"] ?? signedIn(request.headers.cookie)) } }),
    });
    const app: Express = express();
    app.use(express.static(join(this.#built, "client")));
    app.get("/changes", (request, _response, next) => (this.#cut(request.socket) ? undefined : next()));
    app.get("/changes", gate.changes({ only: pageFlags, every: 500 }));
    app.get("/values", gate.values({ only: pageFlags }));
    app.post("/seen", gate.seen({ only: pageFlags }));
    app.get(["/", "/plain"], gate.pin, (request, response) => {
      const first = gate.pageValues(request, { only: pageFlags });
      const script = gate.pageScript(request, { only: pageFlags, nonce });
      response.setHeader("content-security-policy", policy).send(markup(request.path, () => render(first), script));
    });
    return createServer(app);
  }

  async #fastify(render: Render): Promise<Server> {
    const gate = nodeGate<typeof catalogue, FastifyRequest>(this.flags, {
      context: ({ headers }) => ({ account: { id: signedIn(headers.cookie) } }),
    });
    const app = fastify();
    await app.register(files, { root: join(this.#built, "client"), index: false });
    app.get("/changes", {
      preHandler: (request, reply, next) => {
        if (!this.#cut(request.raw.socket)) return next();
        reply.hijack();
      },
      handler: gate.changes({ only: pageFlags, every: 500 }),
    });
    app.get("/values", gate.values({ only: pageFlags }));
    app.post("/seen", gate.seen({ only: pageFlags }));
    for (const path of ["/", "/plain"]) {
      app.get(path, { preHandler: gate.pin }, (request, reply) => {
        const first = gate.pageValues(request, { only: pageFlags });
        const script = gate.pageScript(request, { only: pageFlags, nonce });
        void reply.header("content-security-policy", policy).type("text/html; charset=utf-8");
        return markup(path, () => render(first), script);
      });
    }
    await app.ready();
    return app.server;
  }

  #cut(socket: { destroy(): unknown }): boolean {
    this.streams++;
    if (this.cutsStreams) socket.destroy();
    return this.cutsStreams;
  }
}
