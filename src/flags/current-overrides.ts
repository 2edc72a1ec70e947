import type { FlagSet, Outcome, OverrideLayer, Overrides } from "../judge/index.ts";
import { canonicalJson } from "../values/index.ts";
import { FlagsError } from "./errors.ts";
import { type CheckValue, fromCode, type OverrideMap, resolveOverrides, textLayerValue } from "./overrides.ts";

type Outcomes = ReadonlyMap<string, Outcome>;

/**
 * The overrides of a process, weakest first: the variable, the local file, then those in code. They are held against
 * the set whenever it or they change, so that asking costs nothing while there are none.
 */
export class CurrentOverrides {
  /** What applies to every question; undefined while there is nothing. */
  current: Overrides | undefined;
  readonly #refused: (message: string) => void;
  readonly #changed: () => void;
  #set: FlagSet;
  #check: CheckValue;
  #variable: ReadonlyMap<string, unknown> = new Map();
  #localFile: ReadonlyMap<string, unknown> = new Map();
  #blocks: readonly OverrideMap[] = [];
  #layers: Outcomes | undefined;
  /** Refusals that have been reported for this set; the same override is held against it again and again. */
  readonly #told = new Set<string>();
  /** Counts how often anything changed. */
  #settled = 0;
  readonly #scoped = new WeakMap<readonly OverrideMap[], { readonly since: number; readonly overrides: Overrides }>();

  constructor(set: FlagSet, check: CheckValue, told: { refused(message: string): void; changed(): void }) {
    this.#set = set;
    this.#check = check;
    this.#refused = told.refused;
    this.#changed = told.changed;
  }

  useSet(set: FlagSet, check: CheckValue): void {
    this.#set = set;
    this.#check = check;
    this.#told.clear();
    this.#settleLayers();
  }

  useVariable(values: ReadonlyMap<string, unknown>): void {
    this.#variable = values;
    this.#settleLayers();
  }

  /** What the local file says; it counts while the environment of the set in force lets it. */
  useLocalFile(values: ReadonlyMap<string, unknown>): void {
    const isSame = canonicalJson([...values]) === canonicalJson([...this.#localFile]);
    this.#localFile = values;
    this.#settleLayers();
    if (!isSame && letsLocalOverrides(this.#set)) this.#changed();
  }

  /**
   * Overrides as a program hands them over.
   *
   * @throws {FlagsError} of a strict program, where they do not fit the set in force
   */
  fromCode(values: Readonly<Record<string, unknown>>, isStrict = false): OverrideMap {
    const overrides = fromCode(values);
    const { refused } = isStrict
      ? resolveOverrides(overrides, "code", this.#set.definitions, this.#check)
      : { refused: [] };
    if (refused.length > 0) throw new FlagsError(refused.join("\n"));
    return overrides;
  }

  /** Puts overrides on for a block; the function given back takes them off again. */
  addBlock(overrides: OverrideMap): () => void {
    this.#blocks = [...this.#blocks, overrides];
    this.#settle();
    this.#changed();
    return () => {
      if (!this.#blocks.includes(overrides)) return;
      this.#blocks = this.#blocks.filter((block) => block !== overrides);
      this.#settle();
      this.#changed();
    };
  }

  /** The overrides of a question inside a scope, or with a pass: those of the process with these on top. */
  with(
    scope: readonly OverrideMap[] | undefined,
    pass: ReadonlyMap<string, unknown> | undefined,
  ): Overrides | undefined {
    if (!scope && !pass) return this.current;
    if (!scope || pass) return this.#together(scope, pass);
    // Inside one scope the same is asked again and again; it changes only when the set or the other layers do.
    const known = this.#scoped.get(scope);
    if (known && known.since === this.#settled) return known.overrides;
    const overrides = this.#together(scope, undefined);
    this.#scoped.set(scope, { since: this.#settled, overrides });
    return overrides;
  }

  #together(scope: readonly OverrideMap[] | undefined, pass: ReadonlyMap<string, unknown> | undefined): Overrides {
    return {
      code: together([this.current?.code, this.#code(scope ?? [])]),
      layers: together([this.#layers, pass && this.#text(pass, "pass")]),
    };
  }

  #settleLayers(): void {
    const local = letsLocalOverrides(this.#set) ? this.#text(this.#localFile, "local-file") : undefined;
    this.#layers = together([this.#text(this.#variable, "variable"), local]);
    this.#settle();
  }

  #settle(): void {
    this.#settled++;
    const code = this.#code(this.#blocks);
    this.current = code || this.#layers ? { code, layers: this.#layers } : undefined;
  }

  /** Each is held against the set for itself: one that is refused leaves those below it in force. */
  #code(maps: readonly OverrideMap[]): Outcomes | undefined {
    return together(maps.map((map) => this.#resolve(map, "code")));
  }

  #text(values: ReadonlyMap<string, unknown>, layer: OverrideLayer): Outcomes {
    const { definitions } = this.#set;
    const overrides = new Map([...values].map(([name, value]) => [name, textLayerValue(name, value, definitions)]));
    return this.#resolve(overrides, layer);
  }

  #resolve(overrides: OverrideMap, layer: OverrideLayer): Outcomes {
    const { outcomes, refused } = resolveOverrides(overrides, layer, this.#set.definitions, this.#check);
    for (const message of refused) {
      if (this.#told.has(message) || this.#told.size > 1_000) continue;
      this.#told.add(message);
      this.#refused(message);
    }
    return outcomes;
  }
}

/** Whether a developer may override flags on the spot in the environment that a set was compiled for. */
export function letsLocalOverrides({ definitions, environment }: FlagSet): boolean {
  return definitions.environments.get(environment ?? "")?.source["local-overrides"] === true;
}

/** All of them in one, of which later ones win; undefined where there is nothing. */
function together(maps: readonly (Outcomes | undefined)[]): Outcomes | undefined {
  const all = maps.filter((map) => map !== undefined && map.size > 0);
  return all.length > 1 ? new Map(all.flatMap((map) => [...map!])) : all[0];
}
