import type { NodeKey, Use } from "../../model/index.ts";
import { FlagLink } from "./flag-link.tsx";

interface UsedByProps {
  readonly node: NodeKey;
  readonly uses: ReadonlyMap<NodeKey, readonly Use[]>;
}

/** What looks at a cohort, a window or an attribute. */
export function UsedBy({ node, uses }: UsedByProps) {
  const users = uses.get(node) ?? [];
  if (users.length === 0) return <p class="about">Nothing looks at it.</p>;
  return (
    <p class="about">
      Looked at by{" "}
      {users.map(({ user, name, where, environment }, i) => (
        <span key={`${user} ${name} ${where} ${environment}`}>
          {i > 0 && "; "}
          {user === "flag" ? <FlagLink name={name} /> : `the cohort ${name}`} ({where}
          {environment && ` in ${environment}`})
        </span>
      ))}
      .
    </p>
  );
}
