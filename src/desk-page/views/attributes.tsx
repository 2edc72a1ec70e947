import { Graph } from "../../model/index.ts";
import { show } from "../../values/index.ts";
import type { ReadSet } from "../definitions/read-set.ts";
import { UsedBy } from "../parts/used-by.tsx";

/** What conditions can ask of a person, and where they do. */
export function Attributes({ set }: { readonly set: ReadSet }) {
  const definitions = set.definitions!;
  const uses = new Graph(definitions).uses();
  const used = [...uses.keys()]
    .filter((node) => node.startsWith("attribute:"))
    .map((node) => node.slice("attribute:".length));
  const names = [...new Set([...definitions.attributes.keys(), ...used])].sort();
  if (names.length === 0) return <p class="whole">No attribute is declared, and nothing asks for one.</p>;
  return (
    <section aria-label="Attributes">
      <ul class="agenda">
        {names.map((name) => {
          const declared = definitions.attributes.get(name);
          return (
            <li class="row" key={name}>
              <div class="margin">
                <h2 class="name">{name}</h2>
                {declared?.private && <p class="owner">private</p>}
              </div>
              <div class="text">
                <p class="answer">
                  {declared ? kindWords(declared.type) : "It is not declared."}
                  {declared?.missingAs !== undefined && ` ${show(declared.missingAs)} where it is missing.`}
                  {declared?.ignoreCase && " Upper and lower case are alike."}
                </p>
                {declared?.about && <p class="about">{declared.about}</p>}
                <UsedBy node={`attribute:${name}`} uses={uses} />
              </div>
              <div class="coming" />
            </li>
          );
        })}
      </ul>
    </section>
  );
}

function kindWords(type: string | readonly string[]): string {
  if (typeof type !== "string") return `One of ${type.join(", ")}.`;
  return `${type.charAt(0).toUpperCase()}${type.slice(1)}.`;
}
