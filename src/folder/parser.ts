import { Worker } from "node:worker_threads";
import { parseText } from "./parse.ts";
import type { ParsedText } from "./parsed-file.ts";

/** Texts up to this size are parsed at once: handing them over would take longer. In UTF-16 units. */
const smallText = 4_096;
const idleTime = 2_000;

interface Waiting {
  readonly file: string;
  readonly text: string;
  readonly resolve: (parsed: ParsedText) => void;
}

/**
 * Parses small texts here and large ones in a worker thread, which is started when first needed and let go when it has
 * been idle. Where no thread can be had, large ones are parsed here too.
 */
class Parser {
  #worker: Worker | undefined;
  #idle: NodeJS.Timeout | undefined;
  readonly #waiting = new Map<number, Waiting>();
  #next = 0;

  parse(file: string, text: string): ParsedText | Promise<ParsedText> {
    if (text.length <= smallText) return parseText(file, text);
    return new Promise((resolve) => {
      const id = this.#next++;
      this.#waiting.set(id, { file, text, resolve });
      clearTimeout(this.#idle);
      const worker = this.#start();
      // While something is being parsed the process must not end; an idle thread keeps nobody waiting.
      worker?.ref();
      worker?.postMessage({ id, file, text });
    });
  }

  #start(): Worker | undefined {
    if (this.#worker) return this.#worker;
    try {
      const worker = new Worker(new URL("./parse-worker.js", import.meta.url));
      worker.unref();
      worker.on("message", ({ id, parsed }: { id: number; parsed: ParsedText }) => this.#answered(id, parsed));
      worker.on("error", () => this.#failed(worker));
      worker.on("exit", () => this.#failed(worker));
      this.#worker = worker;
      return worker;
    } catch {
      this.#parseHere();
      return undefined;
    }
  }

  #answered(id: number, parsed: ParsedText): void {
    this.#waiting.get(id)?.resolve(parsed);
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
    this.#parseHere();
  }

  #parseHere(): void {
    for (const [id, { file, text, resolve }] of this.#waiting) {
      this.#waiting.delete(id);
      resolve(parseText(file, text));
    }
  }
}

const parser = new Parser();

export function parseAside(file: string, text: string): ParsedText | Promise<ParsedText> {
  return parser.parse(file, text);
}
