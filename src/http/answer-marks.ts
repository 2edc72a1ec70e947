import { beside } from "./beside.ts";
import { type CacheMarks, markForCaches } from "./caching.ts";
import { verdictHeaderName } from "./verdict-header.ts";

/** An answer that was marked. A handler may give the same one to the next request, whose marks are others. */
interface Marked {
  readonly request: Request;
  /** What these headers were before. */
  readonly before: readonly (readonly [name: string, value: string | null])[];
}

/** Marks answers of the Fetch standard, in place where that can be. */
export class AnswerMarks {
  readonly #marked = beside<Marked>();

  /** @param verdicts the value of its header; empty for none */
  mark(response: Response, request: Request, marks: CacheMarks | undefined, verdicts: string): Response {
    const earlier = this.#marked.get(response);
    if (!marks && verdicts === "" && !earlier) return response;
    const mark = (answer: Response): Response => {
      this.#marked.set(answer, { request, before: markedWith(answer.headers, marks, verdicts, earlier?.before) });
      return answer;
    };
    if (earlier && earlier.request !== request) return mark(copyOf(response));
    try {
      return mark(response);
    } catch {
      // The headers of an answer that came from elsewhere cannot be changed.
      return mark(copyOf(response));
    }
  }
}

/** Marks an answer's headers. @returns what they were before */
function markedWith(
  headers: Headers,
  marks: CacheMarks | undefined,
  verdicts: string,
  known: Marked["before"] | undefined,
): Marked["before"] {
  const before = [...(known ?? [])];
  for (const [name, value] of before) put(headers, name, value);
  const get = (name: string) => {
    const value = headers.get(name);
    if (!known) before.push([name, value]);
    return value ?? undefined;
  };
  if (marks) markForCaches({ get, set: (name, value) => headers.set(name, value) }, marks);
  if (verdicts === "") return before;
  get(verdictHeaderName);
  headers.append(verdictHeaderName, verdicts);
  return before;
}

function copyOf({ body, status, statusText, headers }: Response): Response {
  return new Response(body, { status, statusText, headers: new Headers(headers) });
}

function put(headers: Headers, name: string, value: string | null): void {
  if (value === null) headers.delete(name);
  else headers.set(name, value);
}
