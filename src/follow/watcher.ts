import { type FSWatcher, watch } from "node:fs";
import { lstat, readlink } from "node:fs/promises";
import { basename, dirname, join, parse, resolve, sep } from "node:path";
import { setTimeout as sleep } from "node:timers/promises";
import type { DiskFiles } from "../files/index.ts";
import { defaultTimes, type WatchTimes } from "../flags/index.ts";

/** What is watched, as its owner knows it. */
export interface Watched {
  /** Called as soon as anything is noticed, and at every slow look. */
  noticed(): Promise<void>;
  /** Called when it looks as if changes were coming to rest, with what was seen then: what can be done ahead is done. */
  ahead(files: DiskFiles): Promise<void>;
  /**
   * Called when changes have come to rest.
   *
   * @param unsettled gives the paths of files that somebody goes on writing, and for how many milliseconds already; 0 for those
   *   that somebody has just begun with, the ones that were noticed meanwhile included
   * @param seen the files a moment ago, where they were looked at
   * @returns the files as they were looked at last
   */
  settled(unsettled: () => ReadonlyMap<string, number>, seen: DiskFiles | undefined): Promise<DiskFiles>;
  /** The files as they are now. */
  look(): Promise<DiskFiles>;
  /** True if these are not what was read last. */
  isNews(files: DiskFiles): boolean;
  /** Whether any of these is another one than was read, or was written. */
  hasMoved(files: DiskFiles): boolean;
}

/** The part of the quiet time after which work is done ahead. */
const aheadAfter = 0.3;

/** Quiet times after which a file that is written over and over keeps nothing waiting any more but itself. */
const steadyAfter = 3;

/** Quiet times for which such a file must be left alone before it counts as written. */
const steadyQuiet = 3;

/** How much too early a timer may fire, in milliseconds. */
const early = 2;

/** As long as notices came of every change, all files are looked at this many times as rarely: that is what a folder at rest costs. */
const whileHeard = 5;

/** Files of a folder: what may be a definition, a list, a schema or a directory, or the turning link of a mount. */
const mayMatter = /\.(?:ya?ml|json|csv|txt)$|^[^.]*$|^\.\./;

/** How long a file has been written to, milliseconds of the process. */
interface Writing {
  readonly since: number;
  readonly last: number;
}

/** What the files were at a moment. */
interface Glimpse {
  /** Milliseconds of the process. */
  readonly at: number;
  /** By path. */
  readonly marks: ReadonlyMap<string, string>;
}

/**
 * Notices changes of a folder, and calls back when they have come to rest.
 *
 * Directories are watched, not files, since a watched file is lost when another is renamed over it; the directories
 * that hold links on the way to the folder are watched too, so that turning a link is seen. A slow look at every
 * file's size, inode and time is behind it, for file systems that send no events.
 */
export class FolderWatcher {
  readonly #folder: string;
  readonly #times: WatchTimes;
  readonly #watched: Watched;
  readonly #watchers = new Map<string, FSWatcher>();
  /** In which directories only some names matter; in the others whatever may belong to the folder does. */
  #namesIn: ReadonlyMap<string, ReadonlySet<string>> = new Map();
  readonly #writing = new Map<string, Writing>();
  #quietTimer: NodeJS.Timeout | undefined;
  /** Waits until those that were being written over and over are left alone. */
  #steadyTimer: NodeJS.Timeout | undefined;
  /** Reads the others while those are not. */
  #longestTimer: NodeJS.Timeout | undefined;
  #aheadTimer: NodeJS.Timeout | undefined;
  #pollTimer: NodeJS.Timeout | undefined;
  #firstEvent: number | undefined;
  /** A slow look found a change without a notice: notices cannot be relied on here. */
  #hasMissed = false;
  #polls = 0;
  /**
   * The files a while after the last notice: what has another mark at rest is still being written, whatever the file system
   * tells of it. Undefined while that look is still to come.
   */
  #glimpsed: Glimpse | undefined;
  readonly #closing = new AbortController();
  /** The look at what cannot wait, one at a time. */
  #looking: Promise<void> | undefined;
  #lookAgain = false;
  #glimpsing: Promise<void> = Promise.resolve();
  /** What was seen last, while it waits for its turn to be read ahead. */
  #ahead: DiskFiles | undefined;
  #running: Promise<void> = Promise.resolve();

