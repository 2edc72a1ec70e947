import { parentPort } from "node:worker_threads";
import { locateHere } from "./located.ts";
import { parseText } from "./parse.ts";
import type { Job } from "./parser.ts";

/** Works on texts beside the main thread: YAML with its positions takes long, and a service must go on answering. */
parentPort?.on("message", ({ id, file, text, spots }: Job & { readonly id: number }) => {
  parentPort?.postMessage({ id, done: spots ? locateHere(file, text, spots) : parseText(file, text) });
});
