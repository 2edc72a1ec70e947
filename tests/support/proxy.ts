import { createConnection, createServer, type Socket } from "node:net";
import { onTestFinished } from "vitest";

/** A way between a client and a server on which packets can vanish, without any connection being closed. */
export interface Proxy {
  readonly port: number;
  /** Connections that are open now, oldest first. */
  readonly open: readonly Way[];
  /** What becomes of connections that come from now on. */
  fresh: Loss;
}

/** Which packets vanish. */
export type Loss = "none" | "both" | "to the client" | "to the server";

interface Way {
  loss: Loss;
}

/** A proxy to a port of this machine, until the test is over. */
export async function startProxy(to: number): Promise<Proxy> {
  const open: (Way & { readonly sockets: readonly Socket[] })[] = [];
  const proxy = { port: 0, open, fresh: "none" as Loss };
  const server = createServer((client) => {
    const engine = createConnection(to, "127.0.0.1");
    const way = { loss: proxy.fresh, sockets: [client, engine] };
    open.push(way);
    client.on("data", (bytes) => {
      if (way.loss !== "both" && way.loss !== "to the server") engine.write(bytes);
    });
    engine.on("data", (bytes) => {
      if (way.loss !== "both" && way.loss !== "to the client") client.write(bytes);
    });
    const end = () => {
      for (const socket of way.sockets) socket.destroy();
      if (open.includes(way)) open.splice(open.indexOf(way), 1);
    };
    for (const socket of way.sockets) {
      socket.on("error", end);
      // A peer that closes cannot be heard where packets vanish.
      socket.on("close", () => way.loss === "none" && end());
    }
  });
  await new Promise<void>((resolve) => server.listen(0, "127.0.0.1", resolve));
  onTestFinished(() => {
    server.close();
    for (const { sockets } of [...open]) for (const socket of sockets) socket.destroy();
  });
  proxy.port = (server.address() as { port: number }).port;
  return proxy;
}
