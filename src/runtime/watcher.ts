import { type FSWatcher, watch } from "node:fs";
import { lstat, readlink } from "node:fs/promises";
import { dirname, join, parse, resolve, sep } from "node:path";
import { scanFolder } from "../folder/index.ts";

/** How long a watcher waits, and how often it looks, in milliseconds. */
export interface WatchTimes {
  /** How long things must be quiet before they are read, in milliseconds. */
  readonly quiet: number;
  /** The longest wait while they are not, in milliseconds. */
  readonly longest: number;
  /** How often everything is looked at, in case an event was lost, in milliseconds. */
  readonly poll: number;
}

/** What is watched, as its owner knows it. */
export interface Watched {
  /** Called as soon as anything is noticed, and at every slow look. */
  noticed(): Promise<void>;
  /** Called when it looks as if changes were coming to rest: what can be done ahead is done then. */
  ahead(): Promise<void>;
  /** Called when changes have come to rest. */
  settled(): Promise<void>;
  /** The signature of what was read last. */
  inForce(): string;
  /** The signature that reading would have now. */
  now(): Promise<string>;
}

export const usualTimes: WatchTimes = { quiet: 200, longest: 5_000, poll: 1_000 };

/** The part of the quiet time after which work is done ahead. */
const aheadAfter = 0.3;

/**
 * Notices changes of a folder, and calls back when they have come to rest.
 *
 * Directories are watched, not files, since a watched file is lost when another is renamed over it; the directories
 * that hold links on the way to the folder are watched too, so that turning a link is seen. A slow look at every
 * file's size, inode and time stands behind it, for file systems that send no events.
 */
export class FolderWatcher {
  readonly #folder: string;
  readonly #times: WatchTimes;
  readonly #watched: Watched;
  readonly #watchers = new Map<string, FSWatcher>();
  #quietTimer: NodeJS.Timeout | undefined;
  #aheadTimer: NodeJS.Timeout | undefined;
  #pollTimer: NodeJS.Timeout | undefined;
  #firstEvent: number | undefined;
  #signature = "";
  #closed = false;
  /** The look at what cannot wait, one at a time. */
  #looking: Promise<void> | undefined;
  #lookAgain = false;
  #running: Promise<void> = Promise.resolve();

  constructor(folder: string, watched: Watched, times: WatchTimes = usualTimes) {
    this.#folder = resolve(folder);
    this.#watched = watched;
    this.#times = times;
  }

  /** Begins to watch. */
  async start(): Promise<void> {
    this.#signature = this.#watched.inForce();
    await this.#watchDirectories();
    this.#schedulePoll();
  }

  async close(): Promise<void> {
    this.#closed = true;
    clearTimeout(this.#quietTimer);
    clearTimeout(this.#aheadTimer);
    clearTimeout(this.#pollTimer);
    for (const watcher of this.#watchers.values()) watcher.close();
    this.#watchers.clear();
    await this.#looking;
    await this.#running;
  }

  #schedulePoll(): void {
    if (this.#closed) return;
    this.#pollTimer = setTimeout(() => {
      this.#running = this.#running.then(() => this.#poll());
    }, this.#times.poll);
    this.#pollTimer.unref();
  }

  async #poll(): Promise<void> {
    if (this.#closed) return;
    await this.#watched.noticed();
    const signature = await this.#watched.now();
    if (signature !== this.#signature) {
      this.#signature = signature;
      this.#noticed();
    }
    this.#schedulePoll();
  }

  /** What cannot wait is looked at at once; whatever happens meanwhile is looked at once more. */
  #look(): void {
    this.#lookAgain = this.#looking !== undefined;
    if (this.#looking) return;
    this.#looking = this.#watched.noticed().finally(() => {
      this.#looking = undefined;
      if (this.#lookAgain && !this.#closed) this.#look();
    });
  }

  /** Waits until nothing has happened for a while; the longest wait keeps steady writers from delaying for ever. */
  #noticed(): void {
    if (this.#closed) return;
    this.#look();
    const now = performance.now();
    this.#firstEvent ??= now;
    const left = Math.max(0, this.#firstEvent + this.#times.longest - now);
    clearTimeout(this.#quietTimer);
    this.#quietTimer = setTimeout(() => this.#rest(), Math.min(this.#times.quiet, left));
    this.#quietTimer.unref();
    clearTimeout(this.#aheadTimer);
    this.#aheadTimer = setTimeout(() => this.#lookAhead(), this.#times.quiet * aheadAfter);
    this.#aheadTimer.unref();
  }

  #lookAhead(): void {
    this.#running = this.#running.then(async () => {
      if (!this.#closed) await this.#watched.ahead();
    });
  }

  #rest(): void {
    this.#firstEvent = undefined;
    this.#running = this.#running.then(async () => {
      if (this.#closed) return;
      await this.#watched.settled();
      this.#signature = this.#watched.inForce();
      await this.#watchDirectories();
    });
  }

  async #watchDirectories(): Promise<void> {
    const { directories, definitions, suspended, root } = await scanFolder(this.#folder);
    const files = [...definitions, ...(suspended ? [suspended] : [])].map(({ path }) => dirname(path));
    const wanted = new Set([...directories, ...files, ...(await linkHolders(this.#folder)), dirname(this.#folder)]);
    if (root !== undefined) wanted.add(dirname(root));
    for (const [directory, watcher] of this.#watchers) {
      if (wanted.has(directory)) continue;
      watcher.close();
      this.#watchers.delete(directory);
    }
    if (this.#closed) return;
    for (const directory of wanted) if (!this.#watchers.has(directory)) this.#watch(directory);
  }

  #watch(directory: string): void {
    try {
      const watcher = watch(directory, { persistent: false }, () => this.#noticed());
      watcher.on("error", () => this.#drop(directory));
      this.#watchers.set(directory, watcher);
    } catch {
      // Not to be watched (gone already, or too many watches): the slow look finds its changes.
    }
  }

  #drop(directory: string): void {
    this.#watchers.get(directory)?.close();
    this.#watchers.delete(directory);
    this.#noticed();
  }
}

/** The directories that hold a link on the way to a path, each link followed in turn. */
async function linkHolders(path: string, depth = 0): Promise<string[]> {
  const holders: string[] = [];
  const { root } = parse(path);
  let here = root;
  for (const name of path.slice(root.length).split(sep)) {
    if (name === "") continue;
    const next = join(here, name);
    const target = await linkTarget(next);
    if (target !== undefined && depth < 8) {
      holders.push(here, ...(await linkHolders(resolve(here, target), depth + 1)));
    }
    here = next;
  }
  return holders;
}

async function linkTarget(path: string): Promise<string | undefined> {
  try {
    return (await lstat(path)).isSymbolicLink() ? await readlink(path) : undefined;
  } catch {
    return undefined;
  }
}
