import type { Listeners } from "./listeners.ts";
import type { AskingOptions } from "./options.ts";
import { isForContext, type Pass, readPass } from "./pass.ts";
import { RefusedPasses } from "./refused-passes.ts";

type Options = Pick<AskingOptions<unknown>, "environment" | "keysForPasses" | "rulesForPasses">;

/** Takes passes, and says of each whether it counts for an environment, a person and an instant. */
export class Passes {
  readonly #options: Options;
  readonly #listeners: Pick<Listeners, "audit">;
  readonly #refused: RefusedPasses;

  constructor(options: Options, listeners: Pick<Listeners, "audit">, report: (message: string) => void) {
    this.#options = options;
    this.#listeners = listeners;
    this.#refused = new RefusedPasses(report);
  }

  /** The pass, if there is no doubt about it. */
  async verify(token: string, now: number): Promise<Pass | undefined> {
    const { environment, keysForPasses: keys, rulesForPasses: rules = {} } = this.#options;
    const pass = keys ? await readPass(token, { keys, rules, environment, now }) : "no keys were given to verify it by";
    if (typeof pass !== "string") {
      this.#listeners.audit({ kind: "pass-taken", pass });
      return pass;
    }
    this.#listeners.audit({ kind: "pass-refused", reason: pass });
    this.#refused.tell(pass);
    return undefined;
  }

  /** Whether a pass counts here and now. */
  takes(pass: Pass, at: number): boolean {
    return pass.environment === this.#options.environment && pass.expires > at;
  }

  /**
   * The flags that a pass overrides for this person; undefined where it does not count.
   *
   * @param touchable the flags that a pass may touch in this environment; every one if left out
   */
  flagsFor(
    pass: Pass,
    context: unknown,
    at: number,
    touchable: readonly string[] | undefined,
  ): ReadonlyMap<string, unknown> | undefined {
    if (!this.takes(pass, at)) return undefined;
    if (!isForContext(pass, context)) {
      this.#refused.tell("it is for somebody else");
      return undefined;
    }
    const flags = Object.entries(pass.flags);
    const taken = touchable ? flags.filter(([name]) => touchable.includes(name)) : flags;
    const [left] = flags.filter((each) => !taken.includes(each));
    if (left) this.#refused.tell(`the passes of ${pass.environment} do not hold “${left[0]}”, so it has no effect`);
    return new Map(taken);
  }

  close(): void {
    this.#refused.close();
  }
}
