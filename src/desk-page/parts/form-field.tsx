import { useId } from "preact/hooks";
import type { Change, FieldForm } from "../../desk/index.ts";
import { session } from "../service/session.ts";

/** How a form asks for a field of a change. */
export function formOf(change: Change["change"], field: string): FieldForm {
  return session.value?.forms[change][field] ?? { says: field };
}

interface FormFieldProps {
  readonly change: Change["change"];
  readonly field: string;
  readonly value?: string | undefined;
  readonly required?: boolean;
}

/** A field that takes a text, a day or one of some words. */
export function FormField({ change, field, value, required = false }: FormFieldProps) {
  const { says, choices, isDay, hint } = formOf(change, field);
  const id = useId();
  return (
    <label for={id}>
      {says}{" "}
      {choices ? (
        <select id={id} name={field}>
          <Choices value={value} choices={choices} />
        </select>
      ) : (
        <input
          id={id}
          type={isDay ? "date" : "text"}
          name={field}
          defaultValue={value}
          placeholder={hint}
          required={required}
          autocomplete="off"
        />
      )}
    </label>
  );
}

interface ChoicesProps {
  readonly value: string | undefined;
  readonly choices: readonly string[];
}

/** What is there already may say nothing; what is new says one of them. */
function Choices({ value, choices }: ChoicesProps) {
  const all = value === undefined ? choices : ["", ...choices];
  return all.map((each) => (
    <option key={each} value={each} selected={each === value}>
      {each === "" ? "not said" : each}
    </option>
  ));
}

/** The fields of what is said of a flag itself. */
export function particularsOf(change: "flag" | "new-flag"): readonly string[] {
  const forms = Object.entries(session.value?.forms[change] ?? {});
  return forms.filter(([, { isParticular }]) => isParticular).map(([field]) => field);
}

/** All of them, with what a flag says already. */
export function Particulars({
  change,
  said,
}: {
  readonly change: "flag" | "new-flag";
  readonly said?: Readonly<Record<string, string>>;
}) {
  return particularsOf(change).map((field) => (
    <FormField key={field} change={change} field={field} value={said?.[field]} />
  ));
}
