import { useState } from "preact/hooks";
import { draftNumber, session } from "../../service/session.ts";

interface ByPanelProps {
  readonly by: string;
  change(by: string): void;
}

/** What a version of the definitions is called in the sentence. */
export function byWords(by: string): string {
  if (by === "files") return "the files as they stand";
  if (by === "draft") return "my draft";
  const [, kind, name = ""] = /^(\w+):(.*)$/s.exec(by) ?? [];
  if (kind === "commit") return `the files of ${name.length > 20 ? name.slice(0, 10) : name}`;
  return kind === "edition" ? `edition ${name}` : by;
}

/** By which version of the definitions it is answered. */
export function ByPanel({ by, change }: ByPanelProps) {
  const mayDraft = session.value?.may.includes("change") === true;
  const hasHistory = session.value?.hasHistory === true;
  return (
    <fieldset class="choices">
      <legend>By which definitions?</legend>
      <label>
        <input type="radio" name="version" checked={by === "files"} onChange={() => change("files")} />
        <span>
          <b>the files as they stand</b>
        </span>
      </label>
      {mayDraft && (
        <label>
          <input type="radio" name="version" checked={by === "draft"} onChange={() => change("draft")} />
          <span>
            <b>my draft</b> <i>{draftNumber.value === 0 ? "which holds nothing yet" : "as it would be once written"}</i>
          </span>
        </label>
      )}
      {hasHistory && <Numbered by={by} kind="commit" label="an earlier revision" hint="HEAD~1" change={change} />}
      {session.value?.shelf !== undefined && (
        <Numbered by={by} kind="edition" label={`an edition of ${session.value.shelf}`} hint="41" change={change} />
      )}
    </fieldset>
  );
}

interface NumberedProps extends ByPanelProps {
  readonly kind: "commit" | "edition";
  readonly label: string;
  readonly hint: string;
}

/** A version that is asked for by its name: a revision of the repository, or an edition. */
function Numbered({ by, kind, label, hint, change }: NumberedProps) {
  const front = `${kind}:`;
  const [name, setName] = useState(by.startsWith(front) ? by.slice(front.length) : "");
  const wanted = name.trim();
  const go = () => wanted !== "" && change(`${front}${wanted}`);
  return (
    <form
      onSubmit={(event) => {
        event.preventDefault();
        go();
      }}
    >
      <label>
        <input type="radio" name="version" checked={by.startsWith(front)} disabled={wanted === ""} onChange={go} />
        <span>
          <b>{label}</b>{" "}
          <input
            type="text"
            aria-label={kind === "commit" ? "Revision: a commit, a branch, a tag" : "Number of the edition"}
            placeholder={hint}
            value={name}
            onInput={(event) => setName(event.currentTarget.value)}
          />{" "}
          <button type="submit" class="quiet">
            Go by it
          </button>
        </span>
      </label>
    </form>
  );
}
