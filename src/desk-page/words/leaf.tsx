import type { ComponentChildren } from "preact";
import { useEffect, useLayoutEffect, useRef, useState } from "preact/hooks";
import type { Change } from "../../desk/index.ts";
import { addChange, type NotTaken, unkept } from "../definitions/draft.ts";
import { FaultWords } from "../parts/fault-words.tsx";
import { focusFirst } from "../parts/use-focus.ts";
import { focusWord, hand, idOf, said } from "./hand.ts";

/** What a leaf would write; a fault where it cannot be read. */
export type Written = readonly Change[] | { readonly message: string; readonly help?: string };

export interface LeafProps {
  readonly place: string;
  readonly title: string;
  /** What the act says. */
  readonly keep?: string;
  /** What is to be written; nothing where all is as it was. */
  change(form: FormData): Written;
  /** Hears of what the desk has taken. */
  kept?(changes: readonly Change[]): void;
  /** Sees what stands in the fields whenever that is another. */
  written?(form: FormData): void;
  readonly children: ComponentChildren;
  /** Beside the fields. */
  readonly aside?: ComponentChildren;
  /** Other acts: what to write at once. */
  readonly acts?: readonly LeafAct[];
}

/** Something else that can be done with a word. */
export interface LeafAct {
  readonly says: string;
  /** What it writes; undefined where it only shows the leaf otherwise. */
  does(form: FormData): Written | undefined;
}

/**
 * What opens under a word. Enter keeps, and so does leaving it once something in it is another; Escape leaves the word as it was. What cannot be read or
 * written is not kept: the leaf stays, and says why.
 */
export function Leaf({ place, title, keep = "Keep it", change, kept, written, children, aside, acts = [] }: LeafProps) {
  const form = useRef<HTMLFormElement>(null);
  const [fault, setFault] = useState<NotTaken>(undefined);
  const [isKeeping, setKeeping] = useState(false);
  const busy = useRef(false);
  const isTouched = useRef(false);
  const close = () => {
    // Who has pressed elsewhere is there already.
    const isHere = form.current?.contains(document.activeElement) === true;
    if (hand.peek() === place) hand.value = undefined;
    if (isHere) document.getElementById(idOf(place))?.focus();
    focusWord(place);
  };
  const write = async (wanted: Written) => {
    if (busy.current) return;
    const isFault = !Array.isArray(wanted);
    busy.current = !isFault;
    setKeeping(!isFault);
    const found = isFault
      ? { help: undefined, ...(wanted as { message: string }) }
      : await addAll(wanted as readonly Change[]);
    busy.current = false;
    setKeeping(false);
    setFault(found);
    if (found && form.current) return focusFirst(form.current);
    // It was left meanwhile, and must not be lost without a word.
    if (found) unkept.value = `${title}: ${found.message}`;
    else if ((wanted as readonly Change[]).length > 0) {
      said.value = `${title}: in my draft.`;
      kept?.(wanted as readonly Change[]);
    }
    close();
  };
  const keeping = useRef<() => void>(() => {});
  keeping.current = () => form.current && void write(change(new FormData(form.current)));
  useLayoutEffect(() => {
    focusFirst(form.current);
    requestAnimationFrame(() => stayInView(form.current?.parentElement, document.getElementById(idOf(place))));
  }, []);
  useEffect(() => {
    const onPress = (event: PointerEvent) => {
      if (form.current?.parentElement?.contains(event.target as Node)) return;
      if (isTouched.current) keeping.current();
      else close();
    };
    document.addEventListener("pointerdown", onPress, true);
    return () => document.removeEventListener("pointerdown", onPress, true);
  }, []);
  return (
    <div
      class="leaf"
      role="dialog"
      aria-label={title}
      onKeyDown={(event) => {
        event.stopPropagation();
        if (event.key === "Escape") close();
        else if (event.key === "Enter" && event.ctrlKey) keeping.current();
        else if (event.key === "Tab") stayInside(event);
      }}
    >
      <form
        ref={form}
        class="leaf-fields"
        noValidate
        onSubmit={(event) => {
          event.preventDefault();
          keeping.current();
        }}
        onInput={(event) => {
          isTouched.current = true;
          written?.(new FormData(event.currentTarget));
        }}
        // What is chosen from a list of completions is no input of the field.
        onFocusOut={(event) => isTouched.current && written?.(new FormData(event.currentTarget))}
      >
        <p class="leaf-title">{title}</p>
        {children}
        <p class="buttons">
          <button type="submit" class="act" disabled={isKeeping}>
            {isKeeping ? "Keeping …" : keep}
          </button>
          <button type="button" class="quiet" onClick={close}>
            Leave it
          </button>
          {acts.map(({ says, does }) => (
            <button
              key={says}
              type="button"
              class="quiet"
              onClick={() => {
                const wanted = does(new FormData(form.current!));
                if (wanted) void write(wanted);
              }}
            >
              {says}
            </button>
          ))}
        </p>
        <FaultWords fault={fault} />
      </form>
      {aside && <div class="leaf-aside">{aside}</div>}
    </div>
  );
}

/** One after the other; the first that is not taken ends it. */
async function addAll(changes: readonly Change[]): Promise<NotTaken> {
  for (const change of changes) {
    const fault = await addChange(change);
    if (fault) return fault;
  }
  return undefined;
}

/** In pixels: what is left above a word that a sheet would cover, and below a leaf for the draft. */
const [above, below] = [80, 64];

/** What opens below the last line is brought into view; where it is a sheet over the page, its word stands above it. */
function stayInView(leaf: HTMLElement | null | undefined, word: HTMLElement | null): void {
  if (!leaf || !word) return;
  const isSheet = getComputedStyle(leaf).position === "fixed";
  const top = word.getBoundingClientRect().top - above;
  const bottom = leaf.getBoundingClientRect().bottom + below - window.innerHeight;
  // The word itself stays in view.
  if (isSheet) window.scrollBy({ top });
  else if (bottom > 0) window.scrollBy({ top: Math.min(bottom, Math.max(0, top)) });
}

/** The Tab key goes round in a leaf. */
function stayInside(event: KeyboardEvent & { readonly currentTarget: HTMLElement }): void {
  const all = [...event.currentTarget.querySelectorAll<HTMLElement>("input, select, textarea, button:not(:disabled)")];
  const [first, last] = [all[0], all.at(-1)];
  const goal =
    event.shiftKey && document.activeElement === first
      ? last
      : !event.shiftKey && document.activeElement === last
        ? first
        : undefined;
  if (!goal) return;
  event.preventDefault();
  goal.focus();
}
