import type { S } from "../api/client";

export function Latches({ marks }: { marks: S["LatchMark"][] }) {
  return (
    <span className="flex gap-1">
      {marks.map((m) => (
        <span
          key={m.latch}
          title={m.closed ? `${m.latch} latch closed by ${m.by}` : `${m.latch} latch open`}
          className={`inline-flex h-[18px] items-center rounded-[2px] border px-1.5 text-fine ${m.closed ? "border-marking bg-marking text-(--white)" : "border-rule text-ink-2"}`}
        >
          {m.closed && <span className="mr-1">✓</span>}
          {m.latch}
        </span>
      ))}
    </span>
  );
}

export function Blockers({ blocking, findings }: { blocking: number; findings: number }) {
  if (blocking > 0)
    return (
      <span className="font-[650] text-clash">
        ✕ {blocking} block{blocking === 1 ? "s" : ""}
      </span>
    );
  if (findings > 0) return <span>△ {findings} to look at</span>;
  return <span className="text-held">✓ clean</span>;
}

const day = new Intl.DateTimeFormat("en-GB", { day: "numeric", month: "short" });
const clock = new Intl.DateTimeFormat("en-GB", { hour: "2-digit", minute: "2-digit" });

/** when says a moment as people do: today by the clock, otherwise the day. */
export function when(iso: string) {
  const d = new Date(iso);
  return d.toDateString() === new Date().toDateString() ? clock.format(d) : day.format(d);
}

export const hour = (iso: string) => clock.format(new Date(iso));
