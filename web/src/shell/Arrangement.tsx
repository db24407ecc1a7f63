import { useQuery, useQueryClient } from "@tanstack/react-query";
import { api, ask, Failure, type S } from "../api/client";
import { colleagues, whoAmI } from "../api/queries";
import { day, late } from "./days";

/** Arrangement is by when a latch is to close, and who closes it. */
export default function Arrangement({
  meta,
  mark,
  writes,
  onTrouble,
}: {
  meta: S["RevisionMeta"];
  mark: S["LatchMark"];
  writes: boolean;
  onTrouble: (s: string) => void;
}) {
  const { data: me } = useQuery(whoAmI);
  const { data: all } = useQuery({ ...colleagues, enabled: !!me?.works });
  const client = useQueryClient();
  if (!me?.works) return null;
  const fit = all?.filter((c) => c.closes.includes(mark.latch)) ?? [];
  const lead = me.leads;
  const own = mark.taken === me.id;
  // One takes a review for oneself and hands on one's own; a lead deals them out.
  const offered = own || lead ? fit : fit.filter((c) => c.id === me.id || c.id === mark.taken);
  const arrange = async (body: { due?: string; person?: number }) => {
    try {
      await ask(
        api.PUT("/api/revisions/{revision}/reviews/{latch}", {
          params: { path: { revision: meta.id, latch: mark.latch } },
          body,
        }),
      );
      onTrouble("");
      client.invalidateQueries();
    } catch (e) {
      onTrouble(e instanceof Failure ? e.message : "That did not work.");
    }
  };
  return (
    <div className="mt-2.5 grid grid-cols-[70px_1fr] items-center gap-x-2 gap-y-1.5 border-t border-rule pt-2 text-small">
      <label htmlFor={`due ${mark.latch}`} className="text-ink-2">
        Due
      </label>
      {writes ? (
        <input
          id={`due ${mark.latch}`}
          type="date"
          className="field slim"
          defaultValue={mark.due}
          onChange={(e) => e.target.value !== (mark.due ?? "") && arrange({ due: e.target.value })}
        />
      ) : (
        <span className={mark.due && late(mark.due) ? "font-semibold text-clash" : ""}>
          {mark.due ? day(mark.due) : "no day is set"}
        </span>
      )}
      <label htmlFor={`taken ${mark.latch}`} className="text-ink-2">
        Who
      </label>
      {offered.some((c) => c.id === me.id) || lead ? (
        <select
          id={`taken ${mark.latch}`}
          className="field slim"
          value={mark.taken ?? 0}
          onChange={(e) => arrange({ person: Number(e.target.value) })}
        >
          <option value={0} disabled={!!mark.taken && !own && !lead}>
            whoever takes it
          </option>
          {offered.map((c) => (
            <option key={c.id} value={c.id} disabled={!!c.away && c.id !== me.id}>
              {c.id === me.id ? `${c.name} (you)` : c.name}
              {c.away && `, away until ${day(c.away)}`}
            </option>
          ))}
        </select>
      ) : (
        <span id={`taken ${mark.latch}`}>{mark.takenBy ?? "whoever takes it"}</span>
      )}
    </div>
  );
}
