import { useQuery } from "@tanstack/react-query";
import { Link } from "@tanstack/react-router";
import type { S } from "../../api/client";
import { myDesk, whoAmI } from "../../api/queries";
import { Trouble, Waiting } from "../../shell/Trouble";
import { Blockers, Latches, when } from "../../shell/rows";

export function Desk() {
  const { data, error, refetch } = useQuery(myDesk);
  const { data: me } = useQuery(whoAmI);
  if (error) return <Trouble error={error} again={refetch} />;
  if (!data) return <Waiting />;
  const n = data.reviews.length;
  return (
    <main className="scroller mx-auto h-full max-w-[1080px] overflow-auto px-6 py-6">
      <h1 className="text-title">
        {n > 0
          ? `${n} revision${n === 1 ? "" : "s"} wait${n === 1 ? "s" : ""} for your latch`
          : data.drafts.length + data.sheets.length > 0
            ? "Nothing waits for your latch"
            : "Your desk is clear"}
      </h1>
      {n > 0 && <List name="To review" rows={data.reviews} />}
      {data.drafts.length > 0 && <List name={me?.writes ? "Being written" : "On review"} rows={data.drafts} />}
      {data.sheets.length > 0 && <Sheets rows={data.sheets} />}
      {n + data.drafts.length + data.sheets.length === 0 && (
        <p className="mt-2 max-w-[60ch] text-ink-2">
          Revisions sent on review turn up here when it is your latch that is open.{" "}
          <Link to="/procedures" className="text-marking">
            Look through the procedures
          </Link>
          .
        </p>
      )}
    </main>
  );
}

function Sheets({ rows }: { rows: S["EngineRow"][] }) {
  return (
    <section className="mt-5">
      <h2 className="border-b border-ink pb-1 text-body">Engine sheets being drawn up</h2>
      {rows.map((r) => (
        <Link
          key={r.code}
          to="/engines/$code"
          params={{ code: r.code }}
          className="grid min-h-10 grid-cols-[90px_minmax(0,1fr)_110px_150px] items-center gap-3 border-b border-rule px-1 py-1.5 no-underline hover:bg-marking-wash"
        >
          <span className="text-ink-2">{r.code}</span>
          <span className="min-w-0 truncate">
            <span className="font-[650]">Sheet {r.draft}</span>{" "}
            <span className="text-ink-2">
              {r.inUse ? `in place of ${r.inUse}` : "the first of its code"}, {r.procedures} procedure
              {r.procedures === 1 ? "" : "s"}
            </span>
          </span>
          <Blockers blocking={r.blocking} findings={r.findings} />
          <span className="truncate text-right text-ink-2">{when(r.at)}</span>
        </Link>
      ))}
    </section>
  );
}

function List({ name, rows }: { name: string; rows: S["ProcedureRow"][] }) {
  return (
    <section className="mt-5">
      <h2 className="border-b border-ink pb-1 text-body">{name}</h2>
      {rows.map((r) => (
        <Link
          key={r.revision}
          to="/revisions/$revision"
          params={{ revision: String(r.revision) }}
          className="grid min-h-10 grid-cols-[90px_minmax(0,1fr)_110px_auto_150px] items-center gap-3 border-b border-rule px-1 py-1.5 no-underline hover:bg-marking-wash"
        >
          <span className="text-ink-2">{r.engine}</span>
          <span className="min-w-0">
            <span className="font-[650]">{r.title}</span>{" "}
            <span className="text-ink-2">
              {r.number} {r.state}, {r.steps} steps
            </span>
          </span>
          <Blockers blocking={r.blocking} findings={r.findings} />
          <Latches marks={r.latches} />
          <span className="truncate text-right text-ink-2">
            {r.changedBy}, {when(r.changedAt)}
          </span>
        </Link>
      ))}
    </section>
  );
}
