import { Outcome } from "../judge/index.ts";
import { didYouMean, noSuch } from "../values/index.ts";
import { FlagsError } from "./errors.ts";

const maxTold = 1_000;

/** Flags that nobody defines and a program asks for: told once each, or thrown. */
export class UnknownFlags {
  readonly #told = new Set<string>();
  readonly #report: ((message: string) => void) | undefined;

  /** @param report takes what there is to say; left out, unknown flags are thrown */
  constructor(report: ((message: string) => void) | undefined) {
    this.#report = report;
  }

  /**
   * What such a flag gives. Programs without types can ask for anything.
   *
   * @param known the names of the flags that there are
   */
  outcome(asked: unknown, known: Iterable<string>): Outcome {
    const name = typeof asked === "string" || typeof asked === "symbol" ? String(asked) : typeof asked;
    if (!this.#report) throw new FlagsError(noSuchFlag(name, known));
    if (!this.#told.has(name) && this.#told.size < maxTold) {
      this.#told.add(name);
      this.#report(noSuchFlag(name, known));
    }
    return new Outcome({ flag: name, value: undefined, cause: "fallback", problem: "unknown-flag" });
  }
}

/** That there is no such flag, and which one may be meant. */
export function noSuchFlag(name: string, known: Iterable<string>): string {
  const help = didYouMean(name, known);
  const message = noSuch("flag", name);
  return help ? `${message.slice(0, -1)}; ${help}` : message;
}
