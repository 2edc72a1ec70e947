import type { Explanation, RuleStep } from "../../../insight/index.ts";
import { type FlagDefinition, flagIn, type Rule } from "../../../model/index.ts";
import { show } from "../../../values/index.ts";
import { instantOf } from "../../asking/clock.ts";
import type { Circumstances } from "../../asking/question.ts";
import { countOf } from "../../definitions/counts.ts";
import { canChangeHere } from "../../definitions/draft.ts";
import type { ReadSet } from "../../definitions/read-set.ts";
import { ConditionText } from "../../parts/condition-text.tsx";
import { giveWords } from "../../parts/fields.tsx";
import { ShareLine } from "../../parts/share-line.tsx";
import { SplitBar } from "../../parts/split-bar.tsx";
import { ConditionLeaf, OtherwiseLeaf } from "../../words/late-leaves.ts";
import { ruleKey } from "../../words/places.tsx";
import { RuleSentence } from "../../words/rule-sentence.tsx";
import { changeAtOnce } from "../../words/use-roving.ts";
import { Word } from "../../words/word.tsx";

export interface RuleListProps {
  readonly flag: FlagDefinition;
  readonly environment: string | undefined;
  readonly asked: Circumstances;
  readonly set: ReadSet;
  /** For one person: the way to their answer. */
  readonly explanation: Explanation | undefined;
}

/** The rules of a flag in one environment, as numbered sentences; for a person, with the mark where it turned. */
export function RuleList({ flag, environment, asked, set, explanation }: RuleListProps) {
  const { provided, rules, otherwise } = flagIn(flag, environment);
  const steps = explanation?.steps ?? [];
  const gates = steps.filter((step) => step.step === "provided");
  const isLast = steps.at(-1);
  return (
    <>
      {provided.map((text, i) => (
        <div class="gate" key={text}>
          <div class="words">
            Only where{" "}
            <Word
              place={`${flag.name}/provided`}
              about="what must hold for everything else"
              leaf={() => (
                <ConditionLeaf
                  at={`${flag.name}/provided`}
                  title="What must hold for everything else"
                  value={flag.source.provided ?? ""}
                  change={(_, provided) => [{ change: "flag", flag: flag.name, provided }]}
                />
              )}
            >
              this holds
            </Word>
            ; where not, everybody gets <b>{show(flag.source.safe, 60)}</b>:
          </div>
          <ConditionText text={text} trace={gates[i]?.condition} />
        </div>
      ))}
      {rules.length > 0 && (
        <ol class="rules">
          {rules.map((rule) => (
            <RuleItem
              key={rule.number}
              rule={rule}
              set={set}
              asked={asked}
              flag={flag.name}
              environment={environment}
              step={steps.find((step): step is RuleStep => step.step === "rule" && step.rule === rule.number)}
              isTold={explanation !== undefined}
              definition={flag}
              count={rules.length}
            />
          ))}
        </ol>
      )}
      <div class={`otherwise words ${isLast?.step === "otherwise" ? "decides" : ""}`}>
        {rules.length === 0 ? "Everybody gets " : "Everybody else gets "}
        <Word
          place={`${flag.name}/${environment ?? ""}/otherwise`}
          about="value for everybody else"
          isBold
          leaf={() => <OtherwiseLeaf flag={flag} environment={environment} value={giveWords(otherwise)} />}
        >
          {show(otherwise, 80)}
        </Word>
        .
      </div>
    </>
  );
}

interface RuleItemProps {
  readonly rule: Rule;
  readonly set: ReadSet;
  readonly asked: Circumstances;
  readonly flag: string;
  readonly environment: string | undefined;
  readonly step: RuleStep | undefined;
  readonly isTold: boolean;
  readonly definition: FlagDefinition;
  readonly count: number;
}

function RuleItem({ rule, set, asked, flag, environment, step, isTold, definition, count }: RuleItemProps) {
  const at = instantOf(asked);
  const share = rule.division?.share;
  const split = rule.division?.split;
  const isUnasked = isTold && step === undefined;
  return (
    <li
      class={`rule ${step?.matched ? "decides" : ""} ${isUnasked ? "unasked" : ""}`}
      {...(canChangeHere() ? dragging(definition, rule) : {})}
    >
      <RuleSentence
        flag={definition}
        rule={rule}
        environment={environment}
        definitions={set.definitions!}
        count={count}
        outcome={
          step ? (step.matched ? "It matches." : "It goes past.") : isUnasked ? "Not asked any more." : undefined
        }
      />
      {rule.source.note && <p class="about">{rule.source.note}</p>}
      {rule.when !== undefined && (step || !canChangeHere()) && (
        <ConditionText text={rule.when} trace={step?.condition} />
      )}
      {share && <ShareLine share={share} by={rule.division!.by} at={at} trace={step?.share} />}
      {split && <SplitBar split={split} trace={step?.split} />}
      {asked.whom.kind === "people" && (
        <Taken
          flag={flag}
          file={asked.whom.file}
          asked={asked}
          set={set}
          environment={environment}
          rule={rule.number}
        />
      )}
    </li>
  );
}

/** A rule can be taken by the hand and put down on another, whose place it takes; the buttons do the same. */
function dragging(flag: FlagDefinition, rule: Rule) {
  const kind = `application/x-rule-${flag.name}-${rule.environment ?? ""}`.toLowerCase();
  return {
    draggable: true,
    onDragStart: (event: DragEvent) => event.dataTransfer?.setData(kind, ruleKey(rule)),
    onDragOver: (event: DragEvent) => {
      if (event.dataTransfer?.types.includes(kind)) event.preventDefault();
    },
    onDrop: (event: DragEvent) => {
      const moved = event.dataTransfer?.getData(kind);
      event.preventDefault();
      if (!moved || moved === ruleKey(rule)) return;
      void changeAtOnce(
        { flag, rule, environment: rule.environment, own: rule.environment, at: "" },
        { rule: moved, place: rule.number },
        `A rule is now rule ${rule.number}.`,
      );
    },
  };
}

interface TakenProps {
  readonly flag: string;
  readonly file: string;
  readonly asked: Circumstances;
  readonly set: ReadSet;
  readonly environment: string | undefined;
  readonly rule: number;
}

/** How many people of a file a rule takes. */
function Taken({ flag, file, asked, set, environment, rule }: TakenProps) {
  const count = countOf(flag, file, asked, set).value;
  if (count.state !== "counted") return null;
  const counted = count.counts.find((each) => each.environment === environment) ?? count.counts[0];
  const taken = counted?.causes.find((cause) => cause.rule === rule);
  return (
    <p class="taken">
      It takes <b>{(taken?.count ?? 0).toLocaleString("en")}</b> of {counted?.contexts.toLocaleString("en")} people in{" "}
      {file}.
    </p>
  );
}
