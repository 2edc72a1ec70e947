import { describeKind, didYouMean, isObject, own, sentenceList } from "../values/index.ts";
import { FlagsError } from "./errors.ts";

/** What an option must be. */
export interface OptionShape {
  /** In the words of a message. */
  readonly expected: string;
  is(value: unknown): boolean;
}

/** Every option that there is. */
export type OptionShapes = Readonly<Record<string, OptionShape>>;

/** What options can be. */
export const mustBe = {
  text: { expected: "a text", is: (value) => typeof value === "string" },
  yesNo: { expected: "true or false", is: (value) => typeof value === "boolean" },
  off: { expected: "false", is: (value) => value === false },
  work: { expected: "a function", is: (value) => typeof value === "function" },
  object: { expected: "an object", is: isObject },
  list: { expected: "a list", is: Array.isArray },
  names: {
    expected: "a list of names",
    is: (value) => Array.isArray(value) && value.every((name) => typeof name === "string"),
  },
  /** Milliseconds, or how many. */
  count: { expected: "a number that is not negative", is: (value) => typeof value === "number" && value >= 0 },
} satisfies Record<string, OptionShape>;

/** One of these. */
export function either(...shapes: readonly OptionShape[]): OptionShape {
  return {
    expected: sentenceList(
      shapes.map(({ expected }) => expected),
      "or",
    ),
    is: (value) => shapes.some((shape) => shape.is(value)),
  };
}

/**
 * Refuses options that there are not, and what cannot be meant by one: a misspelt option does nothing, which would cost
 * its owner an hour.
 *
 * @param whose what takes them, in the words of a message
 * @throws {FlagsError}
 */
export function checkOptions(options: unknown, shapes: OptionShapes, whose: string): void {
  if (!isObject(options)) throw new FlagsError(`The options of ${whose} are an object, not ${describeKind(options)}.`);
  for (const [name, value] of Object.entries(options)) {
    const shape = own(shapes, name) as OptionShape | undefined;
    if (!shape) throw new FlagsError(`“${name}” is not an option of ${whose}; ${helpWith(name, Object.keys(shapes))}`);
    if (value !== undefined && !shape.is(value))
      throw new FlagsError(`“${name}” of ${whose}: expected ${shape.expected}, found ${found(value)}.`);
  }
}

/** Keys and secrets are options too, so what was handed over is never repeated but for numbers and yes-nos. */
function found(value: unknown): string {
  return typeof value === "number" || typeof value === "boolean" ? String(value) : describeKind(value);
}

function helpWith(name: string, known: readonly string[]): string {
  return didYouMean(name, known) ?? `there are ${sentenceList(known, "and", known.length)}.`;
}
