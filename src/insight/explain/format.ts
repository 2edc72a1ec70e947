import { showInstant } from "../../calendar/index.ts";
import { ruleCalled, shortRevision } from "../../model/index.ts";
import { printable, show, showPercent, showRange } from "../../values/index.ts";
import type {
  ConditionTrace,
  Explanation,
  RuleStep,
  ShareTrace,
  SplitTrace,
  Step,
  SuspendedStep,
  TestTrace,
} from "./explanation.ts";
import { showPosition } from "./trace-condition.ts";

/** How an explanation is shown. */
export interface FormatOptions {
  /** The zone in which instants are shown; UTC by default. */
  readonly zone?: string | undefined;
  readonly paint?: ExplanationPaint | undefined;
}

/** Colours, or none. */
export interface ExplanationPaint {
  /** What is true, or was given. */
  yes(text: string): string;
  /** What is false. */
  no(text: string): string;
  /** What is undecided. */
  open(text: string): string;
  /** Headings. */
  strong(text: string): string;
  /** What may be skipped. */
  faint(text: string): string;
}

const same = (text: string) => text;
const plain: ExplanationPaint = { yes: same, no: same, open: same, strong: same, faint: same };

/** An explanation as text: what was given and why, then the numbered steps with a mark under the deciding test. */
export function formatExplanation(explanation: Explanation, options: FormatOptions = {}): string {
  return new Formatter(options).explanation(explanation).join("\n");
}

/** A condition's trace on its own, for showing what it answers and why. */
export function formatCondition(trace: ConditionTrace, options: FormatOptions = {}): string {
  return new Formatter(options).condition(trace, "").join("\n");
}

/** What of a verdict says why. */
interface CauseGiven {
  readonly cause: Explanation["cause"];
  readonly rule?: number | undefined;
  readonly ruleName?: string | undefined;
}

/** Why a flag gives what it gives, in a few words: "rule 2 “frequent travellers” matches". */
export function causeWords({ cause, rule, ruleName }: CauseGiven): string {
  switch (cause) {
    case "override":
      return "it is overridden";
    case "suspended":
      return "it is suspended, so it gives its safe value";
    case "withheld":
      return "what it is provided on does not hold, so it gives its safe value";
    case "rule":
      return `${printable(ruleCalled({ number: rule ?? 0, name: ruleName }))} matches`;
    case "otherwise":
      return "no rule matches";
    case "fallback":
      return "there is no such flag to ask";
  }
}

class Formatter {
  readonly #zone: string | undefined;
  readonly #paint: ExplanationPaint;

  constructor({ zone, paint }: FormatOptions) {
    this.#zone = zone;
    this.#paint = paint ?? plain;
  }

  explanation(e: Explanation): string[] {
    const lines = [this.#headline(e), this.#paint.faint(this.#circumstances(e)), ""];
    for (const [i, step] of e.steps.entries()) {
      const [first = "", ...rest] = this.#step(step, e);
      lines.push(`${String(i + 1).padStart(2)}  ${first}`, ...rest);
    }
    return lines;
  }

  #headline(e: Explanation): string {
    const variant = e.variant === undefined ? "" : ` (variant ${e.variant})`;
    return `${this.#paint.strong(`${e.flag} is ${printable(show(e.value, 200))}`)}${variant}: ${causeWords(e)}`;
  }

