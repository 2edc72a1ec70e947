import { describeRule, type Explanation, type RuleStep } from "../../../insight/index.ts";
import { type FlagDefinition, flagIn, type Rule } from "../../../model/index.ts";
import { show } from "../../../values/index.ts";
import { instantOf } from "../../asking/clock.ts";
import type { Circumstances } from "../../asking/question.ts";
import { countOf } from "../../definitions/counts.ts";
import { addChange, canChangeHere } from "../../definitions/draft.ts";
import type { ReadSet } from "../../definitions/read-set.ts";
import { ConditionText } from "../../parts/condition-text.tsx";
import { ShareLine } from "../../parts/share-line.tsx";
import { SplitBar } from "../../parts/split-bar.tsx";
import { ChangeOtherwise } from "./change-flag.tsx";
import { ChangeRule, ruleKey } from "./change-rule.tsx";

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
          <p class="rule-words">
            Only where this holds; where not, everybody gets <b>{show(flag.source.safe, 60)}</b>:
          </p>
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
      <p class={`otherwise ${isLast?.step === "otherwise" ? "decides" : ""}`}>
        {rules.length === 0 ? "Everybody gets " : "Everybody else gets "}
        <b>{show(otherwise, 80)}</b>. {canChangeHere() && <ChangeOtherwise flag={flag} environment={environment} />}
      </p>
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
  const { who, gets } = describeRule(set.definitions!, rule, at);
  const share = rule.division?.share;
  const split = rule.division?.split;
  const isUnasked = isTold && step === undefined;
  return (
    <li
      class={`rule ${step?.matched ? "decides" : ""} ${isUnasked ? "unasked" : ""}`}
      {...(canChangeHere() ? dragging(flag, rule) : {})}
    >
      <p class="rule-words">
        {rule.name && <b class="rule-name">{rule.name}. </b>}
        {who} <b>{gets}</b>.{step && <span class="outcome"> {step.matched ? "It matches." : "It goes past."}</span>}
        {isUnasked && <span class="outcome"> Not asked any more.</span>}
      </p>
      {rule.source.note && <p class="about">{rule.source.note}</p>}
      {rule.when !== undefined && <ConditionText text={rule.when} trace={step?.condition} />}
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
      {canChangeHere() && <ChangeRule flag={definition} rule={rule} count={count} environment={environment} />}
    </li>
  );
}

/** A rule can be taken by the hand and put down on another, whose place it takes; the buttons do the same. */
function dragging(flag: string, rule: Rule) {
  const kind = `application/x-rule-${flag}-${rule.environment ?? ""}`.toLowerCase();
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
      void addChange({ change: "flag", flag, rule: moved, place: rule.number, environment: rule.environment });
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
