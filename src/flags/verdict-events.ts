import type { Explanation } from "../insight/index.ts";
import type { Verdict } from "../judge/index.ts";

/** Who wanted to know: the program itself; a page, which is handed its values; or a page that reports what it asked for. */
export type AskedBy = "program" | "page" | "seen";

/** The id that a rule's share or split went by. */
export interface DrawnId {
  /** The attribute, as conditions write it. */
  readonly by: string;
  /** As text; where the attribute is private "•••", or its keyed digest. */
  readonly id: string;
}

/** A rule whose condition held, and whose share left the subject out. */
export interface OutsideRule extends DrawnId {
  /** Its number, from 1. */
  readonly rule: number;
  readonly ruleName?: string | undefined;
}

/** One verdict that was given. It holds nothing of the context but the subject's id. */
export interface VerdictEvent {
  readonly at: Date;
  readonly environment: string | undefined;
  readonly verdict: Verdict;
  readonly asked: AskedBy;
  /** The id by which the flag's shares go, as text; where that attribute is private "•••", or its keyed digest. */
  readonly subject: string | undefined;
  /** Whom the rule drew that decided; undefined where it has neither a share nor a split. */
  readonly drawn: DrawnId | undefined;
  /** The rules that would have decided, had the subject been inside their share. */
  readonly outside: readonly OutsideRule[];
  /** The attributes at which tests on the way to the verdict were undecided, as conditions write them, each once. */
  readonly undecided: readonly string[];
  /** Explains the verdict, when somebody wants to know. */
  explain(): Explanation | undefined;
}

/** Which verdicts a listener is told of. */
export interface VerdictOptions {
  /** The part of subjects that is told of, from 0 to 1; always the same subjects. */
  readonly share?: number | undefined;
  /** Tells only once of each flag, subject and verdict, whom its rules drew and left out included, as far as memory goes. */
  readonly distinct?: boolean | undefined;
  /** Only what these asked: the program, pages when they are handed values, pages that report what they saw. All if left
   * out. */
  readonly asked?: AskedBy | readonly AskedBy[] | undefined;
}

/** A verdict that can be held against those that were told before. */
export interface TellableVerdict extends VerdictEvent {
  /** What tells those apart who were given the same verdict: the subject, and whom the rules drew and left out. */
  readonly whom: string;
}

const maxRemembered = 50_000;

/** A filter for verdict events: those of some askers only, or nothing twice. */
export function verdictFilter({ distinct = false, asked }: VerdictOptions): (event: TellableVerdict) => boolean {
  const told = new ToldBefore();
  const wanted = asked === undefined ? undefined : [asked].flat();
  return (event) => {
    if (wanted !== undefined && !wanted.includes(event.asked)) return false;
    return !distinct || told.takes(event);
  };
}

/** The people about whom each verdict was told already. */
class ToldBefore {
  #byText = new Map<string, Set<string>>();
  /** The same, by the object that a rule gives again and again. */
  #byVerdict = new WeakMap<Verdict, Set<string>>();
  #count = 0;

  /** @returns false where it was told before */
  takes({ verdict, whom }: TellableVerdict): boolean {
    if (this.#count >= maxRemembered) this.#forget();
    const told = this.#byVerdict.get(verdict) ?? this.#find(verdict);
    if (told.has(whom)) return false;
    told.add(whom);
    this.#count++;
    return true;
  }

  #find(verdict: Verdict): Set<string> {
    const { flag, cause, rule, variant, revision, value } = verdict;
    const text = JSON.stringify([flag, cause, rule, variant, revision, value]);
    const told = this.#byText.get(text) ?? new Set();
    this.#byText.set(text, told);
    this.#byVerdict.set(verdict, told);
    return told;
  }

  #forget(): void {
    this.#byText = new Map();
    this.#byVerdict = new WeakMap();
    this.#count = 0;
  }
}

/** A stream, or anything else that takes lines. */
export interface LineSink {
  /** Takes a line with its line break. */
  write(line: string): unknown;
}

/**
 * A listener that writes each verdict as a line of NDJSON.
 *
 * @example flags.on("verdict", verdictLog(createWriteStream("verdicts.ndjson")), { distinct: true })
 */
export function verdictLog(sink: LineSink): (event: VerdictEvent) => void {
  return ({ at, environment, verdict, asked, subject, drawn, outside }) => {
    sink.write(
      `${JSON.stringify({ at: at.toISOString(), environment, asked, subject, drawn, ...verdict, outside })}\n`,
    );
  };
}

/** A span that events can be added to. */
export interface ActiveSpan {
  /** Adds an event with its attributes. */
  addEvent(name: string, attributes: Record<string, string>): unknown;
}

/** The part of the OpenTelemetry API that is needed: the span that is active now. */
export interface TraceApi {
  /** The span that is active; its `addEvent` is called with the name and the attributes of the event. */
  getActiveSpan(): ActiveSpan | undefined;
}

const reasons: Readonly<Record<Verdict["cause"], string>> = {
  override: "static",
  suspended: "disabled",
  withheld: "default",
  rule: "targeting_match",
  otherwise: "default",
  fallback: "error",
};

/**
 * A listener that adds each verdict to the active span as an event, by the OpenTelemetry semantic conventions for
 * feature flags.
 *
 * @example
 * import { trace } from "@opentelemetry/api";
 * flags.on("verdict", spanEvents(trace));
 */
export function spanEvents(trace: TraceApi): (event: VerdictEvent) => void {
  return ({ verdict, subject }) => {
    const { flag, value, variant, cause, revision, problem } = verdict;
    trace.getActiveSpan()?.addEvent("feature_flag.evaluation", {
      "feature_flag.key": flag,
      "feature_flag.provider.name": "iudex",
      "feature_flag.result.reason": reasons[cause],
      ...(variant === undefined
        ? { "feature_flag.result.value": JSON.stringify(value) ?? "" }
        : { "feature_flag.result.variant": variant }),
      ...(revision === undefined ? {} : { "feature_flag.version": revision }),
      ...(subject === undefined ? {} : { "feature_flag.context.id": subject }),
      ...(problem === undefined
        ? {}
        : { "error.type": problem === "unknown-flag" ? "flag_not_found" : "type_mismatch" }),
    });
  };
}
