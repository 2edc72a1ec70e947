import { type AuditFacts, Events, type FlagsEvents } from "./events.ts";
import type { Pass } from "./pass.ts";
import { positionOf, type Telling, ToldVerdict } from "./told.ts";
import { type VerdictEvent, type VerdictOptions, verdictFilter } from "./verdict-events.ts";

/** Whoever listens to flags. Verdicts are made into events only while somebody wants to hear of them. */
export class Listeners {
  /** Whether each answer is to be told, so that asking need not look further while none is. */
  hearAnswers = false;
  readonly #events = new Events<FlagsEvents>();
  readonly #environment: string | undefined;
  readonly #subjectKey: string | undefined;
  /** The parts of subjects that those who hear verdicts are told of. */
  readonly #shares = new Map<object, number>();
  /** The largest of them, and whether any leaves somebody out. */
  #most = 0;
  #draws = false;

  /** @param subjectKey the key by which private subjects are told as a digest */
  constructor(environment: string | undefined, subjectKey: string | undefined) {
    this.#environment = environment;
    this.#subjectKey = subjectKey;
  }

  /** Whether anybody hears verdicts. */
  hearVerdicts = false;
  /** Whether anybody hears what bypasses the rules. */
  #hearAudits = false;

  on<K extends keyof FlagsEvents>(
    event: K,
    listener: (event: FlagsEvents[K]) => void,
    options: VerdictOptions = {},
  ): () => void {
    const off = event === "verdict" ? this.#onVerdict(listener as never, options) : this.#events.on(event, listener);
    this.#count();
    return () => {
      off();
      this.#count();
    };
  }

  #onVerdict(listener: (event: VerdictEvent) => void, options: VerdictOptions): () => void {
    const { share = 1 } = options;
    const wanted = verdictFilter(options);
    const heard = (told: VerdictEvent) => {
      if ((share >= 1 || (told as ToldVerdict).position < share) && wanted(told)) listener(told);
    };
    // Whoever wants everything is told without being asked.
    const isPlain = share >= 1 && options.asked === undefined && !options.distinct;
    const off = this.#events.on("verdict", isPlain ? listener : heard);
    this.#shares.set(off, share);
    this.#draw();
    return () => {
      off();
      this.#shares.delete(off);
      this.#draw();
    };
  }

  #draw(): void {
    const shares = [...this.#shares.values()];
    this.#most = Math.max(...shares);
    this.#draws = shares.some((share) => share < 1);
  }

  #count(): void {
    this.hearVerdicts = this.#events.count("verdict") > 0;
    this.#hearAudits = this.#events.count("audit") > 0;
    this.hearAnswers = this.hearVerdicts || this.#hearAudits;
  }

  emit<K extends keyof FlagsEvents>(event: K, value: FlagsEvents[K]): void {
    this.#events.emit(event, value);
  }

  /**
   * Tells of one answer: as a verdict, and for the audit where it was an override that decided. Where nobody hears of
   * its subject, no event is made.
   *
   * @param clock gives the instant of the answer, in epoch milliseconds
   */
  tell(telling: Telling, clock: () => number, pass?: Pass): void {
    const { outcome, set } = telling;
    if (this.#hearAudits && outcome.cause === "override") {
      const verdict = outcome.verdict(set.revision);
      this.audit({ kind: "overridden", verdict, pass: verdict.overriddenBy === "pass" ? pass : undefined });
    }
    if (!this.hearVerdicts) return;
    const position = this.#draws ? positionOf(telling) : 0;
    if (position < this.#most)
      this.#events.emit("verdict", new ToldVerdict(telling, clock(), position, this.#subjectKey));
  }

  audit(facts: AuditFacts): void {
    this.#events.emit("audit", { at: new Date(), environment: this.#environment, ...facts });
  }

  clear(): void {
    this.#events.clear();
    this.#shares.clear();
    this.#count();
  }
}
