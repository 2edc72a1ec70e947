import type { ComponentChildren } from "preact";
import { useState } from "preact/hooks";
import {
  type Completion,
  type ConditionLine,
  completionsAt,
  type Joint,
  replacedAt,
  turned,
  withoutTest,
  withTest,
} from "../../insight/index.ts";
import { parseCondition } from "../../language/index.ts";
import { question } from "../asking/question-now.ts";
import { setFor } from "../definitions/versions.ts";
import { ConditionField } from "../parts/condition-field.tsx";
import { Leaf, type Written } from "./leaf.tsx";
import { changeOf, placed, type RulePlace, Where } from "./places.tsx";
import { instantsOf, Reach, useReach } from "./reach.tsx";

interface TestLeafProps {
  readonly place: RulePlace;
  /** The test that is changed; undefined for one more. */
  readonly line: ConditionLine | undefined;
  readonly slot: string;
}

/** One test of a condition: what is asked, how, and against what; or the whole of it as text. */
export function TestLeaf({ place, line, slot }: TestLeafProps) {
  const text = place.rule.when ?? "";
  const [test, setTest] = useState(() => testIn(line ? text.slice(line.start, line.end) : ""));
  const [isText, setText] = useState(false);
  const [whole, setWhole] = useState<string | undefined>(undefined);
  const made = printed(test);
  const when = whole ?? (line ? replacedAt(text, line, made) : made === "" ? text : withTest(text, made));
  const isSound = when.trim() !== "" && parseCondition(when).condition !== undefined;
  const wanted = isSound && when !== text ? [changeOf(place, { when, ...environmentOf(place) })] : [];
  const share = place.rule.division?.share?.steps;
  const counted = useReach(place, instantsOf(share), wanted);
  const without = (form: FormData) =>
    placed(form, place, changeOf(place, { when: withoutTest(text, line!.start) || "everyone" }), false);
  const otherwise = {
    says: isText ? "In words" : "All as text",
    does: () => {
      setText(!isText);
      return undefined;
    },
  };
  return (
    <Leaf
      place={`${place.at}/${slot}`}
      title={line ? "A test of this rule" : "Only for some of them"}
      change={(form) => {
        const written = isText ? String(form.get("when") ?? "").trim() || "everyone" : when;
        return placed(
          form,
          place,
          written === (text || "everyone") || written === "" ? undefined : changeOf(place, { when: written }),
          false,
        );
      }}
      written={(form) => setWhole(isText ? String(form.get("when") ?? "") : undefined)}
      aside={<Reach counted={counted} before={share} after={share} />}
      acts={[
        ...(line ? [{ says: "Take it out", does: without }] : []),
        // What has been written as text is kept as text.
        ...(isText && whole !== undefined ? [] : [otherwise]),
      ]}
    >
      {isText ? (
        <ConditionField name="when" value={when} label="The condition" />
      ) : (
        <TestFields test={test} set={setTest} />
      )}
      <Where place={place} isAdjusted={false} />
    </Leaf>
  );
}

/** What is counted is the rule as it would be: of the environment that it belongs to, else the common one. */
function environmentOf({ own }: RulePlace): { environment?: string } {
  return own === undefined ? {} : { environment: own };
}

/** A test in three pieces, as people write it. */
interface TestPieces {
  readonly isNot: boolean;
  readonly subject: string;
  readonly operator: string;
  readonly value: string;
}

function testIn(text: string): TestPieces {
  const isNot = /^not\s/.test(text);
  const bare = text.replace(/^not\s+/, "");
  const { condition } = parseCondition(bare);
  if (condition?.kind !== "test") return { isNot, subject: bare, operator: "", value: "" };
  const { operand, operator, literal } = condition;
  return {
    isNot,
    subject: bare.slice(operand.start, operand.end),
    operator: operator === "is-true" ? "" : operator,
    value: literal.kind === "none" ? "" : shownValue(bare.slice(literal.start, literal.end)),
  };
}

/** A text is written without its quotes, and a list without its brackets. */
function shownValue(text: string): string {
  return /^"[^"\\]*"$/.test(text) ? text.slice(1, -1) : text;
}

function printed({ isNot, subject, operator, value }: TestPieces): string {
  if (subject === "") return "";
  const behind = operator === "" || operator.startsWith("is ") ? "" : ` ${valueText(operator, value)}`;
  return `${isNot ? "not " : ""}${subject}${operator === "" ? "" : ` ${operator}`}${behind}`;
}

/** What needs quotes gets them; what is a number, a yes-no, a version, a list or quoted already stays. */
function valueText(operator: string, value: string): string {
  const isBare = (text: string) => /^(-?\d+(\.\d+)?|true|false|v\d\S*|".*"|'.*'|\/.*|\d{4}-\d\d-\d\d\S*)$/.test(text);
  const quoted = (text: string) => (isBare(text) || text === "" ? text : JSON.stringify(text));
  if (!["in", "not in", "overlaps", "covers"].includes(operator)) return quoted(value.trim());
  return /^\[.*\]$/.test(value.trim())
    ? value.trim()
    : `[${value
        .split(",")
        .map((item) => quoted(item.trim()))
        .join(", ")}]`;
}

