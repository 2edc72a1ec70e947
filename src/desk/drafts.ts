import { createHash } from "node:crypto";
import { mkdir, readFile, rename } from "node:fs/promises";
import { homedir } from "node:os";
import { join } from "node:path";
import type { Change } from "../edit/index.ts";
import { writeAside } from "../files/index.ts";
import { DeskFault } from "./desk-fault.ts";
import { readChange } from "./read-change.ts";

/** A change of a draft, under a number that it keeps. */
export interface DraftStep {
  readonly id: number;
  readonly change: Change;
}

/** What somebody has gathered, and nobody else sees. */
export interface Draft {
  /** Grows with every change of the draft. */
  readonly number: number;
  readonly steps: readonly DraftStep[];
}

const empty: Draft = { number: 0, steps: [] };

/** More than this is no draft any more. */
const maxSteps = 500;

/**
 * The drafts of a folder, by person, kept on disk: they outlive the process, and the browser. Each is written aside and
 * renamed; one that cannot be read is set aside, and never written over.
 */
export class Drafts {
  readonly #home: string;
  readonly #folder: string;
  readonly #drafts = new Map<string, Promise<Draft>>();
  readonly #listeners = new Set<() => void>();

  /** @param home where drafts are kept; a folder of the person who runs the process if undefined */
  constructor(folder: string, home: string | undefined) {
    const state = process.env["XDG_STATE_HOME"] || join(homedir(), ".local", "state");
    this.#home = home ?? join(state, "iudex", "drafts");
    this.#folder = folder;
  }

  of(name: string): Promise<Draft> {
    let draft = this.#drafts.get(name);
    if (!draft) {
      draft = this.#load(name);
      draft.catch(() => this.#drafts.delete(name));
      this.#drafts.set(name, draft);
    }
    return draft;
  }

  /** Changes a draft; changes of one draft take turns. */
  change(name: string, change: (steps: readonly DraftStep[], next: number) => readonly DraftStep[]): Promise<Draft> {
    const before = this.of(name);
    const after = before.then(async (draft) => {
      const steps = change(draft.steps, draft.number + 1);
      if (steps.length > maxSteps)
        throw new DeskFault(409, `A draft holds at most ${maxSteps} changes.`, "write them first");
      const next = { number: draft.number + 1, steps };
      await this.#save(name, next);
      return next;
    });
    // What could not be kept leaves the draft as it was.
    this.#drafts.set(
      name,
      after.catch(() => before),
    );
    return after.then((draft) => {
      for (const listener of [...this.#listeners]) listener();
      return draft;
    });
  }

  listen(listener: () => void): () => void {
    this.#listeners.add(listener);
    return () => void this.#listeners.delete(listener);
  }

  #path(name: string): string {
    return join(this.#home, `${digest(this.#folder)}-${digest(name)}.json`);
  }

  async #load(name: string): Promise<Draft> {
    const path = this.#path(name);
    const text = await readFile(path, "utf8").catch((error: NodeJS.ErrnoException) => {
      if (error.code === "ENOENT") return undefined;
      throw new DeskFault(503, `The draft of ${name} cannot be read: ${error.code}.`);
    });
    if (text === undefined) return empty;
    try {
      const { number, steps } = JSON.parse(text) as Draft;
      if (!Number.isInteger(number)) throw new Error("no number");
      return { number, steps: steps.map(({ id, change }) => ({ id: Number(id), change: readChange(change) })) };
    } catch {
      await rename(path, `${path}.unreadable-${Date.now()}`);
      return empty;
    }
  }

  async #save(name: string, draft: Draft): Promise<void> {
    try {
      await mkdir(this.#home, { recursive: true, mode: 0o700 });
      const content = { folder: this.#folder, name, ...draft };
      await writeAside(this.#path(name), `${JSON.stringify(content, undefined, 2)}\n`);
    } catch (error) {
      const { code } = error as NodeJS.ErrnoException;
      throw new DeskFault(
        503,
        `The draft cannot be kept: ${code ?? (error as Error).message}.`,
        "nothing was changed; try again",
      );
    }
  }
}

function digest(text: string): string {
  return createHash("sha256").update(text).digest("hex").slice(0, 20);
}
