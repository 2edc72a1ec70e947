import { publishFolder } from "../fleet/index.ts";
import { commitChange, commitOnBranch, type Plan, refuseUncommitted, ToolError } from "../tools/index.ts";
import type { DeskRecord } from "./options.ts";
import type { RecordWords } from "./talk.ts";

/** What came of recording: where it can be found. */
export interface Recorded {
  readonly commit?: string;
  readonly branch?: string;
  readonly edition?: number;
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
  readonly #record: DeskRecord;

  constructor(folder: string, record: DeskRecord = "files") {
    this.#folder = folder;
    this.#record = record;
  }

  get words(): RecordWords {
    const record = this.#record;
    if (record === "files" || record === "commit") return { as: record };
    if ("shelf" in record) return { as: "edition", shelf: record.shelf.called };
    return { as: "branch", branch: record.branchUnder };
  }

  /** True where nothing is written into the folder: it changes when the branch is merged. */
  get isAside(): boolean {
    return this.words.as === "branch";
  }

  /** Before anything is written. @throws {ToolError} where it could not be recorded afterwards */
  async check({ files }: Plan): Promise<void> {
    if (this.words.as === "commit" || this.isAside) await refuseUncommitted(this.#folder, files);
  }

  /** Instead of writing the files. */
  async commitAside({ files }: Plan, { by, message }: Writing): Promise<Recorded> {
    const record = this.#record as { readonly branchUnder: string };
    const moment = new Date().toISOString().replace(/\D/g, "").slice(0, 14);
    const branch = `${record.branchUnder}/${moment}-${by
      .toLowerCase()
      .replace(/[^a-z0-9]+/g, "-")
      .replace(/^-|-$/g, "")}`;
    const commit = await commitOnBranch(this.#folder, files, { branch, message, author: by });
    return { commit, branch };
  }

  /** After the files have been written. @throws {ToolError} that says that they are, where recording them fails */
  async record({ files }: Plan, { by, message, note }: Writing): Promise<Recorded> {
    const record = this.#record;
    if (record === "commit") return { commit: await commitChange(this.#folder, files, { message, author: by }) };
    if (typeof record !== "object" || !("shelf" in record)) return {};
    const { edition } = await publishFolder(record.shelf, { folder: this.#folder, key: record.key, by, note }).catch(
      (error: Error) => {
        throw new ToolError(
          `The files are written, but not published: ${error.message}`,
          "publish them: iudex publish",
        );
      },
    );
    if (!edition) throw new ToolError("The files are written, but the shelf refused them.", "see iudex publish");
    return { edition: edition.number };
  }
}
