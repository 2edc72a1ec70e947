import { useEffect, useState } from "preact/hooks";
import type { IdsAnswer, IdsRequest } from "../../desk/index.ts";
import { printPath } from "../../language/index.ts";
import type { CohortDefinition, ListCohort } from "../../model/index.ts";
import { showRange } from "../../values/index.ts";
import { subjectPathOf } from "../asking/person.ts";
import { question } from "../asking/question-now.ts";
import type { ReadSet } from "../definitions/read-set.ts";
import { ChangeForm, given, Opening, textIn, textsIn } from "../parts/change-form.tsx";
import { ConditionField } from "../parts/condition-field.tsx";
import { FileField } from "../parts/fields.tsx";
import { FormField, formOf } from "../parts/form-field.tsx";
import { post } from "../service/ask.ts";

/** What a cohort means: its condition, or its lot. */
export function ChangeCohort({ cohort }: { readonly cohort: CohortDefinition }) {
  const { name, about = "" } = cohort;
  const share = cohort.kind === "lot" ? showRange(cohort.range) : "";
  return (
    <Opening label="Change" long={`Change the cohort ${name}`}>
      {(close) => (
        <ChangeForm
          change={(form) => {
            const written = { about: textIn(form, "about"), when: textIn(form, "when"), share: textIn(form, "share") };
            const before = { about, when: cohort.kind === "condition" ? cohort.when : "", share };
            const changed = given(written, before);
            return Object.keys(changed).length === 0 ? [] : [{ change: "cohort", cohort: name, ...changed }];
          }}
          done={close}
        >
          <FormField change="cohort" field="about" value={about} />
          {cohort.kind === "condition" && <ConditionField name="when" value={cohort.when} label="Who belongs to it" />}
          {cohort.kind === "lot" && <FormField change="cohort" field="share" value={share} />}
        </ChangeForm>
      )}
    </Opening>
  );
}

/** Ids of a list, added and taken out: typed, pasted, or out of a CSV file; it is shown what would come of them. */
export function EditIds({ cohort }: { readonly cohort: ListCohort }) {
  const [text, setText] = useState("");
  const [column, setColumn] = useState("");
  const read = useIds(cohort.name, text, column);
  return (
    <Opening label="Add or take out ids" long={`Add or take out ids of ${cohort.name}`}>
      {(close) => (
        <ChangeForm
          change={(form) => {
            const isDropping = form.get("how") === "drop";
            return !read || read.ids.length === 0
              ? undefined
              : [{ change: "ids", cohort: cohort.name, [isDropping ? "drop" : "add"]: read.ids }];
          }}
          done={close}
        >
          <label>
            Ids: lines, commas, or a column of a table
            <textarea
              name="ids"
              rows={4}
              spellcheck={false}
              value={text}
              onInput={(event) => setText(event.currentTarget.value)}
            />
          </label>
          {read && read.columns.length > 1 && (
            <label>
              Column{" "}
              <select value={read.column} onChange={(event) => setColumn(event.currentTarget.value)}>
                {read.columns.map((each) => (
                  <option key={each}>{each}</option>
                ))}
              </select>
            </label>
          )}
          {read && <Understood read={read} />}
          <p>
            <label>
              <input type="radio" name="how" value="add" defaultChecked /> add them
            </label>{" "}
            <label>
              <input type="radio" name="how" value="drop" /> take them out
            </label>
          </p>
        </ChangeForm>
      )}
    </Opening>
  );
}

const understood = {
  new: "new",
  there: "there already",
  doubled: "written twice",
  unreadable: "no id",
  heading: "a heading, not an id",
} as const;

/** How a pasted text was understood, before it counts. */
function Understood({ read }: { readonly read: IdsAnswer }) {
  const { ids, held, doubled, unreadable } = read;
  const all = ids.length + doubled + unreadable;
  return (
    <div class="understood">
      <p role="status">
        {ids.length.toLocaleString("en")} ids, {(ids.length - held).toLocaleString("en")} of them not in the list
        {doubled > 0 && `, ${doubled.toLocaleString("en")} written twice`}
        {unreadable > 0 && `, ${unreadable.toLocaleString("en")} lines without an id`}
      </p>
      <table>
        <caption class="unseen">How it is understood</caption>
        <tbody>
          {read.read.slice(0, shown).map(({ text, is }, i) => (
            <tr key={i}>
              <td>
                <code>{text || "–"}</code>
              </td>
              <td class={is === "unreadable" ? "fault" : ""}>{understood[is]}</td>
            </tr>
          ))}
        </tbody>
      </table>
      {all > shown && <p class="hint">and {(all - shown).toLocaleString("en")} more</p>}
    </div>
  );
}

/** So many lines are shown one by one. */
const shown = 10;

/** What the desk reads in a pasted text, a moment after one stops typing. */
function useIds(cohort: string, text: string, column: string): IdsAnswer | undefined {
  const [read, setRead] = useState<IdsAnswer | undefined>(undefined);
  const { by } = question.value.asked;
  useEffect(() => {
    if (text.trim() === "") return setRead(undefined);
    let isOver = false;
    const timer = setTimeout(() => {
      const request: IdsRequest = { by, cohort, text, ...(column === "" ? {} : { column }) };
      post<IdsAnswer>("ids", request)
        .then((answer) => !isOver && setRead(answer))
        .catch(() => !isOver && setRead(undefined));
    }, 200);
    return () => {
      isOver = true;
      clearTimeout(timer);
    };
  }, [by, cohort, text, column]);
  return read;
}

/** A cohort that is not there yet: by a condition, by lot, or a list. */
export function NewCohort({ set }: { readonly set: ReadSet }) {
  const [kind, setKind] = useState("condition");
  const subject = printPath(subjectPathOf(set.definitions!));
  const files = [...set.definitions!.cohorts.values()].map(({ place }) => place.file);
  return (
    <Opening label="Make a new cohort">
      {(close) => (
        <ChangeForm
          change={(form) => {
            const texts = textsIn(form, ["about", "file", "when", "share", "by", "of", "list"]);
            return [{ change: "cohort", cohort: textIn(form, "cohort") ?? "", isNew: true, ...texts }];
          }}
          done={close}
        >
          <FormField change="cohort" field="cohort" required />
          <FormField change="cohort" field="about" />
          <label>
            Who belongs to it{" "}
            <select value={kind} onChange={(event) => setKind(event.currentTarget.value)}>
              <option value="condition">whoever a condition holds for</option>
              <option value="list">whoever is in a list</option>
              <option value="lot">whoever is drawn by lot</option>
            </select>
          </label>
          {kind === "condition" && <ConditionField name="when" value="" label={formOf("cohort", "when").says} />}
          {kind === "lot" && <FormField change="cohort" field="share" required />}
          {kind !== "condition" && (
            <FormField change="cohort" field={kind === "lot" ? "by" : "of"} value={subject} required />
          )}
          {kind === "list" && <FormField change="cohort" field="list" />}
          <FileField files={files} />
        </ChangeForm>
      )}
    </Opening>
  );
}
