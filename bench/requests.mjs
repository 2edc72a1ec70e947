// Sends requests from a process of its own, so that the server's CPU time is the server's alone.
import { fork } from "node:child_process";
import { once } from "node:events";
import { Agent, get } from "node:http";

/** @returns a client of the server at this port: `ask(path, count)` comes back when so many answers have come */
export function requestsTo(port) {
  const child = fork(import.meta.filename, [String(port)], { execArgv: [] });
  return {
    async ask(path, count) {
      child.send({ path, count });
      await once(child, "message");
    },
    close: () => child.disconnect(),
  };
}

if (process.argv[1] === import.meta.filename) {
  const port = Number(process.argv[2]);
  const agent = new Agent({ keepAlive: true, maxSockets: 8 });
  const once = (path) =>
    new Promise((resolve, reject) => {
      get({ port, host: "127.0.0.1", path, agent }, (response) => response.resume().on("end", resolve)).on(
        "error",
        reject,
      );
    });
  process.on("message", async ({ path, count }) => {
    let left = count;
    const take = async () => {
      while (left-- > 0) await once(path);
    };
    await Promise.all(Array.from({ length: 8 }, take));
    process.send("done");
  });
}
