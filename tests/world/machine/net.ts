// The web of this world: servers of files, with a cache before each that may lag.
import { createHash } from "node:crypto";
import { type Process, world } from "./clock.ts";
import { type Disk, reach } from "./disk.ts";

/** What is wrong on the way to a server, and with it, at the moment. */
export interface NetFaults {
  /** Nobody answers: at once, or never. */
  away: "no" | "refused" | "silent";
  /** The longest that anything takes, in milliseconds. */
  slow: number;
  /** The part of answers that break off. */
  cut: number;
  /** The part of answers of which some bytes are wrong. */
  garbled: number;
  /** The part of requests that get 503. */
  busy: number;
  /** How many bytes a second come of a file; 0 for all at once. */
  trickle: number;
  /** How long a cache shows what it has seen, in milliseconds. */
  cached: number;
}

export const soundNet: Readonly<NetFaults> = {
  away: "no",
  slow: 0,
  cut: 0,
  garbled: 0,
  busy: 0,
  trickle: 0,
  cached: 0,
};

interface Answer {
  readonly status: number;
  readonly bytes: Buffer;
  readonly modified: number;
}

export class Server {
  readonly disk: Disk;
  readonly folder: string;
  /** By machine that asks: what is on its way. */
  readonly faults = new Map<string, NetFaults>();
  readonly #cache = new Map<string, { readonly answer: Answer; readonly at: number }>();
  requests = 0;

  constructor(disk: Disk, folder: string) {
    this.disk = disk;
    this.folder = folder;
  }

  faultsFor(machine: string): NetFaults {
    const known = this.faults.get(machine) ?? { ...soundNet };
    this.faults.set(machine, known);
    return known;
  }

  answer(path: string, { cached }: NetFaults): Answer {
    this.requests++;
    const known = this.#cache.get(path);
    if (known && world.now - known.at < cached) return known.answer;
    const answer = this.#found(path);
    this.#cache.set(path, { answer, at: world.now });
    return answer;
  }

  #found(path: string): Answer {
    try {
      const { node } = reach(this.disk.root, `${this.folder}${path}`, true);
      if (node?.kind === "file") return { status: 200, bytes: node.bytes, modified: node.modified };
    } catch {}
    return { status: 404, bytes: Buffer.alloc(0), modified: 0 };
  }
}

const servers = new Map<string, Server>();

export function serve(origin: string, server: Server): void {
  servers.set(origin, server);
}

export function forgetServers(): void {
  servers.clear();
}

interface Asked {
  readonly headers?: Readonly<Record<string, string>>;
  readonly signal?: AbortSignal;
}

/** Stands in the place of `fetch`. */
export function request(url: URL, { headers = {}, signal }: Asked = {}): Promise<object> {
  return new Promise((resolve, reject) => {
    const off = () => reject(signal!.reason as Error);
    if (signal?.aborted) return off();
    signal?.addEventListener("abort", off, { once: true });
    const server = servers.get(url.origin);
    const { process } = world;
    const faults = server?.faultsFor(process.machine) ?? { ...soundNet, away: "refused" as const };
    if (faults.away === "silent") return;
    world.later(world.random() * faults.slow, () => {
      signal?.removeEventListener("abort", off);
      if (faults.away !== "no") return reject(new TypeError("fetch failed"));
      resolve(answered(server!, url, faults, headers, signal, process));
    });
  });
}

/** Tags as many servers make them: of the time in seconds and the size. */
function tagOf({ bytes, modified }: Answer): string {
  return `"${Math.floor(modified / 1_000).toString(16)}-${bytes.length.toString(16)}"`;
}

function answered(
  server: Server,
  url: URL,
  faults: NetFaults,
  asked: Readonly<Record<string, string>>,
  signal: AbortSignal | undefined,
  process: Process,
): object {
  const date = new Date(world.now).toUTCString();
  if (world.chance(faults.busy)) return response(url, 503, { Date: date }, Buffer.alloc(0), faults, signal, process);
  const answer = server.answer(url.pathname, faults);
  const headers = {
    Date: date,
    ...(answer.status === 200 ? { "Last-Modified": new Date(answer.modified).toUTCString(), ETag: tagOf(answer) } : {}),
    ...(faults.cached > 0 ? { "Cache-Control": `max-age=${Math.floor(faults.cached / 1_000)}` } : {}),
  };
  world.note(createHash("sha256").update(answer.bytes).digest("hex").slice(0, 4));
  const isSame = answer.status === 200 && asked["If-None-Match"] === tagOf(answer);
  return response(
    url,
    isSame ? 304 : answer.status,
    headers,
    isSame ? Buffer.alloc(0) : answer.bytes,
    faults,
    signal,
    process,
  );
}

function response(
  url: URL,
  status: number,
  headers: Record<string, string>,
  bytes: Buffer,
  faults: NetFaults,
  signal: AbortSignal | undefined,
  process: Process,
): object {
  return { url: url.href, status, headers: new Headers(headers), body: new Body(bytes, faults, signal, process) };
}

/** The bytes of an answer, as they come. */
class Body {
  readonly #bytes: Buffer;
  readonly #faults: NetFaults;
  readonly #signal: AbortSignal | undefined;
  readonly #process: Process;

  constructor(bytes: Buffer, faults: NetFaults, signal: AbortSignal | undefined, process: Process) {
    this.#faults = faults;
    this.#signal = signal;
    this.#process = process;
    this.#bytes = world.chance(faults.garbled) ? garbled(bytes) : bytes;
  }

  async cancel(): Promise<void> {}

  async *[Symbol.asyncIterator](): AsyncGenerator<Uint8Array> {
    const { cut, trickle } = this.#faults;
    const end = world.chance(cut) ? world.below(this.#bytes.length + 1) : this.#bytes.length;
    const piece = trickle > 0 ? Math.max(1, Math.floor(trickle / 2)) : 65_536;
    for (let from = 0; from < end; from += piece) {
      this.#signal?.throwIfAborted();
      if (trickle > 0) await world.sleep(500);
      yield this.#bytes.subarray(from, Math.min(end, from + piece));
    }
    if (end < this.#bytes.length) throw new TypeError("terminated");
    if (!this.#process.isAlive) throw new TypeError("terminated");
  }
}

function garbled(bytes: Buffer): Buffer {
  const other = Buffer.from(bytes);
  if (other.length > 0) other[world.below(other.length)]! ^= 1 << world.below(8);
  return other;
}
