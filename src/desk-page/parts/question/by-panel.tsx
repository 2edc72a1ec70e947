import { useState } from "preact/hooks";
import { draftNumber, session } from "../../definitions/desk.ts";

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
  const [revision, setRevision] = useState(by.startsWith("commit:") ? by.slice("commit:".length) : "");
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
      {hasHistory && (
        <form
          onSubmit={(event) => {
            event.preventDefault();
            if (revision.trim() !== "") change(`commit:${revision.trim()}`);
          }}
        >
          <label>
            <input
              type="radio"
              name="version"
              checked={by.startsWith("commit:")}
              disabled={revision.trim() === ""}
              onChange={() => change(`commit:${revision.trim()}`)}
            />
            <span>
              <b>an earlier revision</b>{" "}
              <input
                type="text"
                aria-label="Revision: a commit, a branch, a tag"
                placeholder="HEAD~1"
                value={revision}
                onInput={(event) => setRevision(event.currentTarget.value)}
              />{" "}
              <button type="submit" class="quiet">
                Go by it
              </button>
            </span>
          </label>
        </form>
      )}
    </fieldset>
  );
}
