import { lazy, Suspense } from "preact/compat";

interface ConditionFieldProps {
  readonly name: string;
  readonly value: string;
  readonly label: string;
}

/** The editor is fetched when the first condition is written. */
const ConditionEditor = lazy(async () => ({ default: (await import("./condition-editor.tsx")).ConditionEditor }));

/** A field for a condition, with completion and problems as one types. */
export function ConditionField(props: ConditionFieldProps) {
  return (
    <Suspense fallback={<p>…</p>}>
      <ConditionEditor {...props} />
    </Suspense>
  );
}
