import type { MeasureKind } from "./estimate.ts";
import type { Interval } from "./interval.ts";

/** More or fewer. */
export type Direction = "more" | "fewer";

/** What can be said of two groups, before it is put into words. Figures are as they are measured: a rate from 0 to 1. */
export type Saying =
  | { readonly kind: "scales-off" | "unknown-parts"; readonly why: string }
  | { readonly kind: "too-few"; readonly have: number; readonly of: number }
  | { readonly kind: "nobody" | "everybody" }
  | { readonly kind: "one-decides"; readonly part: number }
  /** `people`: how many more it takes to tell `tell`. */
  | ({ readonly kind: "undecided"; readonly tell?: number; readonly people?: number } & Interval)
  /** No difference as large as that; or one, but smaller. */
  | { readonly kind: "none-so-large" | "smaller"; readonly tell: number }
  /** One group has more, or fewer, by something between; `better` where somebody says which is better. */
  | ({ readonly kind: "apart"; readonly better: Direction | undefined } & Interval)
  | { readonly kind: "worse" | "not-worse" | "perhaps-worse"; readonly margin: Margin };

/** Why nothing is compared. */
export type Unweighable = Extract<Saying, { readonly why: string }>;

/** By how much a guard may be worse. */
export interface Margin {
  /** Of a rate in points, as a part of the first group's figure in percent. */
  readonly by: number;
  /** A part of the first group's figure. */
  readonly isRelative: boolean;
}

/** What a sentence is about. */
export interface About {
  readonly kind: MeasureKind;
  /** The second group. */
  readonly to: string;
  /** Whether the groups are those whom a share let in and left out. */
  readonly isShare: boolean;
  /** Why nothing should be said, if something is said all the same. */
  readonly although: string | undefined;
}

/** Puts into words what can be said. */
export function sentenceOf(saying: Saying, about: About): string {
  const said = wordsOf(saying, about);
  return about.although === undefined ? said : `although ${about.although}: ${said}`;
}

function wordsOf(saying: Saying, { kind, to, isShare }: About): string {
  const [figure, unit] = kind === "rate" ? [(x: number) => x * 100, " points"] : [(x: number) => x, ""];
  const unitOf = (text: string) => (text === "1" && unit !== "" ? " point" : unit);
  const one = (x: number) => `${shown(figure(x))}${unitOf(shown(figure(x)))}`;
  switch (saying.kind) {
    case "scales-off":
      return `${saying.why}; no comparison`;
    case "unknown-parts":
      return `cannot be weighed: ${saying.why}; no comparison`;
    case "too-few":
      return `cannot tell yet: too few (${count(saying.have)} of ${count(saying.of)})`;
    case "nobody":
      return "cannot tell yet: nobody had it in either group";
    case "everybody":
      return "cannot tell yet: everybody had it in both groups";
    case "one-decides":
      return `cannot tell yet: one person makes ${Math.round(saying.part * 100)} % of the uncertainty: cap the measure`;
    case "undecided": {
      const [low, high] = both(figure(saying.low), figure(saying.high));
      const { tell, people } = saying;
      const more =
        tell === undefined || people === undefined
          ? ""
          : `; about ${round(people)} more people would probably tell ${one(tell)}`;
      return `cannot tell yet: anything from ${low}${unit} fewer to ${high} more${more}`;
    }
    case "none-so-large":
      return `no difference as large as ${one(saying.tell)}`;
    case "smaller":
      return `a difference, but smaller than ${one(saying.tell)}`;
    case "apart": {
      const direction = saying.low > 0 ? "more" : "fewer";
      const [near, far] = both(figure(saying.low), figure(saying.high), direction === "fewer");
      const who = isShare ? `people ${to}` : to;
      const span = `${near} to ${far}${unit}`;
      if (saying.better === undefined) return `${who} ${isShare ? "have" : "has"} ${direction}: ${span}`;
      return `${who} ${isShare ? "do" : "does"} ${saying.better === direction ? "better" : "worse"}: ${span} ${direction}`;
    }
    default: {
      const { by, isRelative } = saying.margin;
      const margin = `${shown(by)}${isRelative ? " %" : unitOf(shown(by))}`;
      return `${guarded[saying.kind]} by more than ${margin}`;
    }
  }
}

const guarded = { worse: "worse", "not-worse": "not worse", "perhaps-worse": "cannot tell whether worse" } as const;

/** Both ends without their signs, with as many digits as their distance has any use for; the nearer one first. */
function both(low: number, high: number, isTurned = false): readonly [string, string] {
  const digits = digitsFor(low, high);
  const texts = [low, high].map((x) => fixed(Math.abs(x), digits)) as [string, string];
  return isTurned ? [texts[1], texts[0]] : texts;
}

/** Two figures of the distance between them, and more where an end would read as 0. */
export function digitsFor(low: number, high: number): number {
  const distance = Math.abs(high - low);
  let digits = distance > 0 ? Math.max(0, 1 - Math.floor(Math.log10(distance))) : 2;
  while (digits < 12 && [low, high].some((x) => x !== 0 && Number(x.toFixed(digits)) === 0)) digits++;
  return digits;
}

export function fixed(x: number, digits: number): string {
  return x.toLocaleString("en-US", { minimumFractionDigits: digits, maximumFractionDigits: digits });
}

/** A number that somebody has written. */
export function shown(x: number): string {
  return x.toLocaleString("en-US", { maximumSignificantDigits: 12 });
}

export function count(n: number): string {
  return n.toLocaleString("en-US");
}

/** To ten from a thousand on, to a hundred from ten thousand on; never less than that many. */
export function round(people: number): string {
  const step = people < 1_000 ? 1 : people < 10_000 ? 10 : 100;
  return count(Math.ceil(people / step) * step);
}

const names = new Map([
  [2, "halves"],
  [3, "thirds"],
  [4, "quarters"],
]);

/** How far the sizes of the groups are from what was due. */
export function scalesWords(found: readonly number[], due: readonly number[], isOneSpan: boolean): string {
  const people = found.reduce((all, n) => all + n, 0);
  const isEven = due.every((n) => n === due[0]) && names.has(due.length);
  const parts = isOneSpan
    ? due.map((n) => `${shown(Number(((n / people) * 100).toPrecision(4)))} %`)
    : due.map((n) => count(Math.round(n)));
  const what = isEven ? names.get(due.length)! : parts.join(" and ");
  return `the scales are off: ${found.map(count).join(" and ")} where ${what} were due`;
}
