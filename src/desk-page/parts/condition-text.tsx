import type { ConditionTrace, TestTrace } from "../../insight/index.ts";

/** A condition in its own words; for a person, with a mark under each test that decided, and what it saw. */
export function ConditionText({ text, trace }: { readonly text: string; readonly trace: ConditionTrace | undefined }) {
  const decided = trace?.tests.filter((test) => test.decided) ?? [];
  return (
    <div class="condition">
      <code>{trace ? marked(text, decided) : text}</code>
      {decided.map((test) => (
        <p key={test.start} class={`because ${test.answer}`}>
          <b>{test.answer}</b>: {test.because}
          {test.inner && <ConditionText text={test.inner.text} trace={test.inner} />}
        </p>
      ))}
      {trace?.lacks && trace.lacks.length > 0 && trace.tests.length > 1 && (
        <p class="lacks">
          What it lacks:{" "}
          {trace.lacks.map(({ text: lacking, wanted }) => `${wanted === "true" ? "" : "not "}${lacking}`).join(" and ")}
        </p>
      )}
    </div>
  );
}

function marked(text: string, tests: readonly TestTrace[]) {
  const pieces = [];
  let from = 0;
  for (const { start, end, answer } of tests.toSorted((a, b) => a.start - b.start)) {
    pieces.push(text.slice(from, start));
    pieces.push(
      <mark key={start} class={answer}>
        {text.slice(start, end)}
      </mark>,
    );
    from = end;
  }
  return [...pieces, text.slice(from)];
}
