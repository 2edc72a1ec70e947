import { useEffect, useId, useRef, useState } from "preact/hooks";
import { useAnswer } from "../harbour.tsx";
import { causeWords, type Developer, type FlagRow, type Send } from "./developer.ts";

/** Every flag: what it gives me, why in a sentence, the whole why on request, and turning it here. */
export function FlagPanel({ developer, send }: { developer: Developer; send: Send }) {
  const reason = JSON.stringify([developer.revision, developer.context, developer.clock.now, developer.flags]);
  return (
    <section class="flags">
      <h3>Flags</h3>
      <ul>
        {developer.flags.map((flag) => (
          <FlagItem key={flag.name} flag={flag} reason={reason} send={send} />
        ))}
      </ul>
    </section>
  );
}

function FlagItem({ flag, reason, send }: { flag: FlagRow; reason: string; send: Send }) {
  const [asked, setAsked] = useState(false);
  const field = useId();
  const given = flag.variant ?? flag.value;
  const isTurned = flag.overriddenBy === "local-file";
  return (
    <li class={isTurned ? "flag turned" : "flag"}>
      <details>
        <summary class="head">
          <strong>{flag.name}</strong>
          <code class="value">{typeof given === "object" ? "data" : String(given)}</code>
          <span class="cause">{causeWords(flag)}</span>
        </summary>
        <p class="sentence">{flag.sentence}</p>
        <p class="turn">
          {flag.choices.length > 0 && (
            <>
              <label for={field}>Turn {flag.name} here</label>
              <select
                id={field}
                value={isTurned ? JSON.stringify(given) : ""}
                onInput={(event) => {
                  const chosen = event.currentTarget.value;
                  void send("overrides", {
                    flag: flag.name,
                    value: chosen === "" ? null : (JSON.parse(chosen) as unknown),
                  });
                }}
              >
                <option value="">as defined</option>
                {flag.choices.map((choice) => (
                  <option key={String(choice)} value={JSON.stringify(choice)}>
                    {String(choice)}
                  </option>
                ))}
              </select>
            </>
          )}
          <button type="button" class="plain" onClick={() => setAsked(true)}>
            why?<span class="sr"> ({flag.name})</span>
          </button>
        </p>
      </details>
      {asked && <Why name={flag.name} reason={reason} close={() => setAsked(false)} />}
    </li>
  );
}

/** The whole way, over the page, since a condition is wider than a drawer. */
function Why({ name, reason, close }: { name: string; reason: string; close: () => void }) {
  const answer = useAnswer<{ text: string }>(`/api/developer/why/${name}`, reason);
  const dialog = useRef<HTMLDialogElement>(null);
  useEffect(() => dialog.current?.showModal(), []);
  return (
    <dialog ref={dialog} class="explanation" aria-label={`Why ${name}?`} onClose={close} onKeyDown={keepEscape}>
      {/* biome-ignore lint/a11y/noNoninteractiveTabindex: wide conditions scroll sideways, and must by keyboard too */}
      <pre class="why" tabIndex={0}>
        {answer?.text ?? "…"}
      </pre>
      <form method="dialog">
        <button type="submit">Close</button>
      </form>
    </dialog>
  );
}

/** The drawer behind stays open. */
function keepEscape(event: KeyboardEvent): void {
  event.stopPropagation();
}
