import type { LocatedProblem } from "../files/index.ts";
import { shortRevision } from "../model/index.ts";
import type { RecoveredEvent } from "./events.ts";
import type { Origin } from "./store.ts";

/** How things stand with the definitions: for readiness probes, and for the end of an alarm. */
export interface Health {
  /** Whether what is in force is what the files or the shelf say now. Verdicts go on either way. */
  readonly sound: boolean;
  /** Since when it is so. */
  readonly since: Date;
  /** The revision in force. */
  readonly revision: string;
  /** Milliseconds since the files or the shelf last said that this is the newest. */
  readonly age: number;
  /** Why it is not sound; empty where it is. */
  readonly problems: readonly HealthProblem[];
  readonly origin: Origin;
}

/** What keeps newer definitions from being in force. */
export interface HealthProblem {
  readonly message: string;
  /** Where it is, where that is in a file. */
  readonly located?: LocatedProblem | undefined;
}

/** Keeps in mind whether the source of definitions is sound. */
export class HealthRecord {
  #problems: readonly HealthProblem[] = [];
  #since = new Date();
  #confirmed = Date.now();

  get isSound(): boolean {
    return this.#problems.length === 0;
  }

  /** What is in force is the newest; where it was not before, that is told. */
  sound(revision: string, tell: (event: RecoveredEvent) => void): void {
    const { isSound } = this;
    const since = this.#since;
    this.#confirmed = Date.now();
    if (isSound) return;
    this.#problems = [];
    this.#since = new Date();
    const seconds = Math.round((this.#confirmed - since.getTime()) / 1_000);
    const summary = `the definitions are sound again, after ${seconds} s; ${shortRevision(revision)} is in force`;
    tell({ revision, at: this.#since, since, summary });
  }

  /** What is newer cannot be used, or is not known. */
  unsound(problems: readonly HealthProblem[]): void {
    if (this.isSound) this.#since = new Date();
    this.#problems = problems;
  }

  read(revision: string, origin: Origin): Health {
    const confirmed = origin.kind === "shelf" ? origin.confirmed.getTime() : this.#confirmed;
    return {
      sound: this.isSound,
      since: this.#since,
      revision,
      age: Math.max(0, Date.now() - confirmed),
      problems: this.#problems,
      origin,
    };
  }
}
