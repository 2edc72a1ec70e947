import { endWords } from "../../calendar/index.ts";
import { Graph, type WindowDefinition } from "../../model/index.ts";
import { instantOf } from "../asking/clock.ts";
import { question } from "../asking/question-now.ts";
import type { ReadSet } from "../definitions/read-set.ts";
import { distance, showMoment, zoneOf } from "../parts/times.ts";
import { UsedBy } from "../parts/used-by.tsx";
import { WindowDrawing } from "../parts/window-drawing.tsx";

/** Spans of time: when each is open, whether it is at the instant in question, and where it is used. */
export function Windows({ set, name }: { readonly set: ReadSet; readonly name: string | undefined }) {
  const definitions = set.definitions!;
  const all = [...definitions.windows.values()].sort((a, b) => (a.name < b.name ? -1 : 1));
  const shown = name === undefined ? all : all.filter((each) => each.name === name);
  if (shown.length === 0)
    return <p class="whole">{name === undefined ? "No window is defined." : `There is no window “${name}”.`}</p>;
  const uses = new Graph(definitions).uses();
  const at = instantOf(question.value.asked);
  return (
    <section aria-label="Windows">
      <ul class="agenda">
        {shown.map((definition) => {
          const { window } = definition;
          const zone = window.parts.zone ?? zoneOf(definitions);
          const next = window.nextChange(at);
          return (
            <li class="row" key={definition.name}>
              <div class="margin">
                <h2 class="name">{definition.name}</h2>
                <p class="owner">{window.isOpen(at) ? "open" : "shut"}</p>
              </div>
              <div class="text">
                <p class="answer">{meaning(definition, zone)}</p>
                {definition.about && <p class="about">{definition.about}</p>}
                <WindowDrawing window={window} at={at} zone={zone} isWeekly={definition.hours !== undefined} />
                <UsedBy node={`window:${definition.name}`} uses={uses} />
              </div>
              <div class="coming">
                {next !== undefined && (
                  <p>
                    <b>{distance(next - at)}</b> {window.isOpen(at) ? "it shuts" : "it opens"}{" "}
                    <i>{showMoment(next, zone)}</i>
                  </p>
                )}
              </div>
            </li>
          );
        })}
      </ul>
    </section>
  );
}

function meaning({ hours, window: { parts } }: WindowDefinition, zone: string): string {
  const { from, until, except } = parts;
  const said = [
    from === undefined ? undefined : `from ${showMoment(from, zone)}`,
    until === undefined ? undefined : endWords(until, zone),
    hours === undefined ? undefined : `${hours} (${zone})`,
    except.length === 0 ? undefined : `not on ${except.join(", ")}`,
  ].filter((part) => part !== undefined);
  const text = said.join(", ");
  return `${text.charAt(0).toUpperCase()}${text.slice(1)}.`;
}
