import {
  commitChange,
  commitOnBranch,
  NothingToChange,
  type Plan,
  type Published,
  type PublishRequest,
  publishFolder,
  refuseUncommitted,
} from "../edit/index.ts";
import { ToolError } from "../files/index.ts";
import type { DeskOptions, DeskShelf } from "./options.ts";
import type { RecordWords } from "./protocol.ts";

/** What came of recording: where it can be found, or why it cannot. */
export interface Recorded {
  readonly commit?: string;
  readonly branch?: string;
  readonly edition?: number;
  /** The files are written; this is left to be done by hand. */
  readonly unrecorded?: string;
}

/** Who writes, and why. */
export interface Writing {
  readonly by: string;
  /** The meaning, and the note. */
  readonly message: string;
  readonly note: string;
}

/** How what is written is recorded, as configured. */
export class Recorder {
  readonly #folder: string;
  readonly #record: NonNullable<DeskOptions<never>["record"]>;
  readonly #keys: DeskOptions<never>["keys"];

  constructor({ folder, record = "files", keys }: Pick<DeskOptions<never>, "folder" | "record" | "keys">) {
    this.#folder = folder;
    this.#record = record;
    this.#keys = keys;
  }

  get words(): RecordWords {
    const record = this.#record;
    if (record === "files" || record === "commit") return { as: record };
    if ("shelf" in record) return { as: "edition", shelf: record.shelf.called };
    return { as: "branch", branch: record.branchUnder };
  }

  /** Before anything is written. @throws {ToolError} where it could not be recorded afterwards */
  async check({ files }: Plan): Promise<void> {
    const { as } = this.words;
    if (as === "commit" || as === "branch") await refuseUncommitted(this.#folder, files);
  }

  /** Where nothing is to be written into the folder: the commit that stands instead. Undefined where the files are written. */
  async aside({ files }: Plan, { by, message }: Writing): Promise<Recorded | undefined> {
    const { words } = this;
    if (words.as !== "branch") return undefined;
    const moment = new Date().toISOString().replace(/\D/g, "").slice(0, 14);
    const name = by.toLowerCase().replace(/[^a-z0-9]+/g, "-");
    const branch = `${words.branch}/${moment}-${name.replace(/^-|-$/g, "")}`;
    return { branch, commit: await commitOnBranch(this.#folder, files, { branch, message, author: by }) };
  }

  /** After the files of a draft have been written. */
  async draft({ files }: Plan, writing: Writing): Promise<Recorded> {
    const record = this.#record;
    if (record === "commit") return this.#commit(files, writing);
    if (typeof record !== "object" || !("shelf" in record)) return {};
    return this.#published(
      (request) => publishFolder(record.shelf, { ...request, folder: this.#folder }),
      record,
      writing,
    );
  }

  /** The shelf at which flags are stopped; undefined where they are stopped in the files. */
  get stopsAt(): DeskShelf | undefined {
    const record = this.#record;
    return typeof record === "object" && "shelf" in record ? record : undefined;
  }

  /** After a stop, or its end, has been written. On a branch a stop would stop nobody, so that it stays in the file. */
  async stop({ files }: Plan, writing: Writing): Promise<Recorded> {
    return this.#record === "commit" ? this.#commit(files, writing) : {};
  }

  async #commit(files: Plan["files"], { by, message }: Writing): Promise<Recorded> {
    try {
      return { commit: await commitChange(this.#folder, files, { message, author: by }) };
    } catch (error) {
      if (error instanceof ToolError) return { unrecorded: error.message };
      throw error;
    }
  }

  async #published(
    publish: (request: PublishRequest) => Promise<Published>,
    { key }: DeskShelf,
    { by, note }: Writing,
  ): Promise<Recorded> {
    try {
      const { edition } = await publish({ key, keys: this.#keys, by, note });
      if (edition) return { edition: edition.number };
      return { unrecorded: "The files are written, but the shelf refused them." };
    } catch (error) {
      // The shelf says so already.
      if (error instanceof NothingToChange) return {};
      return { unrecorded: `The files are written, but not published: ${(error as Error).message}` };
    }
  }
}
