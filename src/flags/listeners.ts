import type { FlagSet, Outcome } from "../judge/index.ts";
import { didYouMean, noSuch, sentenceList } from "../values/index.ts";
import { Audience } from "./audience.ts";
import { FlagsError } from "./errors.ts";
import type { AuditFacts, FlagsEvents } from "./events.ts";
import type { Pass } from "./pass.ts";
import { positionOf, type Telling, ToldVerdict } from "./told.ts";
import { type VerdictOptions, verdictFilter } from "./verdict-events.ts";

type Audiences = { readonly [K in keyof FlagsEvents]: Audience<FlagsEvents[K]> };

/** Whoever listens to flags. Verdicts are made into events only while somebody wants to hear of them. */
export class Listeners {
  /** Whether any answer is to be told, so that asking need not look further while none is. */
  hearAnswers = false;
  /** Whether anybody hears verdicts. */
  hearVerdicts = false;
  /** Whether anybody hears what bypasses the rules. */
  #hearAudits = false;
  readonly #audiences: Audiences = {
    change: new Audience(),
    rejected: new Audience(),
    recovered: new Audience(),
    problem: new Audience(),
    overrides: new Audience(),
    closing: new Audience(),
    verdict: new Audience(),
    audit: new Audience(),
  };
  readonly #environment: string | undefined;
  readonly #subjectKey: string | undefined;
  /** The parts of subjects that those who hear verdicts are told of, and the largest of them. */
  readonly #shares = new Map<object, number>();
  #most = 0;

  /** @param subjectKey the key by which private subjects are told as a digest */
  constructor(environment: string | undefined, subjectKey: string | undefined) {
    this.#environment = environment;
    this.#subjectKey = subjectKey;
  }

  /** @throws {FlagsError} for an event that there is not */
  on<K extends keyof FlagsEvents>(
    event: K,
    listener: (event: FlagsEvents[K]) => unknown,
    options: VerdictOptions = {},
  ): () => void {
    const audience = this.#audience(event);
    const wants = event === "verdict" ? wantedBy(options) : undefined;
    const off = audience.add(wants ? (value) => (wants(value) ? listener(value) : undefined) : listener);
    if (event === "verdict") this.#shares.set(off, options.share ?? 1);
    this.#count();
    return () => {
      off();
      this.#shares.delete(off);
      this.#count();
    };
  }

  /** Programs without types can name any event. */
  #audience<K extends keyof FlagsEvents>(event: K): Audiences[K] {
    if (Object.hasOwn(this.#audiences, event)) return this.#audiences[event];
    const [name, known] = [String(event), Object.keys(this.#audiences)];
    const help = didYouMean(name, known) ?? `known are ${sentenceList(known)}.`;
    throw new FlagsError(`${noSuch("event", name).slice(0, -1)}; ${help}`);
  }

  #count(): void {
    this.#most = Math.max(0, ...this.#shares.values());
    this.#hearAudits = this.#audiences.audit.size > 0;
    this.hearVerdicts = this.#audiences.verdict.size > 0;
    this.hearAnswers = this.hearVerdicts || this.#hearAudits;
  }

  emit<K extends keyof FlagsEvents>(event: K, value: FlagsEvents[K]): void {
    this.#audiences[event].tell(value);
  }

  /** Whether anybody is told of what this subject was given. Where nobody is, nothing need be made for telling it. */
  concerns(outcome: Outcome, set: FlagSet, context: unknown): boolean {
    if (this.#most >= 1 || (this.#hearAudits && outcome.cause === "override")) return true;
    return this.#most > 0 && positionOf(outcome, set, context) < this.#most;
  }

  /**
   * Tells of one answer that concerns somebody: as a verdict, and for the audit where it was an override that decided.
   *
   * @param clock gives the instant of the answer, in epoch milliseconds
   */
  tell(telling: Telling, clock: () => number, pass?: Pass): void {
    const { outcome, set } = telling;
    if (this.#hearAudits && outcome.cause === "override") {
      const verdict = outcome.verdict(set.revision);
      this.audit({ kind: "overridden", verdict, pass: verdict.overriddenBy === "pass" ? pass : undefined });
    }
    if (this.hearVerdicts) this.#audiences.verdict.tell(new ToldVerdict(telling, clock(), this.#subjectKey));
  }

  audit(facts: AuditFacts): void {
    this.emit("audit", { at: new Date(), environment: this.#environment, ...facts });
  }

  clear(): void {
    for (const audience of Object.values(this.#audiences)) audience.clear();
    this.#shares.clear();
    this.#count();
  }
}

/** Which verdicts a listener is told of; undefined for all. */
function wantedBy({ share = 1, asked, distinct }: VerdictOptions): ((event: object) => boolean) | undefined {
  if (share >= 1 && asked === undefined && !distinct) return undefined;
  const isWanted = verdictFilter({ asked, distinct });
  return (event) => event instanceof ToldVerdict && (share >= 1 || event.position < share) && isWanted(event);
}
