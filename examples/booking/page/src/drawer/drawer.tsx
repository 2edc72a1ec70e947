import { useRef, useState } from "preact/hooks";
import { ask, Refused } from "../api.ts";
import type { PageValues } from "../flags.ts";
import { useAnswer } from "../harbour.tsx";
import { ClockPanel } from "./clock-panel.tsx";
import type { Developer } from "./developer.ts";
import { FlagPanel } from "./flag-panel.tsx";
import { PersonPanel } from "./person-panel.tsx";

interface DrawerProps {
  readonly revision: string;
  readonly values: PageValues;
  readonly changed: () => Promise<void>;
}

/** For the developer only: who am I, what time is it, what does every flag give me, why, and what if it gave another. */
export function Drawer({ revision, values, changed }: DrawerProps) {
  const [open, setOpen] = useState(false);
  const [turn, setTurn] = useState(0);
  const handle = useRef<HTMLButtonElement>(null);
  const close = (event: KeyboardEvent) => {
    if (event.key !== "Escape") return;
    setOpen(false);
    handle.current?.focus();
  };
  return (
    <section class={open ? "drawer open" : "drawer"} aria-label="Developer" onKeyDown={close}>
      <button ref={handle} type="button" class="handle" aria-expanded={open} onClick={() => setOpen(!open)}>
        {open ? "Close the drawer" : "Developer drawer"}
      </button>
      {open && (
        <Panels
          reason={`${revision} ${JSON.stringify(values)} ${turn}`}
          changed={async () => {
            await changed();
            setTurn((before) => before + 1);
          }}
        />
      )}
    </section>
  );
}

function Panels({ reason, changed }: { reason: string; changed: () => Promise<void> }) {
  const developer = useAnswer<Developer>("/api/developer", reason);
  const [fault, setFault] = useState<string>();
  if (!developer) return <p>Opening …</p>;
  const send = async (path: string, body: object) => {
    try {
      await ask(`/api/developer/${path}`, { body });
      setFault(undefined);
    } catch (error) {
      setFault(error instanceof Refused ? error.message : "That did not work.");
    }
    await changed();
  };
  return (
    <div class="panels">
      {developer.refused && (
        <p role="alert" class="refused">
          <strong>A change was refused.</strong> {developer.refused}
        </p>
      )}
      <FlagPanel developer={developer} send={send} />
      <PersonPanel developer={developer} send={send} />
      <ClockPanel developer={developer} send={send} />
      {fault && <p role="alert">{fault}</p>}
      <p class="revision">
        {developer.environment}, revision <code>{developer.revision}</code>
      </p>
    </div>
  );
}
