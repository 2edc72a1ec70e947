import type { NotTaken } from "../definitions/draft.ts";

/** Why a change was not taken, and what to do; nothing where it was. */
export function FaultWords({ fault }: { readonly fault: NotTaken }) {
  if (!fault) return null;
  return (
    <span class="fault" role="alert">
      {fault.message} {fault.help && <i>{fault.help}</i>}
    </span>
  );
}
