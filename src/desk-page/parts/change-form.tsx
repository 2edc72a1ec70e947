import type { ComponentChildren } from "preact";
import { useState } from "preact/hooks";
import type { Change } from "../../desk/index.ts";
import { addChange, type NotTaken } from "../definitions/draft.ts";
import { FaultWords } from "./fault-words.tsx";
import { useFocus } from "./use-focus.ts";

interface ChangeFormProps {
  /** What the button that takes it into the draft says. */
  readonly act?: string;
  /** What is asked for; undefined while something is missing, which the fields say. */
  change(form: FormData): readonly Change[] | undefined;
  done(): void;
  /** Sees what is in the form whenever something is written or chosen in it. */
  written?(form: FormData): void;
  readonly children: ComponentChildren;
}

/** A form whose changes go into the draft; why one does not is said below it. */
export function ChangeForm({ act = "Into my draft", change, done, written, children }: ChangeFormProps) {
  const [fault, setFault] = useState<NotTaken>(undefined);
  const [isDoing, setDoing] = useState(false);
  const submit = async (event: SubmitEvent) => {
    event.preventDefault();
    const changes = change(new FormData(event.currentTarget as HTMLFormElement)) ?? [];
    if (changes.length === 0) return done();
    setDoing(true);
    for (const each of changes) {
      const taken = await addChange(each);
      setFault(taken);
      if (taken) return setDoing(false);
    }
    setDoing(false);
    done();
  };
  return (
    <form
      class="change-form"
      onSubmit={submit}
      onInput={(event) => written?.(new FormData(event.currentTarget))}
      onFocusOut={(event) => written?.(new FormData(event.currentTarget))}
      onKeyDown={(event) => event.key === "Escape" && done()}
    >
      {children}
      <p class="buttons">
        <button type="submit" class="act" disabled={isDoing}>
          {act}
        </button>
        <button type="button" class="quiet" onClick={done}>
          Leave it
        </button>
      </p>
      <FaultWords fault={fault} />
    </form>
  );
}

interface OpeningProps {
  readonly label: string;
  /** What a screen reader says in its place, where the label alone is not enough. */
  readonly long?: string;
  children(close: () => void): ComponentChildren;
}

/** A button that opens what it is about in its place. */
export function Opening({ label, long, children }: OpeningProps) {
  const [isOpen, setOpen] = useState(false);
  const { opener, opened } = useFocus<HTMLButtonElement, HTMLDivElement>(isOpen);
  if (isOpen)
    return (
      <div ref={opened} tabIndex={-1} class="opened">
        {children(() => setOpen(false))}
      </div>
    );
  return (
    <button ref={opener} type="button" class="quiet" aria-label={long ?? label} onClick={() => setOpen(true)}>
      {label}
    </button>
  );
}

/** A field's text; undefined where it is empty. */
export function textIn(form: FormData, name: string): string | undefined {
  const value = form.get(name);
  return typeof value === "string" && value.trim() !== "" ? value.trim() : undefined;
}

type Texts = Readonly<Record<string, string | undefined>>;

/** What is said in these fields; those that are empty are left out. */
export function textsIn(form: FormData, names: readonly string[]): Record<string, string> {
  return given(Object.fromEntries(names.map((name) => [name, textIn(form, name)])), {});
}

/** What is written otherwise than it was; what is not written stays. */
export function given(written: Texts, before: Texts): Record<string, string> {
  return Object.fromEntries(
    Object.entries(written).flatMap(([key, value]) =>
      value === undefined || value === before[key] ? [] : [[key, value]],
    ),
  );
}
