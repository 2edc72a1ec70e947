import { describeFlag } from "../../insight/index.ts";
import { byName, type Listing, type ListRequest, renderList } from "./listing.ts";

interface Sentence {
  /** The environments for which the sentence holds; all of them if undefined. */
  readonly environments: readonly string[] | undefined;
  readonly sentence: string;
}

/** Every flag in a sentence; where environments differ, a sentence each. */
export function listFlags(request: ListRequest): Listing {
  const { definitions, environment, at } = request;
  const environments = environment === undefined ? [...definitions.environments.keys()] : [environment];
  const flags = byName(definitions.flags.values()).map(({ name, source }) => ({
    flag: name,
    about: source.about,
    owner: source.owner,
    says: saysBy(environments, (each) => describeFlag(definitions, name, each, at)!),
  }));
  const items = flags.map(({ flag, about, says }) => ({
    name: flag,
    about,
    lines: says.map(({ environments: where, sentence }) =>
      where === undefined ? { text: sentence } : { front: `${where.join(", ")}:`, text: sentence },
    ),
  }));
  return { data: { flags }, text: renderList(items, "flag", request) };
}

/** One sentence for all environments that share it. */
function saysBy(environments: readonly string[], say: (environment: string | undefined) => string): Sentence[] {
  if (environments.length === 0) return [{ environments: undefined, sentence: say(undefined) }];
  const bySentence = new Map<string, string[]>();
  for (const environment of environments) {
    const sentence = say(environment);
    bySentence.set(sentence, [...(bySentence.get(sentence) ?? []), environment]);
  }
  if (bySentence.size === 1) return [{ environments: undefined, sentence: [...bySentence.keys()][0]! }];
  return [...bySentence].map(([sentence, names]) => ({ environments: names, sentence }));
}
