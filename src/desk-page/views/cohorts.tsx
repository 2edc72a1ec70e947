import { useState } from "preact/hooks";
import type { ListedAnswer } from "../../desk/index.ts";
import { describeCohort, explainCondition } from "../../insight/index.ts";
import { type CohortDefinition, Graph, type ListCohort } from "../../model/index.ts";
import { instantOf } from "../asking/clock.ts";
import { nameOfPerson } from "../asking/person.ts";
import { question } from "../asking/question-now.ts";
import { canChangeHere } from "../definitions/draft.ts";
import type { ReadSet } from "../definitions/read-set.ts";
import { ConditionText } from "../parts/condition-text.tsx";
import { LookedUp } from "../parts/looked-up.tsx";
import { UsedBy } from "../parts/used-by.tsx";
import { post } from "../service/ask.ts";
import { ChangeCohort, EditIds, NewCohort } from "./change-cohort.tsx";

/** Groups of people: who belongs to each, whether the person in question does, and where it is used. */
export function Cohorts({ set, name }: { readonly set: ReadSet; readonly name: string | undefined }) {
  const definitions = set.definitions!;
  const all = [...definitions.cohorts.values()].sort((a, b) => (a.name < b.name ? -1 : 1));
  const shown = name === undefined ? all : all.filter((cohort) => cohort.name === name);
  if (shown.length === 0)
    return <p class="whole">{name === undefined ? "No cohort is defined." : `There is no cohort “${name}”.`}</p>;
  const uses = new Graph(definitions).uses();
  return (
    <section aria-label="Cohorts">
      {canChangeHere() && (
        <div class="doings">
          <NewCohort set={set} />
        </div>
      )}
      <ul class="agenda">
        {shown.map((cohort) => (
          <li class="row" key={cohort.name}>
            <div class="margin">
              <h2 class="name">{cohort.name}</h2>
              <p class="owner">{kindWords[cohort.kind]}</p>
            </div>
            <div class="text">
              <p class="answer">{describeCohort(cohort, definitions)}</p>
              {cohort.about && <p class="about">{cohort.about}</p>}
              {cohort.kind === "condition" && question.value.asked.whom.kind !== "person" && (
                <ConditionText text={cohort.when} trace={undefined} />
              )}
              <Membership cohort={cohort} set={set} />
              {cohort.kind === "list" && <SearchId cohort={cohort} by={question.value.asked.by} />}
              {canChangeHere() && (
                <div class="doings">
                  <ChangeCohort cohort={cohort} />
                  {cohort.kind === "list" && cohort.hashed === undefined && <EditIds cohort={cohort} />}
                </div>
              )}
              <UsedBy node={`cohort:${cohort.name}`} uses={uses} />
            </div>
            <div class="coming" />
          </li>
        ))}
      </ul>
    </section>
  );
}

const kindWords = { condition: "by a condition", list: "a list", lot: "by lot" };

/** Whether the person in question belongs to it, and why. */
function Membership({ cohort, set }: { readonly cohort: CohortDefinition; readonly set: ReadSet }) {
  const { asked } = question.value;
  const { whom } = asked;
  if (whom.kind !== "person") return null;
  const supposed = set.suppose(
    () =>
      explainCondition(set.flagSet(asked.environment), `cohort:${cohort.name}`, whom.context, {
        at: instantOf(asked),
      }).explanation,
    (one, other) => JSON.stringify(one) === JSON.stringify(other),
  );
  const called = nameOfPerson(whom.context, set.definitions);
  if (!("answer" in supposed))
    return (
      <p class="membership">
        Whether {called} belongs to it depends on {set.cohortOf(supposed.open.list)}.<LookedUp set={set} />
      </p>
    );
  const explanation = supposed.answer;
  if (!explanation) return null;
  const words = {
    true: `${called} belongs to it.`,
    false: `${called} does not belong to it.`,
    undecided: `Whether ${called} belongs to it cannot be told.`,
  };
  return (
    <div class="membership">
      <p>
        <b>{words[explanation.answer]}</b>
      </p>
      {explanation.trace.tests
        .filter((test) => test.decided && test.inner)
        .map((test) => (
          <ConditionText key={test.start} text={test.inner!.text} trace={test.inner} />
        ))}
    </div>
  );
}

/** “Is A-1002 in, and by which line?” */
function SearchId({ cohort, by }: { readonly cohort: ListCohort; readonly by: string }) {
  const [id, setId] = useState("");
  const [found, setFound] = useState<string | undefined>(undefined);
  const look = async (event: Event) => {
    event.preventDefault();
    const wanted = id.trim();
    if (wanted === "") return;
    setFound("Looking …");
    try {
      const { answers } = await post<ListedAnswer>("listed", {
        by,
        asked: [{ cohort: cohort.name, id: wanted }],
        where: true,
      });
      const [answer] = answers;
      setFound(
        answer?.listed ? `${wanted} is in${answer.where ? `, by ${answer.where}` : ""}.` : `${wanted} is not in.`,
      );
    } catch (error) {
      setFound((error as Error).message);
    }
  };
  return (
    <form class="id-search" onSubmit={look}>
      <label>
        Is it in?{" "}
        <input
          type="search"
          value={id}
          placeholder="an id"
          autocomplete="off"
          aria-label={`An id, to look for in ${cohort.name}`}
          onInput={(event) => setId(event.currentTarget.value)}
        />
      </label>{" "}
      <button type="submit" class="quiet">
        Look
      </button>{" "}
      <span role="status">{found}</span>
    </form>
  );
}
