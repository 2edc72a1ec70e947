import type { LiteralTree, OperandTree, Tree } from "./generated.ts";
import { type Asking, answer, hash, type OracleFlag, type OracleSet } from "./oracle.ts";

/**
 * Reads sentences as somebody would who knows nothing but the words: takes them apart again, and says what each person gets
 * at each instant. It knows the names of a set, the meaning of single tests, and each person's lot; nothing of rules.
 */
export interface Reader {
  /** What a flag's sentence says that this person gets then. */
  gets(sentence: string, flag: string, asking: Asking): unknown;
  /** True if a cohort's sentence holds of this person then. */
  isMeant(sentence: string, asking: Asking): boolean;
}

type Holds = (asking: Asking) => boolean;
type Gets = (asking: Asking) => unknown;

/** A step of a rising share: up to so many percent from then on. */
interface Step {
  readonly high: number;
  readonly from: number;
}

/** Phrases behind what is asked: the operator that they stand for, and whether they deny it. */
const phrases: readonly (readonly [string, string, boolean])[] = [
  ["is known and is none of", "not in", false],
  ["is known and is not", "!=", false],
  ["is known and does not start with", "starts with", true],
  ["is known and does not end with", "ends with", true],
  ["is known and does not contain", "contains", true],
  ["is known and does not match", "matches", true],
  ["is known and does not hold all of", "covers", true],
  ["is known and holds none of", "overlaps", true],
  ["is less than", "<", false],
  ["is at least", ">=", false],
  ["is at most", "<=", false],
  ["is more than", ">", false],
  ["is one of", "in", false],
  ["is missing", "is missing", false],
  ["is given", "is present", false],
  ["contains", "contains", false],
  ["holds one of", "overlaps", false],
  ["holds all of", "covers", false],
  ["starts with", "starts with", false],
  ["ends with", "ends with", false],
  ["matches", "matches", false],
  ["is not", "!=", false],
  ["is", "==", false],
];

const months = "January February March April May June July August September October November December".split(" ");

/** @param paths the attributes of the set, as sentences name them */
export function readerOf(set: OracleSet, paths: ReadonlyMap<string, readonly string[]>): Reader {
  const sayings = new Map<string, { readonly flag: OracleFlag | undefined; readonly said: Gets | Holds }>();
  const read = (sentence: string, flag: string | undefined) => {
    const key = `${flag} ${sentence}`;
    let known = sayings.get(key);
    if (!known) {
      const words = new Words(set, paths, flag, sentence);
      known = { flag: set.flags[flag ?? ""], said: flag === undefined ? words.cohort() : words.sentence() };
      sayings.set(key, known);
    }
    return known;
  };
  return {
    gets(sentence, flag, asking) {
      const { said, flag: definition } = read(sentence, flag);
      const given = said(asking);
      return definition?.variants ? definition.variants[given as string] : given;
    },
    isMeant: (sentence, asking) => read(sentence, undefined).said(asking) as boolean,
  };
}

class Words {
  readonly #set: OracleSet;
  readonly #paths: ReadonlyMap<string, readonly string[]>;
  readonly #flag: string | undefined;
  readonly #text: string;
  #at = 0;

  constructor(set: OracleSet, paths: ReadonlyMap<string, readonly string[]>, flag: string | undefined, text: string) {
    this.#set = set;
    this.#paths = paths;
    this.#flag = flag;
    this.#text = (text.charAt(0).toLowerCase() + text.slice(1)).replace(/\.$/, "");
  }

  cohort(): Holds {
    const group = this.#groups();
    const when = this.#eat(", ") ? this.#when()! : () => true;
    if (this.#rest !== "") this.#fail("the end");
    return (asking) => group(asking) && when(asking);
  }

  sentence(): Gets {
    const stopped = ": it is suspended";
    if (this.#text.endsWith(stopped)) {
      this.#expect("everybody gets ");
      return this.#gets();
    }
    const provided = this.#eat("only where ") ? this.#condition() : undefined;
    if (provided) this.#expect(": ");
    const inside = this.#clauses();
    if (!provided) return inside;
    this.#expect("; where not, everybody gets ");
    const outside = this.#gets();
    return (asking) => (provided(asking) ? inside : outside)(asking);
  }

  get #rest(): string {
    return this.#text.slice(this.#at);
  }

