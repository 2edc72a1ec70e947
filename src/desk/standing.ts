import {
  currentSignature,
  type FolderContent,
  judgeContent,
  type Loaded,
  loadFolder,
  readAhead,
  readFolder,
  versionOf,
} from "../folder/index.ts";
import { FolderWatcher, usualTimes } from "../runtime/index.ts";

/** A definition folder as it stands, followed. What cannot be used is told of, and what could be used last is kept. */
export class Standing {
  readonly folder: string;
  readonly #listeners = new Set<() => void>();
  readonly #watcher: FolderWatcher;
  #loaded: Loaded;
  #good: Loaded | undefined;
  #suspensions: Loaded["suspensions"];
  #ahead: Awaited<ReturnType<typeof readAhead>> | undefined;
  #reading: Promise<void> = Promise.resolve();

  private constructor(folder: string, loaded: Loaded) {
    this.folder = folder;
    this.#loaded = loaded;
    this.#good = loaded.definitions ? loaded : undefined;
    this.#suspensions = loaded.suspensions;
    this.#watcher = new FolderWatcher(
      folder,
      {
        noticed: () => Promise.resolve(),
        ahead: async () => {
          this.#ahead = await readAhead(folder, this.#content).catch(() => undefined);
        },
        settled: (restless) => this.#readAgain(restless),
        inForce: () => this.#content.signature,
        now: () => currentSignature(folder, this.#content),
      },
      usualTimes,
    );
  }

  static async open(folder: string): Promise<Standing> {
    const standing = new Standing(folder, await loadFolder(folder));
    await standing.#watcher.start();
    return standing;
  }

  /** As the files stand, whether they can be used or not. */
  get loaded(): Loaded {
    return this.#loaded;
  }

  /** As they could be used last; undefined if they never could. */
  get good(): Loaded | undefined {
    return this.#good;
  }

  /** What is suspended, as the files say or said last; undefined if they never did. */
  get suspensions(): Loaded["suspensions"] {
    return this.#suspensions;
  }

  get #content(): FolderContent {
    return this.#loaded.content;
  }

  /** Says which state of the files this is. */
  get version(): string {
    return versionOf(this.#content);
  }

  /** Calls back after every change, until what is given back is called. */
  listen(listener: () => void): () => void {
    this.#listeners.add(listener);
    return () => void this.#listeners.delete(listener);
  }

  /** Reads now, without waiting for the folder to come to rest: after a write of one's own. */
  refresh(): Promise<void> {
    return this.#readAgain(new Set());
  }

  async close(): Promise<void> {
    await this.#watcher.close();
    await this.#reading;
    this.#content.tools.aside.close();
  }

  #readAgain(restless: ReadonlySet<string>): Promise<void> {
    const reading = this.#reading.then(() => this.#read(restless));
    // What cannot be read is tried again at the next look.
    this.#reading = reading.catch(() => {});
    return this.#reading;
  }

  async #read(restless: ReadonlySet<string>): Promise<void> {
    const ahead = this.#ahead;
    this.#ahead = undefined;
    const before = this.version;
    const content = await readFolder(this.folder, this.#content, { ahead, restless, good: this.#good?.content });
    this.#loaded = await judgeContent(content);
    if (this.#loaded.definitions) this.#good = this.#loaded;
    this.#suspensions = this.#loaded.suspensions ?? this.#suspensions;
    if (this.version === before) return;
    for (const listener of [...this.#listeners]) listener();
  }
}
