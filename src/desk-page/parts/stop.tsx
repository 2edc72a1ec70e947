import { useRef, useState } from "preact/hooks";
import type { ChangedAnswer } from "../../desk/index.ts";
import { question } from "../asking/question-now.ts";
import { post } from "../service/ask.ts";
import { unrecorded } from "../service/session.ts";
import { WhereField } from "./fields.tsx";
import { useFocus } from "./use-focus.ts";

/** What came of asking the desk to do something. */
type Doing =
  | { readonly state: "ready" }
  | { readonly state: "doing" }
  | { readonly state: "failed"; readonly reason: string };

const ready: Doing = { state: "ready" };

/** Stops a flag: why, and it is done. */
export function StopFlag({ flag }: { readonly flag: string }) {
  const [isOpen, setOpen] = useState(false);
  const [doing, setDoing] = useState<Doing>(ready);
  const note = useRef<HTMLInputElement>(null);
  const [where, setWhere] = useState<string>(question.value.asked.environment ?? "");
  const { opener, opened } = useFocus<HTMLButtonElement, HTMLFormElement>(isOpen);
  if (!isOpen)
    return (
      <button ref={opener} type="button" class="stopping" onClick={() => setOpen(true)}>
        Stop {flag}
      </button>
    );
  const stop = async (event: Event) => {
    event.preventDefault();
    setDoing({ state: "doing" });
    try {
      const place = where === "" ? {} : { environment: where };
      const done = await post<ChangedAnswer>("suspend", { flag, note: note.current?.value ?? "", ...place });
      unrecorded.value = done.unrecorded;
      setOpen(false);
      setDoing(ready);
      // What has been stopped stands at the head of the page.
      window.scrollTo({ top: 0 });
    } catch (error) {
      setDoing({ state: "failed", reason: (error as Error).message });
    }
  };
  return (
    <form
      ref={opened}
      class="stop-form"
      onSubmit={stop}
      onKeyDown={(event) => event.key === "Escape" && setOpen(false)}
    >
      <label>
        Why? <input ref={note} type="text" name="why" required autocomplete="off" />
      </label>
      <WhereField where={where} all="everywhere" set={setWhere} />
      <button type="submit" class="stopping" disabled={doing.state === "doing"}>
        Stop it now
      </button>
      <button type="button" class="quiet" onClick={() => setOpen(false)}>
        Leave it
      </button>
      {doing.state === "failed" && <p class="fault">It was not stopped: {doing.reason}</p>}
    </form>
  );
}

/** Stops a flag by its name, while nothing of the definitions can be shown. */
export function StopByName() {
  const [name, setName] = useState("");
  return (
    <div class="by-name">
      <label>
        A flag can be stopped all the same:{" "}
        <input
          type="text"
          value={name}
          placeholder="its name"
          autocomplete="off"
          onInput={(event) => setName(event.currentTarget.value)}
        />
      </label>
      {name.trim() !== "" && <StopFlag key={name} flag={name.trim()} />}
    </div>
  );
}

/** Ends a stop: the flag is judged by its rules again. */
export function StartAgain({ flag }: { readonly flag: string }) {
  const [isSure, setSure] = useState(false);
  const [doing, setDoing] = useState<Doing>(ready);
  const start = async (event: MouseEvent) => {
    // The second press of a double click comes before anybody can have read the question.
    if (event.detail > 1) return;
    if (!isSure) return setSure(true);
    setDoing({ state: "doing" });
    try {
      unrecorded.value = (await post<ChangedAnswer>("reinstate", { flag })).unrecorded;
    } catch (error) {
      setDoing({ state: "failed", reason: (error as Error).message });
    }
  };
  return (
    <p class="again">
      <button
        type="button"
        class="quiet"
        disabled={doing.state === "doing"}
        onClick={start}
        onBlur={() => setSure(false)}
      >
        {isSure ? `Yes, judge ${flag} by its rules again` : "Start it again"}
      </button>
      {doing.state === "failed" && <span class="fault">It is still stopped: {doing.reason}</span>}
    </p>
  );
}