  get #isEnd(): boolean {
    return this.#rest === "" || this.#rest.startsWith("; where not, ");
  }

  #fail(wanted: string): never {
    throw new Error(`“${this.#text}” at ${this.#at}: expected ${wanted}, found “${this.#rest.slice(0, 60)}”`);
  }

  #eat(text: string): boolean {
    if (!this.#text.startsWith(text, this.#at)) return false;
    this.#at += text.length;
    return true;
  }

  #expect(text: string): void {
    if (!this.#eat(text)) this.#fail(text);
  }

  #match(shape: RegExp): RegExpExecArray | undefined {
    const found = new RegExp(shape.source, "yu");
    found.lastIndex = this.#at;
    const match = found.exec(this.#text) ?? undefined;
    if (match) this.#at += match[0].length;
    return match;
  }

  /** Tries to read on, and is where it was if that cannot be. */
  #try<T>(read: () => T | undefined): T | undefined {
    const before = this.#at;
    try {
      const found = read();
      if (found !== undefined) return found;
    } catch {
      // It reads otherwise.
    }
    this.#at = before;
    return undefined;
  }

  #clauses(): Gets {
    const clauses: { readonly holds: Holds; readonly gets: Gets }[] = [];
    const all = () => ({ holds: () => true, gets: this.#gets() });
    for (let lead = ""; ; ) {
      const last =
        lead === "; otherwise "
          ? this.#try(() => {
              const gets = all();
              return this.#isEnd ? gets : undefined;
            })
          : undefined;
      clauses.push(last ?? this.#clause());
      if (this.#isEnd) break;
      if (this.#eat(", everybody else ") || this.#eat("; otherwise everybody gets ")) {
        clauses.push(all());
        if (!this.#isEnd) this.#fail("the end");
        break;
      }
      lead = this.#match(/; otherwise |, /)?.[0] ?? this.#fail("another clause");
    }
    return (asking) => clauses.find(({ holds }) => holds(asking))!.gets(asking);
  }

  #clause() {
    const when = this.#when();
    if (when) this.#expect(", ");
    const people = this.#groups();
    if (!this.#match(/,? gets? /)) this.#fail("“get”");
    return { holds: (asking: Asking) => (!when || when(asking)) && people(asking), gets: this.#gets() };
  }

  /** Circumstances, all of which must hold. */
  #when(): Holds | undefined {
    const found: Holds[] = [];
    do {
      const one = this.#circumstance();
      if (!one) return found.length === 0 ? undefined : this.#fail("a circumstance");
      found.push(one);
    } while (this.#eat(" and "));
    return (asking) => found.every((holds) => holds(asking));
  }

  #circumstance(): Holds | undefined {
    if (this.#eat("while ")) return this.#condition();
    const window = this.#match(/during |outside /)?.[0];
    if (window) {
      const name = this.#name(Object.keys(this.#set.windows));
      return this.#holds({ kind: "reference", to: "window", name }, window === "outside ");
    }
    const anyTime = this.#eat("at any time");
    const from = this.#eat("from ") ? this.#date() : undefined;
    const end = this.#match(/ ?(?:through|until) /)?.[0].trim();
    if (!anyTime && from === undefined && !end) return undefined;
    const until = end ? this.#date() + (end === "through" ? 86_400_000 : 0) : Number.POSITIVE_INFINITY;
    this.#expect(", UTC time");
    return ({ at }) => (from ?? Number.NEGATIVE_INFINITY) <= at && at < until;
  }

  #date(): number {
    const found =
      this.#match(/(\d+) ([A-Z][a-z]+) (\d+)(?:, (\d\d:\d\d(?::\d\d(?:\.\d+)?)?))?/) ?? this.#fail("a date");
    const [, day, month, year, time = "00:00"] = found as unknown as [string, string, string, string, string?];
    const date = `${year.padStart(4, "0")}-${String(months.indexOf(month) + 1).padStart(2, "0")}-${day.padStart(2, "0")}`;
    return Date.parse(`${date}T${time}Z`);
  }

  /** Groups of people, any of whom is meant. */
  #groups(): Holds {
    const found = [this.#group()];
    for (;;) {
      const next = this.#try(() => {
        if (!this.#match(/, and |, | and /)) return undefined;
        return this.#rest.startsWith("everybody else") ? undefined : this.#group();
      });
      if (!next) break;
      found.push(next);
    }
    return (asking) => found.some((holds) => holds(asking));
  }

  #group(): Holds {
    const part = this.#match(/(?:([\d.]+)% to )?([\d.]+)% of /);
    if (this.#match(/everybody(?! else)/)) return () => true;
    const lot = part && { low: Number(part[1] ?? 0), high: Number(part[2]) };
    const people = this.#eat("all people") ? this.#having() : this.#described();
    if (!lot) return people;
    const steps = this.#steps();
    return (asking) => {
      const step = steps.filter(({ from }) => asking.at >= from).at(-1);
      return people(asking) && this.#isDrawn(asking, step ? { low: 0, high: step.high } : lot);
    };
  }

  #having(): Holds {
    if (!this.#eat(" who have ")) return () => true;
    this.#path();
    return (asking) => this.#id(asking) !== undefined;
  }

  #steps(): Step[] {
    const found: Step[] = [];
    if (!this.#eat(" (")) return found;
    const next = () => this.#try(() => (this.#eat(", ") ? this.#step() : undefined));
    for (let step: Step | undefined = this.#step(); step; step = next()) found.push(step);
    if (!this.#eat(")")) this.#fail(")");
    return found;
  }

  #step(): Step {
    const percent = this.#match(/([\d.]+)% from /) ?? this.#fail("a step");
    return { high: Number(percent[1]), from: this.#date() };
  }

  /** "crew whose plan is …", "people who are among crew or while …". */
  #described(): Holds {
    const cohort = this.#eat("people") ? undefined : this.#name(Object.keys(this.#set.cohorts));
    const group: Holds = cohort ? this.#holds({ kind: "reference", to: "cohort", name: cohort }, false) : () => true;
    if (!this.#match(/ (?=who |whose |while |either |\((?!\d))/)) return group;
    const first = this.#trait();
    const joint = this.#isNextTrait(" or ") ? "or" : "and";
    const traits = [first];
    while (this.#isNextTrait(` ${joint} `)) {
      this.#expect(` ${joint} `);
      traits.push(this.#trait());
    }
    return (asking) =>
      group(asking) && (joint === "or" ? traits.some((t) => t(asking)) : traits.every((t) => t(asking)));
  }

  #isNextTrait(lead: string): boolean {
    return new RegExp(`^${lead}(?:who |whose |while |either |\\()`).test(this.#rest);
  }

  #trait(): Holds {
    if (this.#eat("either ")) {
      const found = [this.#trait()];
      while (this.#isNextTrait(" or ")) {
        this.#expect(" or ");
        found.push(this.#trait());
      }
      return (asking) => found.some((holds) => holds(asking));
    }
    if (this.#eat("(")) return this.#bracket(() => this.#trait());
    if (this.#match(/who have /)) {
      this.#path();
      return (asking) => this.#id(asking) !== undefined;
    }
    if (this.#eat("who are ") || this.#eat("while ") || this.#eat("whose ")) return this.#fact();
    return this.#fail("something said of people");
  }

  #bracket(read: () => Holds): Holds {
    const found = [read()];
    const joint = this.#match(/ (?:and|or) /)?.[0];
    if (joint)
      do found.push(read());
      while (this.#eat(joint));
    this.#expect(")");
    return (asking) =>
      joint === " or " ? found.some((holds) => holds(asking)) : found.every((holds) => holds(asking));
  }

  /** Facts joined by “and” or by “or”, groups of them in brackets. */
  #condition(): Holds {
    const one = () => (this.#eat("(") ? this.#bracket(() => this.#inner()) : this.#fact());
    const found = [one()];
    let joint: string | undefined;
    for (;;) {
      const next = this.#try(() => {
        const word = this.#match(/ (?:and|or) /)?.[0];
        if (!word || (joint !== undefined && word !== joint)) return undefined;
        const fact = one();
        joint = word;
        return fact;
      });
      if (!next) break;
      found.push(next);
    }
    return (asking) =>
      joint === " or " ? found.some((holds) => holds(asking)) : found.every((holds) => holds(asking));
  }

  #inner(): Holds {
    return this.#eat("(") ? this.#bracket(() => this.#inner()) : this.#fact();
  }

  #fact(): Holds {
    const among = this.#match(/known not to be among |among /)?.[0];
    if (among) {
      const name = this.#name(Object.keys(this.#set.cohorts));
      return this.#holds({ kind: "reference", to: "cohort", name }, among !== "among ");
    }
    const named = this.#try(() => {
      const name = this.#match(/[\w-]+/)?.[0] ?? "";
      const state = this.#match(/ is (open|shut|on|off)(?![\w-])/)?.[1];
      if (!state) return undefined;
      const tree: Tree = name in this.#set.windows ? { kind: "reference", to: "window", name } : flagTest(name);
      return this.#holds(tree, state === "shut" || state === "off");
    });
    return named ?? this.#test();
  }

  #test(): Holds {
    const operand: OperandTree = this.#eat("environment") ? { kind: "environment" } : this.#path();
    this.#expect(" ");
    const yes = this.#match(/is (true|false)(?=$|[ ,;:)])/);
    const [phrase, operator, negated] =
      phrases.find(
        ([words]) => this.#rest === words || this.#rest.startsWith(`${words} `) || this.#startsOnly(words),
      ) ?? this.#none(yes);
    if (yes) {
      const said: LiteralTree = { kind: "scalar", value: yes[1] === "true" };
      // “crew” and “crew == true” say the same.
      return this.#holds({ kind: "test", operand, operator: "==", literal: said }, false);
    }
    this.#expect(phrase);
    if (operator.startsWith("is ")) return this.#holds({ kind: "test", operand, operator }, negated);
    this.#expect(" ");
    const literal = this.#literal(["in", "not in", "overlaps", "covers"].includes(operator));
    return this.#holds({ kind: "test", operand, operator, literal }, negated);
  }

  #none(yes: unknown): readonly [string, string, boolean] {
    return yes ? ["", "", false] : this.#fail("what is asked");
  }

  #startsOnly(words: string): boolean {
    return /^is (missing|given)$/.test(words) && this.#rest.startsWith(words);
  }

  #path(): OperandTree {
    const lower = this.#eat("lower(");
    const name = [...this.#paths.keys()]
      .sort((a, b) => b.length - a.length)
      .find((each) => this.#rest.startsWith(each));
    if (name === undefined) this.#fail("an attribute");
    this.#expect(name);
    if (lower) this.#expect(")");
    return { kind: "path", path: this.#paths.get(name)!, lower };
  }

  #literal(isList: boolean): LiteralTree {
    const pattern = this.#match(/\/((?:[^/\\]|\\.)*)\/(i?)/);
    if (pattern) return { kind: "regex", pattern: pattern[1]!.replaceAll("\\/", "/"), ignoreCase: pattern[2] === "i" };
    const time = this.#match(/\d{4}-\d\d-\d\dT[\d:.]+(?:Z|[+-]\d\d:\d\d)/);
    if (time) return { kind: "time", text: time[0] };
    const version = this.#match(/v\d[\w.-]*/);
    if (version) return { kind: "version", text: version[0] };
    const first = this.#scalar();
    if (!isList) return { kind: "scalar", value: first };
    const values = [first];
    for (;;) {
      const next = this.#try(() => (this.#eat(", ") ? { value: this.#scalar() } : undefined));
      // A part that stands behind a list begins with a number too.
      if (!next) break;
      values.push(next.value);
    }
    return { kind: "list", values };
  }

  #scalar(): string | number | boolean {
    const found = this.#match(/"(?:[^"\\]|\\.)*"|true|false|-?\d+(?:\.\d+)?(?:e[+-]?\d+)?(?!\.?\d|%| [A-Z])/);
    return found ? JSON.parse(found[0]) : this.#fail("a value");
  }

  /** The value, or variants by lot. */
  #gets(): Gets {
    const parts: { readonly variant: string; readonly percent: number }[] = [];
    const part = () => this.#match(/([\w.-]+) \(([\d.]+)%\)/);
    for (let found = part(); found; found = this.#try(() => this.#match(/, | or /) && part()))
      parts.push({ variant: found[1]!, percent: Number(found[2]) });
    if (parts.length > 0) return (asking) => this.#winner(asking, parts);
    const value = this.#match(/"(?:[^"\\]|\\.)*"|[\w.-]*\w/)?.[0] ?? this.#fail("a value");
    const plain = /^("|true$|false$|-?\d)/.test(value) ? JSON.parse(value) : value;
    return () => plain;
  }

  #winner(asking: Asking, parts: readonly { readonly variant: string; readonly percent: number }[]): string {
    const id = this.#id(asking) ?? this.#fail("somebody with an id");
    const times = parts.map(({ variant, percent }) => ({
      variant,
      time: -Math.log((hash("split", `${this.#flag}:${variant}`, id) + 0.5) / 2 ** 32) / percent,
    }));
    return times.reduce((best, each) => (each.time < best.time ? each : best)).variant;
  }

  #isDrawn(asking: Asking, { low, high }: { readonly low: number; readonly high: number }): boolean {
    const id = this.#id(asking);
    if (id === undefined) return false;
    const position = hash("share", this.#flag!, id) / 2 ** 32;
    return low / 100 <= position && position < high / 100;
  }

  #id({ context }: Asking): string | undefined {
    let value: unknown = context;
    for (const key of this.#set.flags[this.#flag!]!.by) value = (value as Record<string, unknown> | undefined)?.[key];
    if (typeof value === "string" && value !== "") return value;
    return typeof value === "bigint" || Number.isSafeInteger(value) ? String(value) : undefined;
  }

  #name(known: readonly string[]): string {
    const name = known.find((each) => this.#rest.startsWith(each)) ?? this.#fail(`one of ${known.join(", ")}`);
    this.#expect(name);
    return name;
  }

  #holds(tree: Tree, negated: boolean): Holds {
    return (asking) => answer(tree, asking) === !negated;
  }
}

function flagTest(name: string): Tree {
  return { kind: "test", operand: { kind: "flag", name }, operator: "" };
}
