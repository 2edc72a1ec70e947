import { useCallback, useEffect, useState } from "preact/hooks";
import { ask, type Session } from "./api.ts";
import { Booking } from "./booking.tsx";
import { Drawer } from "./drawer/drawer.tsx";
import { flags, useShown } from "./flags.ts";
import { Harbour } from "./harbour.tsx";
import { SignIn } from "./sign-in.tsx";

export function App() {
  const [session, setSession] = useState<Session>();
  const { values, revision = "" } = useShown();

  const refresh = useCallback(async () => setSession(await ask<Session>("/api/session")), []);
  useEffect(() => void refresh(), [refresh]);
  // Somebody else looks at the page, or looks as somebody else.
  const changed = async () => {
    const session = await ask<Session>("/api/session");
    await flags.as({ who: session.traveller?.id ?? "nobody" });
    setSession(session);
  };

  if (!session) return <p class="waiting">Looking out for the boats …</p>;
  return (
    <>
      <header class="masthead">
        <div class="wordmark">
          <svg viewBox="0 0 32 32" aria-hidden="true">
            <path d="M16 4l6 12H10z" class="buoy" />
            <path d="M8 17h16l-2 6H10z" class="hull" />
            <path d="M3 27c3-2 5-2 8 0s5 2 8 0 5-2 9-1" class="wave" />
          </svg>
          <p>
            <strong>Ternhaven Ferries</strong>
            <span>four harbours, one timetable</span>
          </p>
        </div>
        <SignIn session={session} changed={changed} />
      </header>
      {values["storm-mode"] && (
        <p class="storm" role="status">
          <strong>Storm.</strong> The boats stay in harbour; booking is closed until it has passed.
        </p>
      )}
      <main>
        <h1>Book a crossing</h1>
        <div class="columns">
          <Booking key={session.traveller?.id ?? "nobody"} session={session} flags={values} revision={revision} />
          <Harbour flags={values} revision={revision} />
        </div>
      </main>
      <footer class="foot">
        <p>{values["winter-timetable"] ? "The winter timetable is in force." : "The summer timetable is in force."}</p>
        {session.time && <p>In this example it is {session.time}.</p>}
      </footer>
      {session.developer && <Drawer revision={revision} values={values} changed={changed} />}
    </>
  );
}
