import type { ComponentChildren } from "preact";
import { type ConditionLine, conditionLines } from "../../insight/index.ts";
import type { Definitions, FlagDefinition, Rule, Share } from "../../model/index.ts";
import { partsOf, rangeAt, subjectOf } from "../../model/index.ts";
import { sentenceList, show, showPercent, showRange } from "../../values/index.ts";
import { instantOf } from "../asking/clock.ts";
import { question } from "../asking/question-now.ts";
import { currentSet } from "../definitions/versions.ts";
import { showMoment, zoneOf } from "../parts/times.ts";
import {
  ByLeaf,
  ConditionLeaf,
  GiveLeaf,
  JointLeaf,
  PartsLeaf,
  RuleTextLeaf,
  ShareLeaf,
  TestLeaf,
} from "./late-leaves.ts";
import { byWords, changeOf, placed, type RulePlace, Where } from "./places.tsx";
import { useRoving } from "./use-roving.ts";
import { Word } from "./word.tsx";

interface RuleSentenceProps {
  readonly flag: FlagDefinition;
  readonly rule: Rule;
  readonly environment: string | undefined;
  readonly definitions: Definitions;
  readonly count: number;
  /** Said behind the sentence. */
  readonly outcome: string | undefined;
}

/** A rule as a sentence whose words can be changed. To the Tab key it is one stop; arrows go from word to word. */
export function RuleSentence({ flag, rule, environment, definitions, count, outcome }: RuleSentenceProps) {
  const at = `${flag.name}/${environment ?? ""}/${rule.number}`;
  const place: RulePlace = { flag, rule, environment, own: rule.environment, adjusted: rule.adjusted?.environment, at };
  const { ref, onKeyDown, onFocusIn } = useRoving(place, count);
  const { number, source, division } = rule;
  const condition = rule.when === undefined ? undefined : definitions.conditions.get(rule.when).condition;
  const lines = condition && conditionLines(condition);
  const stands = lines !== undefined && lines.length > 2;
  return (
    <div
      ref={ref}
      class="rule-words words"
      role="toolbar"
      aria-label={`Rule ${number}${rule.name ? `, ${rule.name}` : ""}`}
      onKeyDown={onKeyDown}
      onFocusIn={onFocusIn}
    >
      {rule.name !== undefined || source.note === undefined ? (
        <Word
          place={`${at}/called`}
          about={`name of rule ${number}`}
          isBold={rule.name !== undefined}
          isEmpty={rule.name === undefined}
          leaf={() => <RuleTextLeaf place={place} field="called" count={count} />}
        >
          {rule.name ?? "name …"}
        </Word>
      ) : null}
      {rule.name !== undefined && <b>. </b>}
      <Shares place={place} />
      <People place={place} lines={lines} stands={stands} />
      {division && source.by !== undefined && (
        <>
          , by{" "}
          <Word place={`${at}/by`} about={`drawn by, rule ${number}`} leaf={() => <ByLeaf place={place} />}>
            {byWords(place)}
          </Word>
          ,
        </>
      )}{" "}
      {rule.when === undefined && division === undefined ? "gets" : "get"} <Gets place={place} />.
      {outcome !== undefined && <span class="outcome"> {outcome}</span>} <EmptySlots place={place} count={count} />
    </div>
  );
}

/** How many of the people, now and from which dates on. */
function Shares({ place }: { readonly place: RulePlace }) {
  const { rule, at } = place;
  const share = rule.division?.share;
  if (!share) return null;
  const now = instantOf(question.value.asked);
  const zone = share.zone ?? zoneOf(currentSet()?.definitions);
  // What is over needs no words: the first is the one that holds.
  const first = Math.max(
    0,
    share.steps.findLastIndex(({ from }) => from <= now),
  );
  return (
    <>
      {share.steps.map((step, i) => {
        if (i < first) return null;
        const isOver = step.from <= now;
        return (
          <span key={step.from} class="step">
            {i > first && ", "}
            <Word
              place={`${at}/share-${i}`}
              about={`share${isOver ? "" : ` from ${showMoment(step.from, zone)}`}, rule ${rule.number}`}
              leaf={() => <ShareLeaf place={place} step={i} />}
            >
              {rangeWords(share, i)}
            </Word>
            {share.rises && !isOver && (
              <>
                {" from "}
                <Word
                  place={`${at}/from-${i}`}
                  about={`from when ${showPercent(step.high)}, rule ${rule.number}`}
                  leaf={() => <ShareLeaf place={place} step={i} isDate />}
                >
                  {showMoment(step.from, zone)}
                </Word>
              </>
            )}
          </span>
        );
      })}
      {" of "}
    </>
  );
}

