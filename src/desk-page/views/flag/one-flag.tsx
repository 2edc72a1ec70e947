import { alikeIn, explain, leftoversOf } from "../../../insight/index.ts";
import { type FlagDefinition, flagIn, Graph, type NodeKey } from "../../../model/index.ts";
import { sameData, show } from "../../../values/index.ts";
import { instantOf } from "../../asking/clock.ts";
import type { Circumstances } from "../../asking/question.ts";
import { question } from "../../asking/question-now.ts";
import { environmentsOf, partsOf } from "../../definitions/answers.ts";
import { askFor } from "../../definitions/asking.ts";
import { canChangeHere, mayChange } from "../../definitions/draft.ts";
import type { ReadSet } from "../../definitions/read-set.ts";
import { setFor } from "../../definitions/versions.ts";
import { Opening } from "../../parts/change-form.tsx";
import { giveWords } from "../../parts/fields.tsx";
import { FlagLink } from "../../parts/flag-link.tsx";
import { formOf } from "../../parts/form-field.tsx";
import { session } from "../../service/session.ts";
import { FlagFieldLeaf, FlagNameLeaf, VariantLeaf } from "../../words/late-leaves.ts";
import { Word } from "../../words/word.tsx";
import { Answer } from "../flag-row.tsx";
import { History } from "../history.tsx";
import { ExampleList } from "./examples.tsx";
import { CopySettings, NewRule } from "./new-rule.tsx";
import { RuleList } from "./rule-list.tsx";
import { WhatCame } from "./what-came.tsx";

/** A flag: the answer, its rules as numbered sentences, its examples, and where it is used. */
export function OneFlag({ set, name }: { readonly set: ReadSet; readonly name: string }) {
  const flag = set.definitions!.flags.get(name);
  if (!flag) return <NoSuchFlag name={name} />;
  const { asked, against } = question.value;
  const other = against && setFor(against);
  return (
    <article class="one" aria-labelledby="the-flag">
      <div class="margin">
        <h2 id="the-flag" class="name words">
          <Word
            place={`${name}/name`}
            about="name of the flag"
            leaf={() => <FlagNameLeaf flag={flag} uses={usersOf(set, name)} />}
          >
            {name}
          </Word>
        </h2>
        <Particulars flag={flag} />
        {!canChangeHere() && mayChange() && asked.by === "files" && (
          <button type="button" class="quiet" onClick={() => askFor({ by: "draft" })}>
            Go on changing: by my draft
          </button>
        )}
      </div>
      <div class="text">
        <div class="about words">
          <FlagField flag={flag} field="about" value={flag.source.about} />
        </div>
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
    ["owner", "owner", owner],
    ["lifespan", "lifespan", lifespan],
    ["review by", "reviewBy", reviewBy],
    ["safe value", "safe", giveWords(safe)],
  ] as const;
  return (
    <dl class="particulars">
      {rows.map(([word, field, value]) => (
        <div key={word} class="words">
          {(value !== undefined || canChangeHere()) && <dt>{word}</dt>}
          <dd>
            <FlagField flag={flag} field={field} value={value} />
          </dd>
        </div>
      ))}
      {flag.variants &&
        [...flag.variants, [undefined, undefined] as const].map(([variant, value]) => (
          <div key={variant ?? ""} class="words">
            {variant !== undefined && <dt>{variant}</dt>}
            <dd>
              <Word
                place={`${flag.name}/variant-${variant ?? ""}`}
                about={variant === undefined ? "one more" : `value of the variant ${variant}`}
                isEmpty={variant === undefined}
                leaf={() => <VariantLeaf flag={flag} variant={variant} />}
              >
                {variant === undefined ? "a variant …" : show(value, 40)}
              </Word>
            </dd>
          </div>
        ))}
      <div>
        <dt>in</dt>
        <dd>{flag.file}</dd>
      </div>
    </dl>
  );
}

interface FlagFieldProps {
  readonly flag: FlagDefinition;
  readonly field: string;
  readonly value: string | undefined;
}

/** A word of what is said of the flag itself; where nothing is, an empty slot. */
function FlagField({ flag, field, value }: FlagFieldProps) {
  return (
    <Word
      place={`${flag.name}/${field}`}
      about={formOf("flag", field).says.toLowerCase()}
      isEmpty={value === undefined}
      leaf={() => <FlagFieldLeaf flag={flag} field={field} value={value ?? ""} />}
    >
      {value ?? `${field === "about" ? "what it is for" : "say"} …`}
    </Word>
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
        <div class="doings words">
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
      sameData,
    );
    // No mark is set where it may be elsewhere.
    return "answer" in supposed ? supposed.answer : undefined;
  }
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

/** The names of what names a flag. */
function usersOf(set: ReadSet, name: string): readonly string[] {
  return [...new Set((graphOf(set).uses.get(`flag:${name}`) ?? []).map((use) => use.name))];
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
