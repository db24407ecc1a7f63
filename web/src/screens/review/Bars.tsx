import type { ReactNode } from "react";
import type { S } from "../../api/client";

/** Nothing stands where no line is left to show. */
export function Nothing({ only, data, onAll }: { only: boolean; data: S["Redlined"]; onAll: () => void }) {
  return (
    <div className="px-4 py-6">
      <p className="text-lead">{only ? "You have read all of it as it stands now." : "There are no steps yet."}</p>
      {only && data.meta.latches.some((l) => l.mayClose) && <p className="mt-1 text-ink-2">What is left stands beside.</p>}
      {only && (
        <button type="button" className="button mt-3" onClick={onAll}>
          Show everything
        </button>
      )}
    </div>
  );
}

/** ReadBar is how much is read: a tick for each step. */
export function ReadBar({ data, unread }: { data: S["Redlined"]; unread: Map<string, S["UnreadStep"]> }) {
  const steps = data.redline.rows.filter((r) => r.now);
  const left = steps.filter((r) => unread.has(r.step)).length;
  const w = Math.max(0.6, Math.min(3, 150 / Math.max(1, steps.length)));
  return (
    <span className="flex items-center gap-2.5" role="status">
      <svg width={steps.length * w} height={9} aria-hidden className="max-md:hidden">
        {steps.map((r, i) => {
          const u = unread.get(r.step);
          return (
            <rect
              key={r.step}
              x={i * w}
              width={Math.max(0.5, w * 0.72)}
              height={9}
              fill={!u ? "var(--color-held)" : u.why === "again" ? "var(--color-paint)" : "var(--color-rule)"}
            />
          );
        })}
      </svg>
      {left === 0 && unread.size === 0
        ? "You have read all of it as it stands now"
        : `You have read ${steps.length - left} of ${steps.length} steps as they stand now`}
    </span>
  );
}

function Key({ k, children }: { k: string[]; children: ReactNode }) {
  return (
    <span className="flex items-center gap-1 max-md:hidden pointer-coarse:hidden">
      {k.map((x) => (
        <span key={x} className="key">
          {x}
        </span>
      ))}
      <span className="text-small text-ink-2">{children}</span>
    </span>
  );
}

/** Bottom keeps the keys in sight, and where there are none what they do. */
export function Bottom({
  on,
  read,
  suggests,
  onWalk,
  onRead,
  onSay,
}: {
  on: boolean;
  read: boolean;
  suggests: boolean;
  onWalk: (by: number) => void;
  onRead: () => void;
  onSay: (kind: "question" | "suggestion") => void;
}) {
  return (
    <div className="review-bar flex flex-none flex-wrap items-center gap-x-5 gap-y-1 border-t border-ink bg-sheet px-4 py-1.5 max-md:sticky max-md:bottom-0 max-md:z-[3]">
      <Key k={["J", "K"]}>next, last by weight</Key>
      <Key k={["R"]}>read</Key>
      <Key k={["C"]}>ask or say</Key>
      <Key k={["S"]}>suggest a line</Key>
      <Key k={["U"]}>only not read</Key>
      <span className="hidden flex-1 flex-wrap gap-2 max-md:flex pointer-coarse:flex">
        <button type="button" className="button" onClick={() => onSay("question")} disabled={!on}>
          Ask or say
        </button>
        <button type="button" className="button max-md:hidden" onClick={() => onSay("suggestion")} disabled={!suggests}>
          Suggest a line
        </button>
        <button type="button" className="button ml-auto" onClick={() => onWalk(-1)} aria-label="Back to the last by weight">
          Back
        </button>
        <button type="button" className="button" onClick={onRead} disabled={!on}>
          {read ? "Unread" : "Read"}
        </button>
        <button type="button" className="button solid" onClick={() => onWalk(1)}>
          Next
        </button>
      </span>
    </div>
  );
}
