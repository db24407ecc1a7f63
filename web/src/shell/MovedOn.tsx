import type { Failure } from "../api/client";

/** Moved is what a person could not sign because the page has moved on since they looked. */
export interface Moved {
  version: number;
  changes: string[];
}

/** movedOn reads a refusal to sign an older version, with what has changed; undefined for any other trouble. */
export function movedOn(f: Failure): Moved | undefined {
  const b = f.body as { version?: number; changes?: string[] } | undefined;
  return f.status === 409 && b?.version ? { version: b.version, changes: b.changes ?? [] } : undefined;
}

/** MovedOn lists what has changed since the person looked. */
export function MovedOn({ moved, what }: { moved: Moved; what: string }) {
  return (
    <div role="alert" className="mt-2 border-l-[3px] border-paint bg-paint-wash px-2 py-1.5 text-small">
      <p className="font-[650]">{what} has changed since you looked. Nothing was signed.</p>
      {moved.changes.length > 0 ? (
        <ul className="mt-1 max-h-[160px] overflow-auto">
          {moved.changes.map((c) => (
            <li key={c} className="border-t border-rule py-0.5 first:border-0">
              {c}
            </li>
          ))}
        </ul>
      ) : (
        <p>What was done and undone again leaves it as it was, under a new version.</p>
      )}
    </div>
  );
}
