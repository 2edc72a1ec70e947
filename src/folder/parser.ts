import { Worker } from "node:worker_threads";
import type { Located } from "./located.ts";
import type { ParsedText, Spot } from "./parsed-file.ts";
import { locateHere, readSource } from "./text-reader.ts";

/** Texts up to this size are worked on at once: handing them over would take longer. In UTF-16 units. */
const smallText = 16_384;
const idleTime = 2_000;

/** A text to be parsed, or one in which places are to be found. */
export interface Job {
  readonly file: string;
  readonly text: string;
  readonly spots?: readonly Spot[];
}

type Done = ParsedText | Located[];

interface Waiting {
  readonly job: Job;
  readonly resolve: (done: Done | Promise<Done>) => void;
}

/**
 * Works on small texts here and on large ones in a worker thread, which is started when first needed and let go when it
 * has been idle. Where no thread can be had, large ones are worked on here too. Each folder has one of its own.
 */
export class Parser {
  #worker: Worker | undefined;
  #idle: NodeJS.Timeout | undefined;
  readonly #waiting = new Map<number, Waiting>();
  #next = 0;

  parse(file: string, text: string): Promise<ParsedText> {
    if (text.length <= smallText) return readSource(file, text);
    return this.#aside({ file, text }) as Promise<ParsedText>;
  }

  locate(file: string, text: string, spots: readonly Spot[]): Promise<Located[]> {
    if (text.length <= smallText) return locateHere(file, text, spots);
    return this.#aside({ file, text, spots }) as Promise<Located[]>;
  }

  /** Lets the thread go; a later text starts another. */
  close(): void {
    clearTimeout(this.#idle);
    if (this.#waiting.size === 0) this.#letGo();
  }

  #aside(job: Job): Promise<Done> {
    return new Promise((resolve) => {
      const id = this.#next++;
      this.#waiting.set(id, { job, resolve });
      clearTimeout(this.#idle);
      const worker = this.#start();
      // While something is being worked on the process must not end; an idle thread keeps nobody waiting.
      worker?.ref();
      worker?.postMessage({ id, ...job });
    });
  }

  #start(): Worker | undefined {
    if (this.#worker) return this.#worker;
    try {
      const worker = new Worker(new URL("./parse-worker.js", import.meta.url));
      worker.unref();
      worker.on("message", ({ id, done }: { id: number; done: Done }) => this.#answered(id, done));
      worker.on("error", () => this.#failed(worker));
      worker.on("exit", () => this.#failed(worker));
      this.#worker = worker;
      return worker;
    } catch {
      this.#workHere();
      return undefined;
    }
  }

  #answered(id: number, done: Done): void {
    this.#waiting.get(id)?.resolve(done);
    this.#waiting.delete(id);
    if (this.#waiting.size > 0) return;
    this.#worker?.unref();
    this.#idle = setTimeout(() => this.#letGo(), idleTime);
    this.#idle.unref();
  }

  #letGo(): void {
    const worker = this.#worker;
    this.#worker = undefined;
    void worker?.terminate();
  }

  #failed(worker: Worker): void {
    if (this.#worker !== worker) return;
    this.#worker = undefined;
    this.#workHere();
  }

  #workHere(): void {
    for (const [id, { job, resolve }] of this.#waiting) {
      this.#waiting.delete(id);
      const { file, text, spots } = job;
      resolve(spots ? locateHere(file, text, spots) : readSource(file, text));
    }
  }
}
