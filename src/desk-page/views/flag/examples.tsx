import { useEffect } from "preact/hooks";
import { Examples, type TriedExample } from "../../../checks/index.ts";
import type { FlagDefinition } from "../../../model/index.ts";
import { sameData, show } from "../../../values/index.ts";
import { question } from "../../asking/question-now.ts";
import { partsOf } from "../../definitions/answers.ts";
import { canChangeHere } from "../../definitions/draft.ts";
import type { ReadSet } from "../../definitions/read-set.ts";
import { learnOfPeople } from "../../definitions/versions.ts";
import { LookedUp } from "../../parts/looked-up.tsx";
import { ExampleLeaf, NewExampleLeaf } from "../../words/late-leaves.ts";
import { Word } from "../../words/word.tsx";
import type { AddExampleProps, Context, Example } from "./example-leaves.tsx";

/** What must stay true of a flag, and whether it holds. */
export function ExampleList({ flag, set }: { readonly flag: FlagDefinition; readonly set: ReadSet }) {
  const examples = new Examples(set.definitions!);
  const written = flag.source["for-instance"] ?? [];
  const tried = written.map((example, index) => ({
    index,
    example,
    found: set.suppose(() => examples.one(flag, example, index).fails, sameData),
  }));
  const isOpen = tried.some(({ found }) => !("answer" in found));
  const { asked } = question.value;
  useEffect(() => {
    if (isOpen)
      void learnOfPeople(
        asked.by,
        written.map(({ as }) => as as Context),
      );
  }, [isOpen, asked.by, set]);
  if (tried.length === 0 && !canChangeHere()) return null;
  return (
    <section class="part words" aria-label="Examples">
      <h3>What must stay true</h3>
      <ul class="examples">
        {tried.map(({ index, example, found }) => (
          <li key={index} class={"answer" in found ? (found.answer ? "fails" : "holds") : ""}>
            {whereWords(example)}
            <Word
              place={`${flag.name}/example-${index}`}
              about={`example ${index + 1}`}
              leaf={() => <ExampleLeaf flag={flag} index={index} example={example} />}
            >
              {Object.keys(example.as as object).length === 0
                ? "somebody of whom nothing is known"
                : show(example.as, 200)}
            </Word>{" "}
            gets <b>{show(example.gives, 80)}</b>:{" "}
            {"answer" in found ? <Held fails={found.answer} /> : <LookedUp set={set} />}
          </li>
        ))}
      </ul>
      {canChangeHere() && <AddExample flag={flag} set={set} asked={asked} />}
    </section>
  );
}

function whereWords({ in: where, at }: Example): string {
  return `${where === undefined ? "" : `In ${where}, `}${at === undefined ? "" : `at ${String(at).replace("T", " ")}, `}`;
}

function Held({ fails }: { readonly fails: TriedExample["fails"] | undefined }) {
  return (
    <>
      <span class="verdict">{fails ? "it does not hold" : "it holds"}</span>
      {fails && "given" in fails && `, ${show(fails.given, 80)} is given by ${fails.by}`}
      {fails && !("given" in fails) && ", since it says no instant"}.
    </>
  );
}

/** “This must stay true”: an example from the person in question. What is private of them is made up first. */
function AddExample({ flag, set, asked }: AddExampleProps) {
  if (asked.whom.kind !== "person") return null;
  const parts = partsOf(flag.name, asked, set);
  // Nothing is promised that is not known.
  if (parts.some(({ open }) => open === "value")) return null;
  const place = `${flag.name}/example-new`;
  return (
    <Word
      place={place}
      about="a new example"
      leaf={() => <NewExampleLeaf place={place} flag={flag} set={set} asked={asked} />}
    >
      {`This must stay true: ${parts[0]?.value ?? ""} for this person`}
    </Word>
  );
}
