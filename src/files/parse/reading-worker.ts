import { Worker } from "node:worker_threads";
import type { ProblemCode } from "../../problems/index.ts";
import { limits } from "../../values/index.ts";
import type { Entry } from "../files.ts";
import type { Located } from "../places/located.ts";
import { reasonOf } from "../reason.ts";
import { inSlices } from "../slices.ts";
import { type ListJob, type PackedList, readPackedList } from "./packed-list.ts";
import { isJson, type ParsedText, type Spot } from "./parsed-file.ts";
import { fromParts, type PartedText } from "./parts.ts";
import { locateHere, readSmall, readSource } from "./text-reader.ts";

/** Texts up to this size are worked on at once: handing them over would take longer. In UTF-16 units. */
const smallText = 8_192;

/** JSON is parsed so much faster that larger texts are worth no thread either: about two milliseconds. */
const smallJson = 131_072;

/** Lists up to this size likewise, in bytes. */
const smallList = 32_768;

/** An idle thread is let go after this many milliseconds. */
const idleTime = 2_000;

/** A list to be read, and where it is. */
export interface ListFile {
  readonly request: ListJob["request"];
  readonly entry: Entry;
}

/** A text to be parsed, one in which places are to be found, or a list to be read. */
export type Job =
  | { readonly kind: "parse"; readonly file: string; readonly text: string }
  | { readonly kind: "locate"; readonly file: string; readonly text: string; readonly spots: readonly Spot[] }
  | ({ readonly kind: "list" } & ListJob);

export type Done = ParsedText | PartedText | Located[] | PackedList;

/** Why a job was given up: with it the thread would have taken too long, or too much memory. */
export interface GivenUp {
  readonly code: ProblemCode & ("reading-too-long" | "reading-too-much");
  readonly message: string;
  readonly expected: string;
}

interface Waiting {
  readonly job: Job;
  readonly resolve: (done: Done | GivenUp | Promise<Done>) => void;
}

/** How much a job may take. */
export interface WorkerLimits {
  /** The longest that a job may take, in milliseconds. */
  readonly readingTime: number;
  /** The memory that the thread may take, in MB. */
  readonly readingMemory: number;
}

const workerFile = new URL("./reading-thread.js", import.meta.url);

/**
 * Works on what is small here and on what is large in a worker thread, one job after the other. The thread is started
 * when first needed, and let go when it has been idle; it has so much memory and each job so much time, and what would
 * take more is given up. Where no thread can be had, large things are worked on here too. Each folder has one of its own.
 */
export class ReadingWorker {
  readonly #limits: WorkerLimits;
  readonly #file: URL;
  #worker: Worker | undefined;
  #idle: NodeJS.Timeout | undefined;
  #overdue: NodeJS.Timeout | undefined;
  /** The first of them is being worked on. */
  readonly #waiting: Waiting[] = [];

  constructor(most: WorkerLimits = limits, file: URL = workerFile) {
    this.#limits = most;
    this.#file = file;
  }

