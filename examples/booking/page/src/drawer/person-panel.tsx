import { useId, useState } from "preact/hooks";
import type { Developer, Send } from "./developer.ts";
import { useWritten } from "./use-written.ts";

/** Who am I? One of the made-up people, or attributes of my own. */
export function PersonPanel({ developer, send }: { developer: Developer; send: Send }) {
  const { context, tried, travellers } = developer;
  const [fault, setFault] = useState<string>();
  const person = useId();
  const attributes = useId();
  const shown = JSON.stringify(context, undefined, 1);
  const { text, write, until } = useWritten(shown);
  const { account } = context as { account?: { id?: string } };
  const me = tried ? "tried" : (account?.id ?? "");

  async function apply() {
    try {
      const edited: unknown = JSON.parse(text);
      if (typeof edited !== "object" || edited === null || Array.isArray(edited)) throw new Error("not an object");
      setFault(undefined);
      await until(send("me", { attributes: edited }));
    } catch {
      setFault("Write one JSON object of attributes.");
    }
  }

  async function become(id: string) {
    await send("me", { id });
    write(undefined);
  }

  return (
    <section>
      <h3>Who am I?</h3>
      <p>
        <label for={person}>Person</label>
        <select id={person} value={me} onInput={(event) => become(event.currentTarget.value)}>
          {tried && <option value="tried">(edited attributes)</option>}
          <option value="">nobody</option>
          {travellers.map(({ id, name, plan }) => (
            <option key={id} value={id}>
              {name}, {id}, {plan}
            </option>
          ))}
        </select>
      </p>
      <p>
        <label for={attributes}>Attributes</label>
        <textarea
          id={attributes}
          rows={7}
          spellcheck={false}
          value={text}
          onInput={(event) => write(event.currentTarget.value)}
        />
      </p>
      <p>
        <button type="button" onClick={apply} disabled={text === shown}>
          Be this one
        </button>
      </p>
      {fault && <p role="alert">{fault}</p>}
    </section>
  );
}
