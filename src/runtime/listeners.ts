import { type AuditFacts, Events, type FlagsEvents } from "./events.ts";
import type { Pass } from "./pass.ts";
import { type Telling, ToldVerdict } from "./told.ts";
import { type VerdictEvent, type VerdictOptions, verdictFilter } from "./verdict-events.ts";

/** Whoever listens to flags. Verdicts are made into events only while somebody wants to hear of them. */
export class Listeners {
  /** Whether each answer is to be told, so that asking need not look further while none is. */
  hearAnswers = false;
  readonly #events = new Events<FlagsEvents>();
  readonly #environment: string | undefined;
  readonly #subjectKey: string | undefined;

  /** @param subjectKey the key by which private subjects are told as a digest */
  constructor(environment: string | undefined, subjectKey: string | undefined) {
    this.#environment = environment;
    this.#subjectKey = subjectKey;
  }

  get hearVerdicts(): boolean {
    return this.#events.count("verdict") > 0;
  }

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
    const wanted = verdictFilter(options);
    return this.#events.on("verdict", (told) => {
      if (wanted(told as ToldVerdict)) listener(told);
    });
  }

  #count(): void {
    this.hearAnswers = this.#events.count("verdict") > 0 || this.#events.count("audit") > 0;
  }

  emit<K extends keyof FlagsEvents>(event: K, value: FlagsEvents[K]): void {
    this.#events.emit(event, value);
  }

  /** Tells of one answer: as a verdict, and for the audit where it was an override that decided. */
  tell(telling: Telling, pass?: Pass): void {
    const { outcome, set } = telling;
    if (outcome.cause === "override" && this.#events.count("audit") > 0) {
      const verdict = outcome.verdict(set.revision);
      this.audit({ kind: "overridden", verdict, pass: verdict.overriddenBy === "pass" ? pass : undefined });
    }
    if (this.hearVerdicts) this.#events.emit("verdict", new ToldVerdict(telling, this.#subjectKey));
  }

  audit(facts: AuditFacts): void {
    this.#events.emit("audit", { at: new Date(), environment: this.#environment, ...facts });
  }

  clear(): void {
    this.#events.clear();
    this.#count();
  }
}
