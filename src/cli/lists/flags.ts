import { describeFlagIn } from "../../insight/index.ts";
import { byName, type Listing, type ListRequest, renderList } from "./listing.ts";

/** Every flag in a sentence; where environments differ, a sentence each. */
export function listFlags(request: ListRequest): Listing {
  const { definitions, environment, at } = request;
  const environments = environment === undefined ? [...definitions.environments.keys()] : [environment];
  const flags = byName(definitions.flags.values()).map(({ name, source }) => ({
    flag: name,
    about: source.about,
    owner: source.owner,
    says: describeFlagIn(definitions, name, environments, at),
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
