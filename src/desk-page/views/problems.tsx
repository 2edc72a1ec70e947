import type { ProblemsAnswer } from "../../desk/index.ts";
import { question } from "../asking/question-now.ts";
import { versionBy } from "../definitions/versions.ts";
import { useAnswer } from "../parts/use-answer.ts";

/** What a check finds, live. */
export function Problems() {
  const { by } = question.value.asked;
  const held = versionBy(by).value;
  const version = held.state === "ready" ? held.set.version : "";
  const found = useAnswer<ProblemsAnswer>("problems", { by }, [version]);
  if (found === undefined) return <p class="whole">Checking …</p>;
  if (typeof found === "string") return <p class="whole fault">It could not be checked: {found}</p>;
  if (found.problems.length === 0)
    return (
      <div class="whole">
        <h2>Nothing is wrong.</h2>
        <p>Every file is sound, and every example holds.</p>
      </div>
    );
  return (
    <section aria-label="What is wrong">
      <ul class="agenda">
        {found.problems.map((problem) => (
          <li class="row" key={`${problem.file} ${problem.line} ${problem.code} ${problem.message}`}>
            <div class="margin">
              <h2>{problem.severity}</h2>
              <p class="owner">
                {problem.file}:{problem.line}
              </p>
            </div>
            <div class="text">
              <p class="answer">{problem.message}</p>
              {problem.help && <p class="about">What to do: {problem.help}</p>}
              {!problem.help && problem.expected && <p class="about">Expected: {problem.expected}</p>}
            </div>
            <div class="coming">
              <i>{problem.code}</i>
            </div>
          </li>
        ))}
      </ul>
    </section>
  );
}
