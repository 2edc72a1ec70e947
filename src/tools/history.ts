import type { Loaded } from "../folder/index.ts";
import { compareSets, type PartChange } from "../insight/index.ts";
import { loadCommit } from "./definition-source.ts";
import { Git } from "./git/git.ts";

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
}

/** Earlier changes of a definition folder by meaning, newest first, from the log of its repository. */
export async function* historyOf(
  folder: string,
  { flag, most = 20 }: HistoryOptions = {},
): AsyncGenerator<HistoryEntry> {
  const git = await Git.around(folder);
  const format = ["%H", "%P", "%aI", "%an", "%B"].join("%x00");
  const where = git.prefix.replace(/\/$/, "");
  // The top of a repository is all of it; a pathspec for it would match nothing.
  const within = where === "" ? [] : ["--", `:(top,literal)${where}`];
  const log = await git.run("log", "-z", `--format=tformat:${format}%x00%x1e`, ...within);
  const sets = new Sets(git);
  let called = flag;
  let given = 0;
  for (const record of log.split("\u001e\0").filter((each) => each.trim() !== "")) {
    const [commit, parents, date, author, note] = record.replace(/^\n/, "").split("\0") as [
      string,
      string,
      string,
      string,
      string,
    ];
    const [parent] = parents.split(" ").filter(Boolean);
    const after = await sets.at(commit);
    const before = parent === undefined ? undefined : await sets.at(parent);
    const entry = { commit, date, author, note: note.trim(), ...compared(before, after) };
    const changes =
      called === undefined ? entry.changes : entry.changes.filter(({ part, name }) => isOf(part, name, called!));
    for (const { name, from } of changes) if (name === called && from !== undefined) called = from;
    if (changes.length === 0 && !(entry.broken && flag === undefined)) continue;
    yield { ...entry, changes };
    if (++given >= most) return;
  }
}

function isOf(part: PartChange["part"], name: string, flag: string): boolean {
  return name === flag && (part === "flag" || part === "suspension");
}

function compared(before: Loaded | undefined, after: Loaded): Pick<HistoryEntry, "changes" | "broken"> {
  if (!after.definitions) return { changes: [], broken: true };
  if (before && !before.definitions && before.content.scan.definitions.length > 0) return { changes: [], broken: true };
  const empty = { ...after.definitions, ...nothing };
  return { changes: compareSets(before?.definitions ?? empty, after.definitions), broken: false };
}

const none = new Map<string, never>();
const nothing = { environments: none, attributes: none, cohorts: none, windows: none, flags: none, suspensions: none };

/** A commit is loaded once as somebody's parent and once for itself; only the last few are kept. */
class Sets {
  readonly #git: Git;
  readonly #kept = new Map<string, Promise<Loaded>>();

  constructor(git: Git) {
    this.#git = git;
  }

  at(commit: string): Promise<Loaded> {
    let loaded = this.#kept.get(commit);
    if (!loaded) {
      loaded = loadCommit(this.#git, commit);
      this.#kept.set(commit, loaded);
      if (this.#kept.size > 8) this.#kept.delete([...this.#kept.keys()][0]!);
    }
    return loaded;
  }
}
