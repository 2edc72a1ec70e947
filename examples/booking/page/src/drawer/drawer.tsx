import { useState } from "preact/hooks";
import { ask, type PageFlags } from "../api.ts";
import { useAnswer } from "../harbour.tsx";
import { ClockPanel } from "./clock-panel.tsx";
import type { Developer } from "./developer.ts";
import { FlagPanel } from "./flag-panel.tsx";
import { PersonPanel } from "./person-panel.tsx";

interface DrawerProps {
  readonly revision: string;
  readonly values: PageFlags;
  readonly changed: () => Promise<void>;
}

/** For the developer only: who am I, what time is it, what does every flag give me, why, and what if it gave another. */
export function Drawer({ revision, values, changed }: DrawerProps) {
  const [open, setOpen] = useState(false);
  const [turn, setTurn] = useState(0);
  return (
    <section class={open ? "drawer open" : "drawer"} aria-label="Developer">
      <button type="button" class="handle" aria-expanded={open} onClick={() => setOpen(!open)}>
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
  if (!developer) return <p>Opening …</p>;
  const send = async (path: string, body: object) => {
    await ask(`/api/developer/${path}`, { body });
    await changed();
  };
  return (
    <div class="panels">
      <PersonPanel developer={developer} send={send} />
      <ClockPanel developer={developer} send={send} />
      <FlagPanel developer={developer} send={send} />
      <p class="revision">
        {developer.environment}, revision <code>{developer.revision}</code>
      </p>
    </div>
  );
}