function TestFields({ test, set }: { readonly test: TestPieces; set(test: TestPieces): void }) {
  const definitions = setFor(question.value.asked)?.definitions;
  if (!definitions) return null;
  const options = (text: string) => completionsAt(definitions, text, text.length).options;
  const subjects = options("").filter(({ text }) => text !== "not");
  const operators =
    test.subject === "" ? [] : options(`${test.subject} `).filter(({ text }) => text !== "and" && text !== "or");
  const values = test.operator === "" ? [] : options(`${test.subject} ${test.operator} `);
  return (
    <>
      <p class="test-fields">
        <Choice
          label="What is asked"
          value={test.subject}
          options={subjects}
          pick={(subject) => {
            const fitting = options(`${subject} `).some(({ text }) => text === test.operator);
            const first = options(`${subject} `).find(({ text }) => text === "==")?.text ?? "";
            set({ ...test, subject, operator: fitting ? test.operator : first });
          }}
        />{" "}
        {operators.length > 0 && (
          <Choice
            label="How"
            value={test.operator}
            options={operators}
            isAbout
            pick={(operator) => set({ ...test, operator })}
          />
        )}{" "}
        {operators.length > 0 && test.operator !== "" && !test.operator.startsWith("is ") && (
          <>
            <input
              class="large"
              type="text"
              aria-label="Against what"
              list="values-of-test"
              autocomplete="off"
              value={test.value}
              onInput={(event) => set({ ...test, value: event.currentTarget.value })}
            />
            <datalist id="values-of-test">
              {values.map(({ text }) => (
                <option key={text} value={shownValue(text.replace(/^\[|\]$/g, ""))} />
              ))}
            </datalist>
          </>
        )}
      </p>
      <label>
        <input
          type="checkbox"
          checked={test.isNot}
          onChange={(event) => set({ ...test, isNot: event.currentTarget.checked })}
        />{" "}
        must not hold
      </label>
    </>
  );
}

interface ChoiceProps {
  readonly label: string;
  readonly value: string;
  readonly options: readonly Completion[];
  /** Shows what a choice means instead of how it is written. */
  readonly isAbout?: boolean;
  pick(text: string): void;
}

function Choice({ label, value, options, isAbout = false, pick }: ChoiceProps) {
  const all = options.some(({ text }) => text === value) ? options : [{ text: value, about: "" }, ...options];
  return (
    <select aria-label={label} value={value} onChange={(event) => pick(event.currentTarget.value)}>
      {all.map(({ text, about }) => (
        <option key={text} value={text}>
          {text === ""
            ? "– choose –"
            : isAbout && about !== ""
              ? about
              : text.replace(/^cohort:/, "among ").replace(/^window:/, "during ")}
        </option>
      ))}
    </select>
  );
}

/** The word between tests, turned for all of them that it joins. */
export function JointLeaf({
  place,
  joint,
  slot,
}: {
  readonly place: RulePlace;
  readonly joint: Joint;
  readonly slot: string;
}) {
  const other = joint.kind === "and" ? "or" : "and";
  const [kind, setKind] = useState<Joint["kind"]>(joint.kind);
  const when = kind === joint.kind ? place.rule.when! : turned(place.rule.when!, joint.group);
  const share = place.rule.division?.share?.steps;
  const changes = kind === joint.kind ? [] : [changeOf(place, { when, ...environmentOf(place) })];
  const counted = useReach(place, instantsOf(share), changes);
  return (
    <Leaf
      place={`${place.at}/${slot}`}
      title="How these tests belong together"
      change={(form) => placed(form, place, kind === joint.kind ? undefined : changeOf(place, { when }), false)}
      aside={<Reach counted={counted} before={share} after={share} />}
    >
      {([joint.kind, other] as const).map((each) => (
        <label key={each}>
          <input type="radio" name="joint" checked={kind === each} onChange={() => setKind(each)} />{" "}
          {each === "and" ? "and: all of them must hold" : "or: one of them is enough"}
        </label>
      ))}
      <Where place={place} isAdjusted={false} />
    </Leaf>
  );
}

interface ConditionLeafProps {
  readonly at: string;
  readonly title: string;
  readonly value: string;
  readonly where?: ComponentChildren;
  change(form: FormData, text: string): Written;
}

/** A condition that has no words, or that of a flag, as text. */
export function ConditionLeaf({ at, title, value, where, change }: ConditionLeafProps) {
  return (
    <Leaf
      place={at}
      title={title}
      change={(form) => {
        const text = String(form.get("when") ?? "").trim() || "everyone";
        return text === (value || "everyone") ? [] : change(form, text);
      }}
    >
      <ConditionField name="when" value={value} label="The condition, as text; nothing: everyone" />
      {where}
    </Leaf>
  );
}
