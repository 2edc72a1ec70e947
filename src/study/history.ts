import { type FolderContent, filesOfCommit, Git, type Loaded, readSet } from "../files/index.ts";
import { compareSets, type PartChange } from "../insight/index.ts";

/** A commit that changed the definitions, by meaning. */
export interface HistoryEntry {
  readonly commit: string;
  /** When it was written, ISO 8601 with offset. */
  readonly date: string;
  readonly author: string;
  /** The commit's message. */
  readonly note: string;
  readonly changes: readonly PartChange[];
  /** True if the files of the commit, or those before it, could not be used, so that nothing can be compared. */
  readonly broken: boolean;
}

/** Which earlier changes are told. */
export interface HistoryOptions {
  /** Only changes of this flag, under its earlier names as well. */
  readonly flag?: string | undefined;
  /** At most so many entries, newest first; 20 by default. */
  readonly most?: number | undefined;
  /** Ends the search. */
  readonly signal?: AbortSignal | undefined;
}

/** Earlier changes of a definition folder by meaning, newest first, from the log of its repository. */
export async function* historyOf(
  folder: string,
  { flag, most = 20, signal }: HistoryOptions = {},
): AsyncGenerator<HistoryEntry> {
  const history = await historyAt(await Git.around(folder), signal);
  let called = flag;
  let given = 0;
  for (let i = 0; given < most; i++) {
    signal?.throwIfAborted();
    const entry = await history.entry(i);
    if (!entry) return;
    const changes =
      called === undefined ? entry.changes : entry.changes.filter(({ part, name }) => isOf(part, name, called!));
    for (const { name, from } of changes) if (name === called && from !== undefined) called = from;
    if (changes.length === 0 && !(entry.broken && flag === undefined)) continue;
    given++;
    yield { ...entry, changes };
  }
}

function isOf(part: PartChange["part"], name: string, flag: string): boolean {
  return name === flag && (part === "flag" || part === "suspension");
}

/** States of repositories whose history is remembered. */
const maxHistories = 4;

/** By repository, folder and the commit that is checked out: it never changes, so all who ask share one. */
const histories = new Map<string, History>();

async function historyAt(git: Git, signal: AbortSignal | undefined): Promise<History> {
  const head = await git.commit("HEAD", signal);
  const key = `${git.called} ${head}`;
  const known = histories.get(key) ?? new History(git, head);
  histories.delete(key);
  histories.set(key, known);
  if (histories.size > maxHistories) histories.delete([...histories.keys()][0]!);
  return known;
}

/** Commits that are asked for at once. */
const batch = 100;

/** The history of a folder up to a commit, worked out as far as somebody has asked. */
class History {
  readonly #git: Git;
  readonly #head: string | undefined;
  readonly #sets: Sets;
  readonly #entries: HistoryEntry[] = [];
  #isWhole = false;
  #working: Promise<void> = Promise.resolve();

  constructor(git: Git, head: string | undefined) {
    this.#git = git;
    this.#head = head;
    this.#sets = new Sets(git);
    this.#isWhole = head === undefined;
  }

  /** The entry of that number, 0 for the newest; undefined behind the last one. One is worked out after the other. */
  async entry(index: number): Promise<HistoryEntry | undefined> {
    while (index >= this.#entries.length && !this.#isWhole) {
      const working = this.#working.then(() => (index < this.#entries.length ? undefined : this.#next()));
      this.#working = working.catch(() => {});
      await working;
    }
    return this.#entries[index];
  }

  /** Commits that were listed and not worked out yet. */
  #left: Awaited<ReturnType<Git["commitObjects"]>> = [];
  #listed = 0;

  async #next(): Promise<void> {
    if (this.#left.length === 0) {
      const names = await this.#git.commitsOf(this.#head!, this.#listed, batch);
      this.#listed += names.length;
      this.#left = await this.#git.commitObjects(names);
    }
    const commit = this.#left[0];
    if (!commit) {
      this.#isWhole = true;
      return;
    }
    const { parents, ...said } = commit;
    const after = await this.#sets.at(commit.commit);
    const before = parents[0] === undefined ? undefined : await this.#sets.at(parents[0]);
    this.#entries.push({ ...said, ...compared(before, after) });
    this.#left = this.#left.slice(1);
  }
}

function compared(before: Loaded | undefined, after: Loaded): Pick<HistoryEntry, "changes" | "broken"> {
  if (!after.definitions) return { changes: [], broken: true };
  if (before && !before.definitions && before.content.definitions.length > 0) return { changes: [], broken: true };
  const empty = { ...after.definitions, ...nothing };
  return { changes: compareSets(before?.definitions ?? empty, after.definitions), broken: false };
}

const none = new Map<string, never>();
const nothing = { environments: none, attributes: none, cohorts: none, windows: none, flags: none, suspensions: none };

/** A commit is loaded once as somebody's parent and once for itself; only the last few are kept. */
class Sets {
  readonly #git: Git;
  readonly #kept = new Map<string, Promise<Loaded>>();
  /** What was read last: commits have most of their files in common. */
  #before: FolderContent | undefined;

  constructor(git: Git) {
    this.#git = git;
  }

  at(commit: string): Promise<Loaded> {
    let loaded = this.#kept.get(commit);
    if (!loaded) {
      loaded = this.#load(commit);
      loaded.catch(() => this.#kept.delete(commit));
      this.#kept.set(commit, loaded);
      if (this.#kept.size > 8) this.#kept.delete([...this.#kept.keys()][0]!);
    }
    return loaded;
  }

  async #load(commit: string): Promise<Loaded> {
    const loaded = await readSet(await filesOfCommit(this.#git, commit), { before: this.#before });
    this.#before = loaded.content;
    loaded.content.tools.worker.close();
    return loaded;
  }
}