  #circumstances({ environment, at, revision }: Explanation): string {
    const instant = at === undefined ? undefined : this.#instant(at);
    return [environment && `environment ${environment}`, instant, revision && `revision ${shortRevision(revision)}`]
      .filter(Boolean)
      .join(" · ");
  }

  #instant(iso: string, zone = this.#zone): string {
    return showInstant(Date.parse(iso), zone);
  }

  #step(step: Step, e: Explanation): string[] {
    switch (step.step) {
      case "override":
        return [`an override (${overrideNames[step.by] ?? step.by}) says ${printable(show(step.value))}`];
      case "suspended":
        return [`suspended${suspendedDetails(step)}`, `    gives the safe value, ${printable(show(e.value))}`];
      case "provided":
        return [`${this.#tint(step.holds, step.holds.padEnd(9))}  provided`, ...this.condition(step.condition, "    ")];
      case "rule":
        return this.#rule(step, e);
      case "otherwise":
        return [`${this.#paint.yes("gives    ")}  otherwise, ${printable(show(step.value))}`];
    }
  }

  #rule(step: RuleStep, e: Explanation): string[] {
    const outcome = step.matched ? this.#paint.yes("matches  ") : this.#paint.no("goes past");
    const given = step.matched ? ` and gives ${printable(show(e.variant ?? e.value))}` : "";
    const called = printable(ruleCalled({ number: step.rule, name: step.name }));
    const lines = [`${outcome}  ${called}${given}`];
    if (step.condition) lines.push(...this.condition(step.condition, "    "));
    else lines.push(this.#paint.faint("    for everyone"));
    if (step.condition) lines.push(...this.#lacks(step.condition));
    const reached = step.condition === undefined || step.condition.answer === "true";
    if (step.share && reached) lines.push(...this.#share(step.share));
    if (step.split && (step.share === undefined || step.share.inside)) lines.push(...this.#split(step.split));
    return lines;
  }

  /** Said where there is more than one test; a single one has its mark. */
  #lacks({ lacks = [], tests }: ConditionTrace): string[] {
    if (lacks.length === 0 || tests.length < 2) return [];
    const wanted = lacks.map(({ text, wanted: answer }) =>
      printable(`${answer === "true" ? "" : "not "}${text.replace(/\s/g, " ")}`),
    );
    return [this.#paint.faint(`    what it lacks: ${wanted.join(" and ")}`)];
  }

  condition(trace: ConditionTrace, indent: string): string[] {
    const text = printable(trace.text.replace(/\s/g, " "));
    const lines = [`${indent}${text}`];
    for (const test of trace.tests.filter((t) => t.decided)) lines.push(...this.#decisive(test, indent));
    return lines;
  }

  #decisive(test: TestTrace, indent: string): string[] {
    const mark = `${" ".repeat(test.start)}${"^".repeat(Math.max(test.end - test.start, 1))}`;
    const because = `${this.#answer(test.answer)}: ${printable(test.because)}`;
    // A long line is broken rather than left to the terminal.
    const fits = indent.length + mark.length + 2 + test.answer.length + test.because.length < 100;
    const lines = fits
      ? [`${indent}${this.#tint(test.answer, mark)} ${because}`]
      : [`${indent}${this.#tint(test.answer, mark)}`, `${indent}${because}`];
    return test.inner ? [...lines, ...this.condition(test.inner, `${indent}    `)] : lines;
  }

  #share(share: ShareTrace): string[] {
    const head = `    share ${showRange(share)} by ${share.by}`;
    if (share.id === undefined) return [`${head}: ${this.#paint.open("no id")}, ${share.by} is missing or no id`];
    const inside = share.inside ? this.#paint.yes("inside") : this.#paint.no("outside");
    const where = share.position === undefined ? "" : ` at ${showPosition(share.position)},`;
    const lines = [`${head}: ${printable(share.id)} is${where} ${inside}`];
    if (share.rising && !share.inside) lines.push(this.#reaches(share));
    return lines;
  }

  #reaches(share: ShareTrace): string {
    if (share.reaches === undefined) return "    the share never rises that far";
    const step = share.rising?.find(({ from }) => from === share.reaches);
    return `    it rises to ${showPercent(step?.percent ?? 0)} and reaches this subject on ${this.#instant(share.reaches, share.zone)}`;
  }

  /** The race: each variant's time, the winner first. */
  #split(split: SplitTrace): string[] {
    const head = `    split ${split.parts.join(", ")} by ${split.by}`;
    if (split.id === undefined) return [`${head}: ${this.#paint.open("no id")}`];
    const lines = [`${head}: ${printable(split.id)} gets ${split.variant}`];
    if (split.times === undefined) return lines;
    const times = split.times.map(({ variant, time }) => `${variant} ${time.toFixed(4)}`);
    return [...lines, this.#paint.faint(`    the shortest time wins: ${times.join(", ")}`)];
  }

  #answer(answer: TestTrace["answer"]): string {
    return this.#tint(answer, answer);
  }

  #tint(answer: TestTrace["answer"], text: string): string {
    return answer === "true"
      ? this.#paint.yes(text)
      : answer === "false"
        ? this.#paint.no(text)
        : this.#paint.open(text);
  }
}

const overrideNames: Readonly<Record<string, string>> = {
  variable: "IUDEX_OVERRIDES",
  "local-file": "overrides.local.yaml",
  pass: "a pass",
  code: "in code",
};

function suspendedDetails({ since, who, note }: SuspendedStep): string {
  const parts = [since && ` since ${since}`, who && ` by ${who}`, note && `: ${note}`].filter(Boolean);
  return printable(parts.join(""));
}
