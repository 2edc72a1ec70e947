import { type Change, EditSession, type WorkedChange, workOut } from "../edit/index.ts";
import { type Loaded, versionOf } from "../files/index.ts";
import type { CurrentFolder } from "./current-folder.ts";
import type { Draft, Drafts } from "./drafts.ts";

/** A draft, worked out on the files as they stand. */
export interface WorkedDraft {
  readonly draft: Draft;
  /** Of the files that it was worked out on. */
  readonly version: string;
  readonly base: Loaded;
  readonly work: EditSession;
  /** In the order of the draft. */
  readonly worked: readonly WorkedChange[];
}

/** So many people's drafts are kept worked out. */
const maxKept = 8;

/** Drafts on the files as they stand: worked out anew whenever either changes. */
export class WorkedDrafts {
  readonly #standing: CurrentFolder;
  readonly #drafts: Drafts;
  readonly #kept = new Map<string, { readonly key: string; readonly worked: Promise<WorkedDraft> }>();

  constructor(standing: CurrentFolder, drafts: Drafts) {
    this.#standing = standing;
    this.#drafts = drafts;
  }

  async of(name: string): Promise<WorkedDraft> {
    const draft = await this.#drafts.of(name);
    const base = this.#standing.loaded;
    const version = versionOf(base.content);
    const key = `${version} ${draft.number}`;
    const known = this.#kept.get(name);
    if (known?.key === key) return known.worked;
    const worked = workOn(base, draft, version);
    worked.catch(() => this.#kept.delete(name));
    this.#kept.delete(name);
    this.#kept.set(name, { key, worked });
    if (this.#kept.size > maxKept) this.#kept.delete([...this.#kept.keys()][0]!);
    return worked;
  }
}

async function workOn(base: Loaded, draft: Draft, version: string): Promise<WorkedDraft> {
  const changes: readonly Change[] = draft.steps.map(({ change }) => change);
  return { draft, version, base, ...(await workOut(changes, EditSession.of(base))) };
}
