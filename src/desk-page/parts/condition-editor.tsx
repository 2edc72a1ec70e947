import { useId, useRef, useState } from "preact/hooks";
import { completionsAt, conditionProblems } from "../../insight/index.ts";
import type { Problem } from "../../problems/index.ts";
import { question } from "../asking/question-now.ts";
import { setFor } from "../definitions/versions.ts";

interface ConditionEditorProps {
  readonly name: string;
  readonly value: string;
  readonly label: string;
}

/** A condition while it is written: what can stand at the cursor, and what is wrong, with a mark under it. */
export function ConditionEditor({ name, value, label }: ConditionEditorProps) {
  const [text, setText] = useState(value);
  const [offset, setOffset] = useState<number | undefined>(undefined);
  const [chosen, setChosen] = useState(0);
  const field = useRef<HTMLTextAreaElement>(null);
  const id = useId();
  const definitions = setFor(question.value.asked)?.definitions;
  const found = definitions && offset !== undefined ? completionsAt(definitions, text, offset) : undefined;
  const options = found?.options ?? [];
  const problems = definitions && text.trim() !== "" ? conditionProblems(definitions, text) : [];
  const take = (option: string) => {
    if (!found) return;
    const next = `${text.slice(0, found.from)}${option}${text.slice(found.to)}`;
    const at = found.from + option.length;
    setText(next);
    setOffset(undefined);
    requestAnimationFrame(() => {
      field.current?.focus();
      field.current?.setSelectionRange(at, at);
    });
  };
  const onKey = (event: KeyboardEvent) => {
    if (event.ctrlKey && event.key === " ") return look(event);
    if (options.length === 0) return;
    const step = { ArrowDown: 1, ArrowUp: -1 }[event.key];
    if (step !== undefined) {
      event.preventDefault();
      setChosen((chosen + step + options.length) % options.length);
    } else if (event.key === "Enter" || event.key === "Tab") {
      event.preventDefault();
      take(options[chosen]!.text);
    } else if (event.key === "Escape") {
      event.stopPropagation();
      setOffset(undefined);
    }
  };
  const look = (event: Event) => {
    const { value: written, selectionStart } = event.currentTarget as HTMLTextAreaElement;
    setText(written);
    setOffset(selectionStart);
    setChosen(0);
  };
  return (
    <div class="condition-editor">
      <label for={id}>{label}</label>
      <textarea
        ref={field}
        id={id}
        name={name}
        rows={2}
        spellcheck={false}
        autocomplete="off"
        value={text}
        aria-autocomplete="list"
        aria-haspopup="listbox"
        aria-controls={`${id}-options`}
        aria-activedescendant={options.length > 0 ? `${id}-option-${chosen}` : undefined}
        aria-invalid={problems.length > 0}
        aria-describedby={`${id}-problems`}
        onInput={look}
        onKeyDown={onKey}
        onBlur={() => setOffset(undefined)}
      />
      <div
        class="options"
        id={`${id}-options`}
        role="listbox"
        aria-label="What can stand here"
        hidden={options.length === 0}
      >
        {options.map((option, i) => (
          <div
            key={option.text}
            id={`${id}-option-${i}`}
            role="option"
            tabIndex={-1}
            aria-selected={i === chosen}
            // Before the field loses the cursor.
            onMouseDown={(event) => {
              event.preventDefault();
              take(option.text);
            }}
          >
            <code>{option.text}</code> <i>{option.about}</i>
          </div>
        ))}
      </div>
      <div id={`${id}-problems`} aria-live="polite">
        {offset === undefined &&
          problems.map((problem) => <ProblemMark key={problem.message} problem={problem} text={text} />)}
      </div>
    </div>
  );
}

function ProblemMark({ problem, text }: { readonly problem: Problem; readonly text: string }) {
  const { start, end } = problem.place.span ?? { start: 0, end: 0 };
  return (
    <p class="fault">
      <code>
        {text.slice(0, start)}
        <mark class="false">{text.slice(start, Math.max(end, start + 1)) || " "}</mark>
        {text.slice(Math.max(end, start + 1))}
      </code>
      <br />
      {problem.message} {(problem.help ?? problem.expected) && <i>{problem.help ?? problem.expected}</i>}
    </p>
  );
}
