import { Git, type Loaded, versionOf } from "../files/index.ts";
import { loadCommit } from "../study/index.ts";
import type { CurrentFolder } from "./current-folder.ts";
import { DeskFault } from "./desk-fault.ts";
import type { ShelfView } from "./shelf-view.ts";

/** A version of the definitions, with what stands in for it while it cannot be used. */
export interface Version {
  /** Says which state it is. */
  readonly version: string;
  readonly loaded: Loaded;
  readonly good: Loaded | undefined;
  readonly suspensions: Loaded["suspensions"];
}

/** So many earlier revisions are kept: moving between a few must not read them again. */
const maxKept = 4;

/** The versions that can be asked for: `files`, `commit:` and a revision of the repository, `edition:` and a number. */
export class Sources {
  readonly #standing: CurrentFolder;
  readonly #shelf: ShelfView | undefined;
  /** Commits and editions, by what they are asked for as; neither ever changes. */
  readonly #earlier = new Map<string, Promise<Loaded>>();
  #git: Promise<Git | undefined> | undefined;

  constructor(standing: CurrentFolder, shelf: ShelfView | undefined) {
    this.#standing = standing;
    this.#shelf = shelf;
  }

  /** @throws {DeskFault} where there is no such version */
  async version(by: string): Promise<Version> {
    if (by === "files") return this.#standing;
    const [, number] = /^edition:(\d{1,15})$/.exec(by) ?? [];
    if (number !== undefined) return earlier(await this.#edition(Number(number)));
    const [, revision] = /^commit:(.+)$/s.exec(by) ?? [];
    if (revision === undefined)
      throw new DeskFault(400, `“${by}” is not a version of the definitions.`, 'ask by "files"');
    return earlier(await this.#commit(revision));
  }

  /** The repository around the folder; undefined where there is none. */
  git(): Promise<Git | undefined> {
    this.#git ??= Git.around(this.#standing.folder).catch(() => undefined);
    return this.#git;
  }

  async #commit(revision: string): Promise<Loaded> {
    const git = await this.git();
    const commit = await git?.commit(revision);
    if (!git || commit === undefined)
      throw new DeskFault(404, `There is no revision “${revision}”.`, "write a commit, a branch or a tag");
    return this.#kept(commit, () => loadCommit(git, commit));
  }

  #edition(number: number): Promise<Loaded> {
    const shelf = this.#shelf;
    if (!shelf) throw new DeskFault(404, "The desk knows of no shelf.", "give it one: `shelf`, or `record`");
    return this.#kept(`edition ${number}`, () => shelf.edition(number));
  }

  #kept(key: string, load: () => Promise<Loaded>): Promise<Loaded> {
    const known = this.#earlier.get(key);
    if (known) return known;
    const loaded = load();
    loaded.catch(() => this.#earlier.delete(key));
    this.#earlier.set(key, loaded);
    if (this.#earlier.size > maxKept) this.#earlier.delete([...this.#earlier.keys()][0]!);
    return loaded;
  }
}

function earlier(loaded: Loaded): Version {
  return { version: versionOf(loaded.content), loaded, good: undefined, suspensions: loaded.suspensions };
}
