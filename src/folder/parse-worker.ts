import { parentPort } from "node:worker_threads";
import { parseText } from "./parse.ts";

/** Parses texts beside the main thread: YAML with its positions takes long, and a service must go on answering. */
parentPort?.on("message", ({ id, file, text }: { id: number; file: string; text: string }) => {
  parentPort?.postMessage({ id, parsed: parseText(file, text) });
});