function rangeWords(share: Share, index: number): string {
  const step = share.steps[index]!;
  return share.rises ? showRange(rangeAt(share.steps, step.from)) : showRange(step);
}

interface PeopleProps {
  readonly place: RulePlace;
  readonly lines: readonly ConditionLine[] | undefined;
  /** Whether each test stands on a line of its own. */
  readonly stands: boolean;
}

/** Who is meant: each test of the condition is a word; what has no words opens as text. */
function People({ place, lines, stands }: PeopleProps) {
  const { rule, at } = place;
  const { when, number, division } = rule;
  if (when === undefined) {
    return (
      <Word
        place={`${at}/whom`}
        about={`for whom, rule ${number}`}
        leaf={() => <TestLeaf place={place} line={undefined} slot="whom" />}
      >
        {division ? "all people" : "Everybody"}
      </Word>
    );
  }
  if (!lines) {
    return (
      <>
        {division ? "those with " : "Those with "}
        <Word
          place={`${at}/when`}
          about={`condition, rule ${number}`}
          leaf={() => (
            <ConditionLeaf
              at={`${at}/when`}
              title="The condition"
              value={when}
              change={(form, text) => placed(form, place, changeOf(place, { when: text }), false)}
              where={<Where place={place} isAdjusted={false} />}
            />
          )}
        >
          {when}
        </Word>
      </>
    );
  }
  const people = division ? "people" : "People";
  return (
    <>
      {people}{" "}
      <span class={stands ? "tests" : ""}>
        {lines.map((line, i) => (
          <span
            key={line.start}
            class="test"
            style={stands ? { marginInlineStart: `${(line.depth - 1) * 1.5}rem` } : undefined}
          >
            {line.joint && (
              <>
                <Word
                  place={`${at}/joint-${i}`}
                  about={`joins two tests, rule ${number}`}
                  leaf={() => <JointLeaf place={place} joint={line.joint!} slot={`joint-${i}`} />}
                >
                  {line.joint.kind}
                </Word>{" "}
              </>
            )}
            {line.opens && `${line.opens} `}
            {line.lead}{" "}
            <Word
              place={`${at}/test-${i}`}
              about={`test ${i + 1}, rule ${number}`}
              leaf={() => <TestLeaf place={place} line={line} slot={`test-${i}`} />}
            >
              {line.words}
            </Word>{" "}
          </span>
        ))}
      </span>
    </>
  );
}

function Gets({ place }: { readonly place: RulePlace }) {
  const { rule, at } = place;
  const split = rule.division?.split;
  if (!split) {
    return (
      <Word place={`${at}/give`} about={`value, rule ${rule.number}`} isBold leaf={() => <GiveLeaf place={place} />}>
        {show(rule.source.give, 60).replace(/^"([\w.-]+)"$/, "$1")}
      </Word>
    );
  }
  const parts = partsOf(split).map(
    ({ variant, fraction }) => `${variant} (${showPercent(Number((fraction * 100).toFixed(1)))})`,
  );
  return (
    <Word place={`${at}/parts`} about={`parts, rule ${rule.number}`} isBold leaf={() => <PartsLeaf place={place} />}>
      {sentenceList(parts, "or")}
    </Word>
  );
}

/** What a rule could say besides; seen in the rule in hand only. */
function EmptySlots({ place, count }: { readonly place: RulePlace; readonly count: number }) {
  const { rule, at, flag } = place;
  const { division, source, number } = rule;
  const slot = (name: string, words: string, leaf: () => ComponentChildren) => (
    <Word key={name} place={`${at}/${name}`} about={`rule ${number}`} isEmpty leaf={leaf}>
      {words}
    </Word>
  );
  return (
    <span class="slots">
      {!division?.share && slot("share-new", "a share …", () => <ShareLeaf place={place} step="new" />)}
      {division?.share && slot("share-new", "then …", () => <ShareLeaf place={place} step="new" />)}
      {rule.when !== undefined && slot("and", "and …", () => <TestLeaf place={place} line={undefined} slot="and" />)}
      {division &&
        source.by === undefined &&
        subjectOf(flag) !== "" &&
        slot("by", "by …", () => <ByLeaf place={place} />)}
      {slot("remark", source.note === undefined ? "remark …" : "change the remark …", () => (
        <RuleTextLeaf place={place} field="remark" count={count} />
      ))}
    </span>
  );
}
