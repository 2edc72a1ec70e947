import { createReadStream } from "node:fs";
import { createServer, type RequestListener, type ServerResponse } from "node:http";
import type { AddressInfo } from "node:net";
import { onTestFinished } from "vitest";

/** Sends a file as a web server does: what is not there is answered by 404. */
export function sendFile(path: string, response: ServerResponse): void {
  createReadStream(path)
    .on("error", () => response.writeHead(404).end())
    .pipe(response);
}

/** A plain server until the test is over. @returns its address */
export async function serve(listener: RequestListener): Promise<string> {
  const server = createServer(listener);
  await new Promise<void>((resolve) => server.listen(0, "127.0.0.1", resolve));
  onTestFinished(() => {
    server.closeAllConnections();
    server.close();
  });
  return `http://127.0.0.1:${(server.address() as AddressInfo).port}`;
}
