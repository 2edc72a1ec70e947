import type { CohortDefinition, Definitions } from "../../core.ts";
import { describeCondition } from "../../insight/explain/sentence.ts";
import { printPath } from "../../language/print.ts";
import { usesOf } from "../../tools/index.ts";
import { count } from "../output.ts";
import { byName, type Listing, type ListRequest, renderList, usedBy } from "./listing.ts";

/** Who belongs to each cohort, and where it is used. */
export function listCohorts(request: ListRequest): Listing {
  const { definitions } = request;
  const uses = usesOf(definitions);
  const cohorts = byName(definitions.cohorts.values()).map((cohort) => ({
    cohort: cohort.name,
    about: cohort.about,
    means: meaningOf(cohort, definitions),
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

function meaningOf(cohort: CohortDefinition, { conditions }: Definitions): string {
  if (cohort.kind === "list") {
    const where = cohort.file === undefined ? "" : `, from ${cohort.file}`;
    return `${count(cohort.ids.size, "id")} by ${printPath(cohort.of)}${where}.`;
  }
  const { condition } = conditions.get(cohort.when);
  return `Those where ${condition ? describeCondition(condition) : cohort.when}.`;
}
