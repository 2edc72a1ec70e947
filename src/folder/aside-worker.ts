import { parentPort } from "node:worker_threads";
import { buffersOf } from "../ids/index.ts";
import { doHere, type Job } from "./aside.ts";

/** Works on large texts and lists beside the main thread: a service must go on answering meanwhile. */
parentPort?.on("message", async (job: Job) => {
  const done = await doHere(job);
  parentPort?.postMessage(done, "packed" in done ? buffersOf(done.packed) : []);
});
