import { useEffect } from "preact/hooks";
import { Examples, type TriedExample } from "../../../checks/index.ts";
import { alikeIn, explain, leftoversOf } from "../../../insight/index.ts";
import { type FlagDefinition, flagIn, Graph, type NodeKey, stopIn } from "../../../model/index.ts";
import { show } from "../../../values/index.ts";
import { instantOf } from "../../asking/clock.ts";
import type { Circumstances } from "../../asking/question.ts";
import { question } from "../../asking/question-now.ts";
import { environmentsOf, partsOf } from "../../definitions/answers.ts";
import { askFor } from "../../definitions/asking.ts";
import { addChange, canChangeHere, mayChange } from "../../definitions/draft.ts";
import type { ReadSet } from "../../definitions/read-set.ts";
import { learnOfPeople, setFor } from "../../definitions/versions.ts";
import { Opening } from "../../parts/change-form.tsx";
import { FlagLink } from "../../parts/flag-link.tsx";
import { LookedUp } from "../../parts/looked-up.tsx";
import { StopFlag } from "../../parts/stop.tsx";
import { session } from "../../service/session.ts";
import { Answer } from "../flag-row.tsx";
import { History } from "../history.tsx";
import { AddExample, ChangeParticulars } from "./change-flag.tsx";
import { CopySettings, NewRule } from "./change-rule.tsx";
import { RuleList } from "./rule-list.tsx";
import { WhatCame } from "./what-came.tsx";

/** A flag: the answer, its rules as numbered sentences, its examples, and where it is used. */
export function OneFlag({ set, name }: { readonly set: ReadSet; readonly name: string }) {
  const flag = set.definitions!.flags.get(name);
  if (!flag) return <NoSuchFlag name={name} />;
  const { asked, against } = question.value;
  const other = against && setFor(against);
  const suspension = set.definitions!.suspensions.get(name);
  const isStopped = suspension !== undefined && stopIn(suspension, asked.environment) !== undefined;
  const mayStop = session.value?.may.includes("suspend") === true && !isStopped;
  return (
    <article class="one" aria-labelledby="the-flag">
      <div class="margin">
        <h2 id="the-flag" class="name">
          {name}
        </h2>
        <Particulars flag={flag} />
        {mayStop && <StopFlag flag={name} />}
        {canChangeHere() && <ChangeParticulars flag={flag} />}
        {!canChangeHere() && mayChange() && asked.by === "files" && (
          <button type="button" class="quiet" onClick={() => askFor({ by: "draft" })}>
            Go on changing: by my draft
          </button>
        )}
      </div>
      <div class="text">
        {flag.source.about && <p class="about">{flag.source.about}</p>}
        <section aria-label="The answer" class="part">
          <Answer name={name} asked={asked} parts={partsOf(name, asked, set)} set={set} />
          {other && (
            <div class="other">
              <p class="lead">By the other question:</p>
              <Answer name={name} asked={against!} parts={partsOf(name, against!, other)} set={other} />
            </div>
          )}
        </section>
        <Rules flag={flag} asked={asked} set={set} />
        <ExampleList flag={flag} set={set} />
        <Uses flag={flag} set={set} />
        <Leftover flag={flag} set={set} />
        {session.value?.canWeigh && <WhatCame flag={flag} environment={asked.environment} />}
        {session.value?.hasHistory && (
          <section class="part" aria-label="What was">
            <h3>What was</h3>
            <Opening label="Look back at its earlier changes">{() => <History flag={name} />}</Opening>
          </section>
        )}
      </div>
    </article>
  );
}

function NoSuchFlag({ name }: { readonly name: string }) {
  return (
    <div class="whole">
      <h2>There is no flag “{name}” in these definitions.</h2>
      <p>It may have been renamed or taken out; the sentence above says by which definitions this is answered.</p>
    </div>
  );
}

function Particulars({ flag }: { readonly flag: FlagDefinition }) {
  const { owner, lifespan, "review-by": reviewBy, safe } = flag.source;
  const rows = [
    ["owner", owner],
    ["lifespan", lifespan],
    ["review by", reviewBy],
    ["safe value", show(safe, 60)],
    ["in", flag.file],
  ].filter(([, value]) => value !== undefined);
  return (
    <dl class="particulars">
      {rows.map(([word, value]) => (
        <div key={word}>
          <dt>{word}</dt>
          <dd>{value}</dd>
        </div>
      ))}
    </dl>
  );
}

/** Whether the time of a flag may have come. */
function Leftover({ flag, set }: { readonly flag: FlagDefinition; readonly set: ReadSet }) {
  const at = instantOf(question.value.asked);
  const [found] = leftoversOf(set.definitions!, { at, flags: [flag.name] });
  if (!found) return null;
  const { reasons, decided, decidedWith = [] } = found;
  return (
    <section class="part" aria-label="Whether its time has come">
      <h3>Its time may have come</h3>
      {reasons.includes("past-review") && <p>It was to be looked at again by {found.reviewBy}.</p>}
      {reasons.includes("decided") && (
        <p>
          It gives <b>{show(decided, 80)}</b> to everybody, in every environment, from now on
          {decidedWith.length > 0 && `, as far as they have ${decidedWith.join(" and ")}`}.
        </p>
      )}
    </section>
  );
}

interface RulesProps {
  readonly flag: FlagDefinition;
  readonly asked: Circumstances;
  readonly set: ReadSet;
}

