import {
  type Disk,
  type DiskFiles,
  type FileName,
  type FolderContent,
  holdsTheSame,
  mustReadAgain,
  readFiles,
  readSteadily,
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
  /** Files that somebody has gone on writing for long: they keep their last state. */
  unsettled?(names: ReadonlySet<FileName>): void;
  failed(error: unknown): void;
}

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
        ahead: () => this.#readAhead(),
        settled: (paths) => this.read(paths),
        look: () => disk.look(),
        isNews: (files) => mustReadAgain(this.#content, files),
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
  async #readAhead(): Promise<void> {
    const { signal } = this.#closing;
    this.#ahead = await readFiles(await this.#disk.look(), { before: this.#content, signal }).catch(() => undefined);
  }

  /**
   * Reads now, one reading after the other.
   *
   * @param paths of files that somebody goes on writing: they keep their last state
   */
  read(paths: ReadonlySet<string> = new Set()): Promise<void> {
    this.#reading = this.#reading
      .then(() => this.#read(paths))
      .catch((error: unknown) => {
        if (!this.closing.aborted) this.#news.failed(error);
      });
    return this.#reading;
  }

  async #read(paths: ReadonlySet<string>): Promise<void> {
    const before = this.#content;
    const ahead = this.#ahead ?? before;
    this.#ahead = undefined;
    const unsettled = new Set<FileName>();
    const look = async (): Promise<DiskFiles> => {
      const files = await this.#disk.look();
      for (const [name, { path }] of files.entries) if (paths.has(path!)) unsettled.add(name);
      return files;
    };
    const options = { before: ahead, good: this.#news.good(), unsettled, signal: this.closing };
    const content = await readSteadily(look, options);
    this.closing.throwIfAborted();
    this.#content = content;
    if (unsettled.size > 0) this.#news.unsettled?.(unsettled);
    if (!holdsTheSame(content, before)) await this.#news.changed(content, before);
    if (!this.closing.aborted) await this.#news.read?.(content.source);
  }
}
