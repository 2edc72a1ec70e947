import { Bucket } from "../../buckets/index.ts";
import {
  type CompiledFlag,
  type FlagSet,
  HarmlessCopy,
  idText,
  isPlainContext,
  Question,
  type Recorder,
  readPath,
} from "../../judge/index.ts";
import { pathOf, type Rule, subjectOf } from "../../model/index.ts";
import { TRUE } from "../../values/index.ts";

/** Of those whom a rule asks, how many a share would take at each place. */
export interface PositionCounts {
  /** Whom the rule's condition holds for, and no rule before it took. */
  readonly asked: number;
  /** Of those, who have no id by which a share could take them. */
  readonly withoutId: number;
  /** For each tenth of a percent from 0.1 to 100: how many lie below it. */
  readonly below: readonly number[];
}

const places = 1_000;

/**
 * Where the people whom a rule asks lie, so that it can be told how many of them any share would take. Memory does not
 * grow with their number.
 *
 * @example
 * const positions = new Positions(flagSet, "zone-fares", 2, { at: Date.now() });
 * for (const context of contexts) positions.count(context);
 * positions.result().below[99]; // how many a share of 10% would take
 */
export class Positions {
  readonly #set: FlagSet;
  readonly #flag: CompiledFlag;
  readonly #rule: Rule;
  readonly #by: readonly string[];
  readonly #bucket: Bucket;
  readonly #clock: () => number;
  readonly #counts = new Uint32Array(places);
  readonly #recorder: Recorder = {
    provided: () => {},
    rule: ({ rule }, { answer }) => {
      this.#isAsked ||= rule.number === this.#rule.number && answer === TRUE;
    },
  };
  #isAsked = false;
  #asked = 0;
  #withoutId = 0;

  /** @param number a rule of the flag, from 1 */
  constructor(set: FlagSet, name: string, number: number, { at }: { readonly at: number }) {
    this.#set = set;
    this.#flag = set.flag(name)!;
    this.#rule = this.#flag.here.rules[number - 1]!;
    const { definition } = this.#flag;
    const { source } = this.#rule;
    this.#by = pathOf(source.by ?? subjectOf(definition));
    this.#bucket = new Bucket("share", source.salt ?? definition.source.salt ?? definition.name);
    this.#clock = () => at;
  }

  count(context: unknown): void {
    const paths = [...this.#set.pathsBehind(this.#flag.definition.name), this.#by];
    const plain = isPlainContext(context) ? context : new HarmlessCopy(context).take(paths);
    this.#isAsked = false;
    this.#flag.decide(new Question(plain, this.#clock, undefined), this.#recorder);
    if (!this.#isAsked) return;
    this.#asked++;
    const id = idText(readPath(plain, this.#by));
    if (id === undefined) this.#withoutId++;
    else this.#counts[Math.floor(this.#bucket.position(id) * places)]!++;
  }

  result(): PositionCounts {
    const below: number[] = [];
    let sum = 0;
    for (const count of this.#counts) {
      sum += count;
      below.push(sum);
    }
    return { asked: this.#asked, withoutId: this.#withoutId, below };
  }
}
