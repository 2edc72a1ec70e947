import { useEffect, useState } from "preact/hooks";
import type { WeighAnswer, WeighedWords, WeighingRequest } from "../../../desk/index.ts";
import { type FlagDefinition, flagIn, ruleCalled } from "../../../model/index.ts";
import { Opening } from "../../parts/change-form.tsx";
import { post } from "../../service/ask.ts";

interface Props {
  readonly flag: FlagDefinition;
  readonly environment: string | undefined;
}

/** What came of a flag, by each rule that divides people: the words first. */
export function WhatCame({ flag, environment }: Props) {
  const dividing = flagIn(flag, environment).rules.filter(({ division }) => division !== undefined);
  if (dividing.length === 0) return null;
  return (
    <section class="part" aria-label="What came of it">
      <h3>What came of it</h3>
      {dividing.map((rule) => (
        <Opening key={rule.number} label={`Weigh the groups of ${ruleCalled(rule)}`}>
          {() => <Weighed flag={flag.name} rule={rule.name ?? String(rule.number)} environment={environment} />}
        </Opening>
      ))}
    </section>
  );
}

function Weighed({
  flag,
  rule,
  environment,
}: {
  readonly flag: string;
  readonly rule: string;
  readonly environment: string | undefined;
}) {
  const [found, setFound] = useState<WeighAnswer | string | undefined>(undefined);
  useEffect(() => {
    let isOver = false;
    const request: WeighingRequest = { flag, rule, ...(environment === undefined ? {} : { environment }) };
    post<WeighAnswer>("weigh", request)
      .then((answer) => !isOver && setFound(answer))
      .catch((error: Error) => !isOver && setFound(error.message));
    return () => {
      isOver = true;
    };
  }, [flag, rule, environment]);
  if (found === undefined) return <p class="lead">It is being weighed …</p>;
  if (typeof found === "string") return <p class="fault">{found}</p>;
  return (
    <div class="weighed">
      {found.measures.map((measure) => (
        <Measure key={measure.name} measure={measure} />
      ))}
      <p>{found.head[1]}</p>
      {found.picture !== undefined && (
        // The desk draws it, with every name in it escaped.
        <div class="drawing" dangerouslySetInnerHTML={{ __html: found.picture }} />
      )}
      <ul class="facts">
        {found.facts.map((fact) => (
          <li key={fact}>{fact}</li>
        ))}
      </ul>
    </div>
  );
}

function Measure({ measure: { name, isGuard, says, groups } }: { readonly measure: WeighedWords }) {
  return (
    <>
      <h4>
        {name}
        {isGuard && " (must not get worse)"}
      </h4>
      {says.map((words) => (
        <p key={words} class="says">
          {words}
        </p>
      ))}
      <p class="lead">
        {groups.map((group) => `${group.figure} of ${group.people.toLocaleString("en-US")} ${group.name}`).join(", ")}
      </p>
    </>
  );
}
