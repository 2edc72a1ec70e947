import type { Loaded } from "../folder/index.ts";
import { Git, loadCommit } from "../tools/index.ts";
import { DeskFault } from "./desk-fault.ts";
import type { Standing } from "./standing.ts";

/** A version of the definitions, with what stands in for it while it cannot be used. */
export interface Version {
  /** Says which state it is. */
  readonly version: string;
  readonly loaded: Loaded;
  readonly good: Loaded | undefined;
}

/** So many earlier revisions are kept: moving between a few must not read them again. */
const keptCommits = 4;

/** The versions of the definitions that can be asked for: `files`, or `commit:` and a revision of the repository. */
export class Sources {
  readonly #standing: Standing;
  readonly #commits = new Map<string, Promise<Loaded>>();
  #git: Promise<Git | undefined> | undefined;

  constructor(standing: Standing) {
    this.#standing = standing;
  }

  /** @throws {DeskFault} where there is no such version */
  async version(by: string): Promise<Version> {
    if (by === "files") return this.#standing;
    const [, revision] = /^commit:(.+)$/s.exec(by) ?? [];
    if (revision === undefined) throw new DeskFault(400, `“${by}” is no version of the definitions.`, 'ask by "files"');
    const loaded = await this.#commit(revision);
    return { version: loaded.definitions?.revision ?? revision, loaded, good: undefined };
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
    let loaded = this.#commits.get(commit);
    if (!loaded) {
      loaded = loadCommit(git, commit);
      loaded.catch(() => this.#commits.delete(commit));
      this.#commits.set(commit, loaded);
      if (this.#commits.size > keptCommits) this.#commits.delete([...this.#commits.keys()][0]!);
    }
    return loaded;
  }
}
