import { createServer, type RequestListener } from "node:http";
import type { AddressInfo } from "node:net";
import { onTestFinished } from "vitest";

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
