import { useEffect, useState } from "preact/hooks";
import type { PeopleAnswer } from "../../../desk/index.ts";
import { attributesOf } from "../../asking/address.ts";
import { nameOfPerson } from "../../asking/person.ts";
import { isPrivateIn } from "../../asking/private.ts";
import { everyone, type Whom } from "../../asking/question.ts";
import { currentSet } from "../../definitions/versions.ts";
import { post } from "../../service/ask.ts";
import { session } from "../../service/session.ts";
import { AttributeFields } from "./attribute-fields.tsx";

interface ForPanelProps {
  readonly whom: Whom;
  change(whom: Whom): void;
}

const nobody: Whom = { kind: "person", context: {}, lacks: [] };

/** For whom it is asked: everyone, one person, or a file of people. */
export function ForPanel({ whom, change }: ForPanelProps) {
  const files = session.value?.people ?? [];
  return (
    <>
      <fieldset class="choices">
        <legend>For whom?</legend>
        <label>
          <input type="radio" name="whom" checked={whom.kind === "everyone"} onChange={() => change(everyone)} />
          <span>
            <b>everyone</b> <i>a sentence for each flag</i>
          </span>
        </label>
        <label>
          <input type="radio" name="whom" checked={whom.kind === "person"} onChange={() => change(nobody)} />
          <span>
            <b>one person</b> <i>what they get, and why</i>
          </span>
        </label>
        {files.map((file) => (
          <label key={file}>
            <input
              type="radio"
              name="whom"
              checked={whom.kind === "people" && whom.file === file}
              onChange={() => change({ kind: "people", file })}
            />
            <span>
              <b>the people in {file}</b> <i>how many get what</i>
            </span>
          </label>
        ))}
      </fieldset>
      {whom.kind === "person" && <Person whom={whom} files={files} change={change} />}
    </>
  );
}

interface PersonProps {
  readonly whom: Extract<Whom, { kind: "person" }>;
  readonly files: readonly string[];
  change(whom: Whom): void;
}

function Person({ whom, files, change }: PersonProps) {
  const be = (context: Readonly<Record<string, unknown>>) => {
    const known = new Set([...attributesOf(context)].map(([attribute]) => attribute));
    change({ kind: "person", context, lacks: whom.lacks.filter((attribute) => !known.has(attribute)) });
  };
  return (
    <div class="person">
      {whom.lacks.length > 0 && (
        <p class="notice">
          The address leaves out what is private: {whom.lacks.join(", ")}. Fill it in below, or it counts as missing.
        </p>
      )}
      {files.map((file) => (
        <PeopleSearch key={file} file={file} pick={(context) => change({ kind: "person", context, lacks: [] })} />
      ))}
      <AttributeFields context={whom.context} change={be} />
    </div>
  );
}

interface PeopleSearchProps {
  readonly file: string;
  pick(context: Readonly<Record<string, unknown>>): void;
}

/** Looks for somebody in a file of people, while one types. */
function PeopleSearch({ file, pick }: PeopleSearchProps) {
  const [text, setText] = useState("");
  const [found, setFound] = useState<PeopleAnswer | string | undefined>(undefined);
  useEffect(() => {
    let isOver = false;
    const timer = setTimeout(() => {
      post<PeopleAnswer>("people", { file, find: text })
        .then((answer) => !isOver && setFound(answer))
        .catch((error: Error) => !isOver && setFound(error.message));
    }, 150);
    return () => {
      isOver = true;
      clearTimeout(timer);
    };
  }, [text, file]);
  const definitions = currentSet()?.definitions;
  return (
    <div class="search">
      <label>
        Look in {file}{" "}
        <input
          type="search"
          value={text}
          placeholder="an id, a plan, …"
          onInput={(event) => setText(event.currentTarget.value)}
        />
      </label>
      {typeof found === "string" && <p class="fault">{found}</p>}
      {typeof found === "object" && (
        <ul class="found">
          {found.people.map(({ context, line }) => (
            <li key={line}>
              <button type="button" class="quiet" onClick={() => pick(context)}>
                {nameOfPerson(context, definitions)}
              </button>{" "}
              <i>{known(context)}</i>
            </li>
          ))}
          {found.people.length === 0 && <li>Nobody there holds “{text}”.</li>}
          {!found.complete && <li>… and more; write more of it.</li>}
        </ul>
      )}
    </div>
  );

  function known(context: Readonly<Record<string, unknown>>): string {
    const isPrivate = isPrivateIn(definitions);
    const words = [...attributesOf(context)].map(
      ([name, value]) => `${name} ${isPrivate(name) ? "•••" : String(value)}`,
    );
    return words.slice(0, 6).join(", ");
  }
}
