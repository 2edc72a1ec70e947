import { sep } from "node:path";
import {
  type Disk,
  type DiskFiles,
  type Entry,
  type FileName,
  type FolderContent,
  fileName,
  holdsTheSame,
  localOverridesFile,
  movedIn,
  mustReadAgain,
  readFiles,
  readSteadily,
  suspendedFile,
} from "../files/index.ts";
import type { WatchTimes } from "../flags/index.ts";
import { FolderWatcher } from "./watcher.ts";

/** What follows from changes of a folder. */
export interface FolderNews {
  /** Called as soon as anything is noticed, and at every slow look. */
  noticed(): Promise<void>;
  /** What the files held when they could be used last. */
  good(): FolderContent | undefined;
  /** Called for what was read again and is not the same; it is awaited before anything else is read. */
  changed(content: FolderContent, before: FolderContent): Promise<void>;
  /** Called after every reading, whether anything has changed or not. */
  read?(files: FolderContent["source"]): Promise<void>;
  /** Files that somebody goes on writing, and for how many milliseconds already: they keep their last state. */
  unsettled?(names: ReadonlyMap<FileName, number>): void;
  failed(error: unknown): void;
}

/** The paths of files that somebody goes on writing, and for how many milliseconds already. */
type Unsettled = () => ReadonlyMap<string, number>;

/** Follows a folder on disk: reads it again when changes have come to rest, and hands on what is new. */
export class FolderFollower {
  readonly #disk: Disk;
  readonly #news: FolderNews;
  readonly #watcher: FolderWatcher | undefined;
  readonly #closing = new AbortController();
  #content: FolderContent;
  /** What was read while changes were coming to rest: nothing of it is judged, and what is the same later is not parsed again. */
  #ahead: FolderContent | undefined;
  #reading: Promise<void> = Promise.resolve();
  /** The folder as it was looked at last for a reading. */
  #seen: DiskFiles | undefined;

  /** @param times undefined: the folder is read only when it is asked for */
  constructor(disk: Disk, content: FolderContent, news: FolderNews, times: WatchTimes | undefined) {
    this.#disk = disk;
    this.#content = content;
    this.#news = news;
    if (!times) return;
    this.#watcher = new FolderWatcher(
      disk.folder,
      {
        noticed: () => news.noticed(),
        ahead: (files) => this.#readAhead(files),
        settled: async (unsettled, seen) => {
          await this.read(unsettled, seen);
          return this.#seen ?? disk.look();
        },
        look: () => disk.look(),
        isNews: (files) => mustReadAgain(this.#content, files),
        hasMoved: (files) => movedIn(this.#content, files).size > 0,
      },
      times,
    );
  }

  /** What was read last. */
  get content(): FolderContent {
    return this.#content;
  }

  /** Aborted as soon as it is closed. */
  get closing(): AbortSignal {
    return this.#closing.signal;
  }

  async start(): Promise<void> {
    await this.#watcher?.start();
  }

  async close(): Promise<void> {
    this.#closing.abort();
    await this.#watcher?.close();
    await this.#reading;
    this.#content.tools.worker.end();
  }

  /** Parsing takes the longest, so it begins before it is certain that the writers are done. */
  async #readAhead(files: DiskFiles): Promise<void> {
    const { signal } = this.#closing;
    const before = this.#ahead ?? this.#content;
    this.#ahead = await readFiles(files, { before, signal }).catch(() => this.#ahead);
  }

  /**
   * Reads now, one reading after the other.
   *
   * @param unsettledPaths gives those of files that somebody goes on writing: they keep their last state
   * @param seen the folder a moment ago, where it was looked at; what has changed since is found by the look afterwards
   */
  read(unsettledPaths: Unsettled = () => new Map(), seen?: DiskFiles): Promise<void> {
    this.#reading = this.#reading
      .then(() => this.#read(unsettledPaths, seen))
      .catch((error: unknown) => {
        if (!this.closing.aborted) this.#news.failed(error);
      });
    return this.#reading;
  }

  async #read(unsettledPaths: Unsettled, seenBefore: DiskFiles | undefined): Promise<void> {
    const before = this.#content;
    const ahead = this.#ahead ?? before;
    this.#ahead = undefined;
    const unsettled = new Map<FileName, number>();
    let first = seenBefore;
    const look = async () => {
      this.#seen = first ?? (await this.#disk.look());
      first = undefined;
      return withWritten(this.#seen, before, unsettledPaths(), unsettled);
    };
    const good = this.#news.good();
    const content = await readSteadily(look, { before: ahead, settled: before, good, unsettled, signal: this.closing });
    this.closing.throwIfAborted();
    if (mustAwait(content, unsettled, before)) return;
    this.#content = content;
    this.#news.unsettled?.(unsettled);
    if (!holdsTheSame(content, before)) await this.#news.changed(content, before);
    const isReadAnew = content !== before && !unsettled.has(localOverridesFile);
    if (!this.closing.aborted && isReadAnew) await this.#news.read?.(content.source);
  }
}

/**
 * Notes the files that somebody is writing. One that was there before and is away for a moment, as some editors do it, is
 * still listed: its last state stays. The suspensions are left out, because they are read at once.
 */
function withWritten(
  files: DiskFiles,
  before: FolderContent,
  paths: ReadonlyMap<string, number>,
  unsettled: Map<FileName, number>,
): DiskFiles {
  if (paths.size === 0) return files;
  const isWritten = ([name, { path }]: [FileName, Entry]) => name !== suspendedFile && paths.has(path!);
  // Where the folder is a link that was turned, what becomes of the files that it led to before is nobody's writing.
  const isIn = (path: string) => files.root === undefined || path.startsWith(files.root + sep);
  const isHere = ([name, { path }]: [FileName, Entry]) => !files.entries.has(name) && isIn(path!);
  const written = [...[...before.source.entries].filter(isHere), ...files.entries].filter(isWritten);
  for (const [name, { path }] of written) unsettled.set(name, paths.get(path!)!);
  return { ...files, stamp: undefined, entries: new Map([...written, ...files.entries]) };
}

/** Whether what is being written has no last state that could stay: nothing was there before, or a list is asked for. */
function mustAwait(
  { lists, schemas }: FolderContent,
  unsettled: ReadonlyMap<FileName, number>,
  before: FolderContent,
): boolean {
  if (unsettled.size === 0) return false;
  if (before.files.size === 0) return true;
  const faulty = [
    ...[...lists.values()].filter(({ result }) => result.fault).map(({ request }) => request.file),
    ...[...schemas].filter(([, { schema }]) => schema.fault).map(([file]) => file),
  ];
  return faulty.some((file) => unsettled.has(fileName(file) as FileName));
}
