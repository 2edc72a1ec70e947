import { parentPort } from "node:worker_threads";
import { buffersOf } from "../../ids/index.ts";
import { inParts } from "./parts.ts";
import { doHere, type Job } from "./reading-worker.ts";

/** Works on large texts and lists beside the main thread: a service must go on answering meanwhile. */
parentPort?.on("message", async (job: Job) => {
  const done = await doHere(job);
  if ("data" in done) {
    const parted = inParts(done);
    parentPort?.postMessage(
      parted,
      parted.parts.map(({ buffer }) => buffer),
    );
  } else parentPort?.postMessage(done, "packed" in done ? buffersOf(done.packed) : []);
});
