import { Disk, type FolderContent, judgeContent, type Loaded, readSteadily, versionOf } from "../files/index.ts";
import { defaultTimes } from "../flags/index.ts";
import { FolderFollower } from "../follow/index.ts";

/** A definition folder as it stands, followed. What cannot be used is told of, and what could be used last is kept. */
export class CurrentFolder {
  readonly folder: string;
  readonly #listeners = new Set<() => void>();
  readonly #follower: FolderFollower;
  #loaded: Loaded;
  #good: Loaded | undefined;
  #suspensions: Loaded["suspensions"];

  private constructor(disk: Disk, loaded: Loaded) {
    this.folder = disk.folder;
    this.#loaded = loaded;
    this.#good = loaded.definitions ? loaded : undefined;
    this.#suspensions = loaded.suspensions;
    const news = {
      good: () => this.#good?.content,
      noticed: async () => {},
      changed: (content: FolderContent) => this.#take(content),
      // What cannot be read is tried again at the next look.
      failed: () => {},
    };
    this.#follower = new FolderFollower(disk, loaded.content, news, defaultTimes);
  }

  static async open(folder: string): Promise<CurrentFolder> {
    const disk = new Disk(folder);
    const standing = new CurrentFolder(disk, await judgeContent(await readSteadily(() => disk.look())));
    await standing.#follower.start();
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

  /** Says which state of the files this is. */
  get version(): string {
    return versionOf(this.#loaded.content);
  }

  /** Calls back after every change, until what is given back is called. */
  listen(listener: () => void): () => void {
    this.#listeners.add(listener);
    return () => void this.#listeners.delete(listener);
  }

  /** Reads now, without waiting for the folder to come to rest: after a write of one's own. */
  refresh(): Promise<void> {
    return this.#follower.read();
  }

  close(): Promise<void> {
    return this.#follower.close();
  }

  async #take(content: FolderContent): Promise<void> {
    const before = this.version;
    this.#loaded = await judgeContent(content, { signal: this.#follower.closing });
    if (this.#loaded.definitions) this.#good = this.#loaded;
    this.#suspensions = this.#loaded.suspensions ?? this.#suspensions;
    if (this.version === before) return;
    for (const listener of [...this.#listeners]) listener();
  }
}