  async parse(file: string, text: string): Promise<ParsedText> {
    if (text.length <= smallText) return readSmall(file, text);
    if (isJson(file) && text.length <= smallJson) return readSource(file, text);
    const done = (await this.#do({ kind: "parse", file, text })) as ParsedText | PartedText | GivenUp;
    if ("parts" in done) return inSlices(fromParts(done));
    if (!("code" in done)) return done;
    return { data: undefined, spellings: new Map(), faults: [{ ...done, range: { start: 0, end: 0 } }] };
  }

  async locate(file: string, text: string, spots: readonly Spot[]): Promise<Located[]> {
    if (text.length <= smallText) return locateHere(file, text, spots);
    const done = (await this.#do({ kind: "locate", file, text, spots })) as Located[] | GivenUp;
    return "code" in done ? spots.map(() => ({ range: { start: 0, end: 0 }, after: "" })) : done;
  }

  /** Reads a list file; what cannot be read now is a fault that may pass. */
  async list({ request, entry }: ListFile): Promise<PackedList | GivenUp> {
    let bytes: Uint8Array;
    try {
      bytes = await entry.bytes();
    } catch (error) {
      const message = `This file cannot be read: ${reasonOf(error)}.`;
      return { fault: { code: "list-missing", message, expected: "a file that this process may read" }, failed: true };
    }
    if (bytes.length <= smallList) return readPackedList({ request, bytes });
    return this.#do({ kind: "list", request, bytes }) as Promise<PackedList | GivenUp>;
  }

  /** Ends the thread, whatever it is working on: nobody waits for that any more. */
  end(): void {
    clearTimeout(this.#idle);
    clearTimeout(this.#overdue);
    this.#waiting.length = 0;
    this.#letGo();
  }

  /** Lets the thread go; a later job starts another. */
  close(): void {
    clearTimeout(this.#idle);
    if (this.#waiting.length === 0) this.#letGo();
  }

  #do(job: Job): Promise<Done | GivenUp> {
    return new Promise((resolve) => {
      clearTimeout(this.#idle);
      this.#waiting.push({ job, resolve });
      if (this.#waiting.length === 1) this.#next();
    });
  }

  #next(): void {
    const [first] = this.#waiting;
    if (!first) return this.#rest();
    const worker = this.#start();
    if (!worker) return this.#workHere();
    // While something is being worked on the process must not end; an idle thread keeps nobody waiting.
    worker.ref();
    worker.postMessage(first.job);
    this.#overdue = setTimeout(() => this.#giveUp(tooLong(this.#limits)), this.#limits.readingTime);
  }

  #rest(): void {
    this.#worker?.unref();
    this.#idle = setTimeout(() => this.#letGo(), idleTime);
    this.#idle.unref();
  }

  #start(): Worker | undefined {
    if (this.#worker) return this.#worker;
    try {
      const worker = new Worker(this.#file, {
        resourceLimits: { maxOldGenerationSizeMb: this.#limits.readingMemory },
      });
      worker.unref();
      worker.on("message", (done: Done) => {
        if (this.#worker === worker) this.#finish(done);
      });
      worker.on("error", (error: Error & { code?: string }) => {
        if (this.#worker !== worker) return;
        if (error.code === "ERR_WORKER_OUT_OF_MEMORY") this.#giveUp(tooMuch(this.#limits));
        else this.#workHere();
      });
      worker.on("exit", () => {
        if (this.#worker === worker) this.#workHere();
      });
      this.#worker = worker;
      return worker;
    } catch {
      return undefined;
    }
  }

  #finish(done: Done | GivenUp): void {
    clearTimeout(this.#overdue);
    this.#waiting.shift()?.resolve(done);
    this.#next();
  }

  #giveUp(why: GivenUp): void {
    this.#letGo();
    this.#finish(why);
  }

  #letGo(): void {
    const worker = this.#worker;
    this.#worker = undefined;
    void worker?.terminate();
  }

  /** There is no thread, or it ended for a reason of its own. */
  #workHere(): void {
    clearTimeout(this.#overdue);
    this.#letGo();
    for (const { job, resolve } of this.#waiting.splice(0)) resolve(doHere(job));
  }
}

export async function doHere(job: Job): Promise<Exclude<Done, PartedText>> {
  switch (job.kind) {
    case "parse":
      return readSource(job.file, job.text);
    case "locate":
      return locateHere(job.file, job.text, job.spots);
    case "list":
      return readPackedList(job);
  }
}

function tooLong({ readingTime }: WorkerLimits): GivenUp {
  return {
    code: "reading-too-long",
    message: `Reading this file was given up after ${readingTime / 1_000} seconds.`,
    expected: "a file that can be read in less",
  };
}

function tooMuch({ readingMemory }: WorkerLimits): GivenUp {
  return {
    code: "reading-too-much",
    message: `Reading this file would take more than ${readingMemory} MB of memory.`,
    expected: "a file that can be read with less",
  };
}
