import { describeCohort } from "../../insight/index.ts";
import { Graph } from "../../model/index.ts";
import { byName, type Listing, type ListRequest, renderList, usedBy } from "./listing.ts";

/** Who belongs to each cohort, and where it is used. */
export function listCohorts(request: ListRequest): Listing {
  const { definitions } = request;
  const uses = new Graph(definitions).uses();
  const cohorts = byName(definitions.cohorts.values()).map((cohort) => ({
    cohort: cohort.name,
    about: cohort.about,
    means: describeCohort(cohort, definitions),
    ...(cohort.kind === "list" ? { ids: cohort.ids.size } : {}),
    usedBy: uses.get(`cohort:${cohort.name}`) ?? [],
  }));
  const items = cohorts.map(({ cohort, about, means }) => ({
    name: cohort,
    about,
    lines: [{ text: means }, { text: usedBy(`cohort:${cohort}`, uses) }],
  }));
  return { data: { cohorts }, text: renderList(items, "cohort", request) };
}