/** The rules, once for all environments that go by the same. */
function Rules({ flag, asked, set }: RulesProps) {
  const definitions = set.definitions!;
  const keyOf = (environment: string | undefined) => {
    const { provided, rules, otherwise } = flagIn(flag, environment);
    return JSON.stringify([provided, rules.map(({ source }) => source), otherwise]);
  };
  const groups = alikeIn(
    environmentsOf(asked, definitions),
    (environment) => ({ environment, cacheKey: keyOf(environment) }),
    (each) => each.cacheKey,
  );
  return (
    <section class="part" aria-label="The rules">
      <h3>The rules, in the order in which they are asked</h3>
      {groups.map(({ environments, answer: { environment } }) => (
        <div key={environment ?? ""}>
          {environments && <p class="where">In {environments.join(", ")}:</p>}
          <RuleList
            flag={flag}
            environment={environment}
            asked={asked}
            set={set}
            explanation={explanationIn(environment)}
          />
        </div>
      ))}
      {canChangeHere() && (
        <div class="doings">
          <NewRule flag={flag} />
          <CopySettings flag={flag} />
        </div>
      )}
    </section>
  );

  function explanationIn(environment: string | undefined) {
    const { whom } = asked;
    if (whom.kind !== "person") return undefined;
    const supposed = set.suppose(
      () => explain(set.flagSet(environment), flag.name, whom.context, { at: instantOf(asked) }),
      isAlike,
    );
    // No mark is set where it may be elsewhere.
    return "answer" in supposed ? supposed.answer : undefined;
  }
}

function ExampleList({ flag, set }: { readonly flag: FlagDefinition; readonly set: ReadSet }) {
  const examples = new Examples(set.definitions!);
  const written = flag.source["for-instance"] ?? [];
  const tried = written.map((example, index) => ({
    index,
    example,
    found: set.suppose(() => examples.one(flag, example, index).fails, isAlike),
  }));
  const isOpen = tried.some(({ found }) => !("answer" in found));
  const { by } = question.value.asked;
  useEffect(() => {
    if (isOpen)
      void learnOfPeople(
        by,
        written.map(({ as }) => as as Record<string, unknown>),
      );
  }, [isOpen, by, set]);
  if (tried.length === 0 && !canChangeHere()) return null;
  return (
    <section class="part" aria-label="Examples">
      <h3>What must stay true</h3>
      <ul class="examples">
        {tried.map(({ index, example, found }) => (
          <li key={index} class={"answer" in found ? (found.answer ? "fails" : "holds") : ""}>
            <p>
              {example.in === undefined ? "" : `In ${example.in}, `}
              {example.at === undefined ? "" : `at ${String(example.at).replace("T", " ")}, `}
              {Object.keys(example.as as object).length === 0 ? (
                "somebody of whom nothing is known"
              ) : (
                <code>{show(example.as, 200)}</code>
              )}{" "}
              gets <b>{show(example.gives, 80)}</b>:{" "}
              {"answer" in found ? <Held fails={found.answer} /> : <LookedUp set={set} />}{" "}
              {canChangeHere() && <DropExample flag={flag.name} index={index} />}
            </p>
          </li>
        ))}
      </ul>
      {canChangeHere() && <AddExample flag={flag} />}
    </section>
  );
}

function isAlike(one: unknown, other: unknown): boolean {
  return JSON.stringify(one) === JSON.stringify(other);
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

function DropExample({ flag, index }: { readonly flag: string; readonly index: number }) {
  return (
    <button
      type="button"
      class="quiet"
      aria-label={`Take out example ${index + 1}`}
      onClick={() => void addChange({ change: "example", flag, dropExample: index + 1 })}
    >
      Take out
    </button>
  );
}

const graphs = new WeakMap<ReadSet, { readonly graph: Graph; readonly uses: ReturnType<Graph["uses"]> }>();

function graphOf(set: ReadSet) {
  let found = graphs.get(set);
  if (!found) {
    const graph = new Graph(set.definitions!);
    found = { graph, uses: graph.uses() };
    graphs.set(set, found);
  }
  return found;
}

/** What a flag looks at, and what looks at it. */
function Uses({ flag, set }: { readonly flag: FlagDefinition; readonly set: ReadSet }) {
  const { graph, uses } = graphOf(set);
  const node: NodeKey = `flag:${flag.name}`;
  const looksAt = [...new Set(graph.from(node).map(({ to }) => to))];
  const usedBy = [...new Map((uses.get(node) ?? []).map((use) => [`${use.user} ${use.name}`, use])).values()];
  return (
    <section class="part" aria-label="Where it is used">
      <h3>What it goes by, and what goes by it</h3>
      <p>
        {looksAt.length === 0 ? "It looks at nothing. " : "It looks at "}
        {looksAt.map((to, i) => (
          <span key={to}>
            {i > 0 && ", "}
            <NodeLink node={to} />
          </span>
        ))}
        {looksAt.length > 0 && ". "}
        {usedBy.length === 0 ? "No other flag looks at it." : "It is looked at by "}
        {usedBy.map(({ user, name, where }, i) => (
          <span key={`${user} ${name}`}>
            {i > 0 && ", "}
            {user === "flag" ? <FlagLink name={name} /> : `the cohort ${name}`} ({where})
          </span>
        ))}
        {usedBy.length > 0 && "."}
      </p>
    </section>
  );
}

function NodeLink({ node }: { readonly node: NodeKey }) {
  const [kind = "", name = ""] = [node.slice(0, node.indexOf(":")), node.slice(node.indexOf(":") + 1)];
  if (kind === "flag") return <FlagLink name={name} />;
  return (
    <>
      the {kind} <b>{name}</b>
    </>
  );
}