  constructor(folder: string, watched: Watched, times: WatchTimes = defaultTimes) {
    this.#folder = resolve(folder);
    this.#watched = watched;
    this.#times = times;
  }

  get #closed(): boolean {
    return this.#closing.signal.aborted;
  }

  /** Begins to watch. */
  async start(): Promise<void> {
    await this.#watchDirectories(await this.#watched.look());
    this.#schedulePoll();
  }

  async close(): Promise<void> {
    this.#closing.abort();
    const timers = [this.#quietTimer, this.#steadyTimer, this.#longestTimer, this.#aheadTimer, this.#pollTimer];
    for (const timer of timers) clearTimeout(timer);
    for (const watcher of this.#watchers.values()) watcher.close();
    this.#watchers.clear();
    await this.#looking;
    await this.#glimpsing;
    await this.#running;
  }

  #schedulePoll(): void {
    if (this.#closed) return;
    this.#pollTimer = setTimeout(() => {
      // What cannot wait is looked at each time, and does not wait for a reading that is under way.
      this.#look();
      this.#polls++;
      if (this.#hasMissed || this.#polls % whileHeard === 0) this.#run(() => this.#poll());
      else this.#schedulePoll();
    }, this.#times.poll);
    this.#pollTimer.unref();
  }

  async #poll(): Promise<void> {
    const isTold = this.#firstEvent !== undefined;
    const files = await this.#watched.look();
    if (this.#watched.isNews(files)) {
      this.#hasMissed ||= !isTold && this.#firstEvent === undefined && this.#watched.hasMoved(files);
      this.#noticed();
    }
    this.#schedulePoll();
  }

  /** One thing after the other; what fails is tried again at the next slow look. */
  #run(work: () => Promise<void>): void {
    this.#running = this.#running.then(async () => {
      if (!this.#closed) await work();
    });
  }

  /** What cannot wait is looked at at once; whatever happens in the meantime is looked at once more. */
  #look(): void {
    this.#lookAgain = this.#looking !== undefined;
    if (this.#looking) return;
    this.#looking = this.#watched.noticed().finally(() => {
      this.#looking = undefined;
      if (this.#lookAgain && !this.#closed) this.#look();
    });
  }

  #seen(directory: string, name: string | null): void {
    const names = this.#namesIn.get(directory);
    if (name !== null && !(names ? names.has(name) : mayMatter.test(name))) return;
    this.#noticed(name === null ? undefined : join(directory, name));
  }

  /**
   * Waits until nothing has happened for a while; the longest wait keeps steady writers from delaying for ever. A file
   * that is written over and over soon delays nothing but itself.
   */
  #noticed(path?: string): void {
    if (this.#closed) return;
    this.#look();
    const { quiet, longest } = this.#times;
    if (path !== undefined && this.#isSteady(path)) return this.#awaitSteady();
    this.#glimpsed = undefined;
    clearTimeout(this.#aheadTimer);
    const now = performance.now();
    this.#firstEvent ??= now;
    const left = Math.max(0, this.#firstEvent + longest - now);
    clearTimeout(this.#quietTimer);
    this.#quietTimer = setTimeout(() => this.#rest(), Math.min(quiet, left)).unref();
    this.#aheadTimer = setTimeout(() => this.#glimpse(), quiet * aheadAfter).unref();
  }

  #awaitSteady(): void {
    const { quiet, longest } = this.#times;
    clearTimeout(this.#steadyTimer);
    this.#steadyTimer = setTimeout(() => this.#rest(), steadyQuiet * quiet + 1).unref();
    this.#longestTimer ??= setTimeout(() => {
      this.#longestTimer = undefined;
      this.#rest();
    }, longest).unref();
  }

  /** Notes that a file was written, and tells whether it has been so for long, without a rest. */
  #isSteady(path: string): boolean {
    const now = performance.now();
    const earlier = this.#writing.get(path);
    const writing = { since: earlier && !this.#isLeftAlone(earlier, now) ? earlier.since : now, last: now };
    this.#writing.set(path, writing);
    return this.#wasSteady(writing);
  }

  #wasSteady({ since, last }: Writing): boolean {
    return last - since > steadyAfter * this.#times.quiet;
  }

  #isLeftAlone(writing: Writing, now: number): boolean {
    const { quiet } = this.#times;
    return now - writing.last >= (this.#wasSteady(writing) ? steadyQuiet * quiet : quiet) - early;
  }

  /** Those that are still being written, however long that takes. */
  #unsettled(): ReadonlyMap<string, number> {
    const now = performance.now();
    const unsettled = new Map<string, number>();
    for (const [path, writing] of this.#writing) {
      if (this.#isLeftAlone(writing, now)) this.#writing.delete(path);
      else unsettled.set(path, this.#wasSteady(writing) ? now - writing.since : 0);
    }
    return unsettled;
  }

  #rest(): void {
    this.#firstEvent = undefined;
    this.#run(async () => {
      const { moved, seen } = await this.#movedSilently();
      if (this.#closed) return;
      const unsettled = () => new Map([...moved.map((path) => [path, 0] as const), ...this.#unsettled()]);
      const files = await this.#watched.settled(unsettled, seen);
      if (unsettled().size > 0 && !this.#closed) this.#awaitSteady();
      await this.#watchDirectories(files);
    });
  }

  /** Looks while things seem to come to rest, beside whatever is being read. */
  #glimpse(): void {
    const timer = this.#aheadTimer;
    this.#glimpsing = this.#watched.look().then((files) => {
      // Whatever was noticed since begins anew.
      if (this.#aheadTimer === timer) this.#glimpsed = glimpseOf(files);
      this.#readAhead(files);
    });
  }

  /** Once, however often things seem to come to rest while others have their turn. */
  #readAhead(seen: DiskFiles): void {
    const isAwaited = this.#ahead !== undefined;
    this.#ahead = seen;
    if (isAwaited) return;
    this.#run(async () => {
      const files = this.#ahead!;
      this.#ahead = undefined;
      await this.#watched.ahead(files);
    });
  }

  /** Files that have changed since then without a notice: where those are late, or do not come, looks must tell. */
  async #movedSilently(): Promise<{ readonly moved: readonly string[]; readonly seen?: DiskFiles }> {
    const { at, marks } = this.#glimpsed ?? glimpseOf(await this.#watched.look());
    const left = at + this.#times.quiet * (1 - aheadAfter) - performance.now();
    // Nobody waits for it once it is closed: a process that has nothing else to do would end in the middle of closing.
    if (left > 0) await sleep(left, undefined, { ref: false, signal: this.#closing.signal }).catch(() => {});
    if (this.#closed) return { moved: [] };
    const seen = await this.#watched.look();
    const now = glimpseOf(seen);
    this.#glimpsed &&= now;
    const paths = new Set([...marks.keys(), ...now.marks.keys()]);
    return { moved: [...paths].filter((path) => marks.get(path) !== now.marks.get(path)), seen };
  }

  async #watchDirectories({ directories, entries, root }: DiskFiles): Promise<void> {
    const files = [...entries.values()].map(({ path }) => dirname(path!));
    const inside = new Set([...directories, ...files]);
    const outside = new Map<string, Set<string>>();
    const folders = root === undefined ? [this.#folder] : [this.#folder, root];
    for (const path of [...folders, ...(await linksOn(this.#folder))]) {
      const directory = dirname(path);
      if (!inside.has(directory)) outside.set(directory, (outside.get(directory) ?? new Set()).add(basename(path)));
    }
    this.#namesIn = outside;
    const wanted = new Set([...inside, ...outside.keys()]);
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
      const watcher = watch(directory, { persistent: false }, (_, name) => this.#seen(directory, name));
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

function glimpseOf({ entries }: DiskFiles): Glimpse {
  return { at: performance.now(), marks: new Map([...entries.values()].map(({ path, mark }) => [path!, mark])) };
}

/** The links on the way to a path, each followed in turn. */
async function linksOn(path: string, depth = 0): Promise<string[]> {
  const links: string[] = [];
  const { root } = parse(path);
  let here = root;
  for (const name of path.slice(root.length).split(sep)) {
    if (name === "") continue;
    const next = join(here, name);
    const target = await linkTarget(next);
    if (target !== undefined && depth < 8) links.push(next, ...(await linksOn(resolve(here, target), depth + 1)));
    here = next;
  }
  return links;
}

async function linkTarget(path: string): Promise<string | undefined> {
  try {
    return (await lstat(path)).isSymbolicLink() ? await readlink(path) : undefined;
  } catch {
    return undefined;
  }
}
