import { parentPort } from "node:worker_threads";
import type { Job } from "./parser.ts";
import { locateHere, readSource } from "./text-reader.ts";

/** Works on texts beside the main thread: YAML with its positions takes long, and a service must go on answering. */
parentPort?.on("message", async ({ id, file, text, spots }: Job & { readonly id: number }) => {
  parentPort?.postMessage({ id, done: await (spots ? locateHere(file, text, spots) : readSource(file, text)) });
});
