import type { S } from "../api/client";

/** Latches are the four approvals of a revision: a square for each, filled once it is closed, and the names of those that are open. */
export function Latches({ marks }: { marks: S["LatchMark"][] }) {
  const open = marks.filter((m) => !m.closed);
  return (
    <span className="flex items-center gap-2 text-ink-2">
      <span className="flex flex-none gap-[3px]" aria-hidden>
        {marks.map((m) => (
          <span
            key={m.latch}
            title={m.closed ? `${m.latch} latch closed by ${m.by}` : `${m.latch} latch open`}
            className={`size-[9px] border border-edge ${m.closed ? "bg-ink-2" : "bg-(--white)"}`}
          />
        ))}
      </span>
      <span
        className={open.length ? "truncate text-ink" : "truncate"}
        title={open.length ? `Open: ${open.map((m) => m.latch).join(", ")}` : undefined}
      >
        {open.length > 0 && open.length < marks.length && <span className="sr-only">open: </span>}
        {open.length === 0
          ? "all closed"
          : open.length === marks.length
            ? "all open"
            : open.length > 2
              ? `${open.length} open`
              : `${open.map((m) => m.latch).join(", ")} open`}
      </span>
    </span>
  );
}

/** Blockers says how much stands between a page or a sheet and its release. */
export function Blockers({
  blocking,
  findings,
  free = 0,
  missed = 0,
}: {
  blocking: number;
  findings: number;
  free?: number;
  /** mistakes of the drill that get through and that the page needs to catch, where no column of its own says so */
  missed?: number;
}) {
  if (blocking > 0) return <span className="font-[650] text-clash">✕ {blocks(blocking)}</span>;
  if (findings > 0)
    return (
      <span>
        △ {findings} finding{findings === 1 ? "" : "s"}
      </span>
    );
  return (
    <span className="text-held">
      ✓ clean
      {free > 0 && (
        <span className="text-ink-2" title="Steps with words the virtual engine knows nothing of">
          , {free} free text
        </span>
      )}
      {missed > 0 && (
        <span className="text-clash" title="Mistakes of the drill that the page needs to catch">
          , {missed} get{missed === 1 ? "s" : ""} through
        </span>
      )}
    </span>
  );
}

/** ofWhichBlock counts what blocks behind a count of findings: “8 findings, 7 block release”. */
export const ofWhichBlock = (n: number) => `${n === 1 ? "one blocks" : `${n} block`} release`;

/** blocks counts what blocks: “1 finding blocks”, “7 findings block”. */
export const blocks = (n: number) => `${n} ${n === 1 ? "finding blocks" : "findings block"}`;

const day = new Intl.DateTimeFormat("en-GB", { day: "numeric", month: "short" });
const clock = new Intl.DateTimeFormat("en-GB", { hour: "2-digit", minute: "2-digit" });

/** when says a moment as people do: today by the clock, otherwise the day. */
export function when(iso: string) {
  const d = new Date(iso);
  return d.toDateString() === new Date().toDateString() ? clock.format(d) : day.format(d);
}

export const hour = (iso: string) => clock.format(new Date(iso));
