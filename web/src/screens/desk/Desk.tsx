import { useQuery } from "@tanstack/react-query";
import { Link } from "@tanstack/react-router";
import type { ReactNode } from "react";
import type { S } from "../../api/client";
import { myDesk, whoAmI } from "../../api/queries";
import { Blockers, Latches, when } from "../../shell/rows";
import { Trouble, Waiting } from "../../shell/Trouble";
import { useTitle } from "../../shell/useTitle";

/** Desk is what waits for the person who looks, and nothing else. */
export function Desk() {
  const { data, error, refetch } = useQuery(myDesk);
  const { data: me } = useQuery(whoAmI);
  useTitle("My desk");
  if (error) return <Trouble error={error} again={refetch} />;
  if (!data) return <Waiting />;
  const n = data.reviews.length;
  return (
    <main id="main" className="scroller h-full overflow-auto">
      <div className="mx-auto max-w-[1120px] px-6 py-6 max-md:px-3">
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
      </div>
    </main>
  );
}

/** Group is one list on the desk; its columns stand where those of the others do. */
function Group({ name, head, children }: { name: string; head: string[]; children: ReactNode }) {
  return (
    <section className="mt-6">
      <h2 className="mb-1 text-body">{name}</h2>
      <div className="scroll-wide">
        <table className="list-table min-w-[860px] table-fixed" aria-label={name}>
          <colgroup>
            <col className="w-[96px]" />
            <col />
            <col className="w-[160px]" />
            <col className="w-[116px]" />
            <col className="w-[236px]" />
            <col className="w-[166px]" />
          </colgroup>
          <thead>
            <tr>
              {head.map((h, i) => (
                <th key={h} scope="col" className={i === head.length - 1 ? "num" : undefined}>
                  {h}
                </th>
              ))}
            </tr>
          </thead>
          <tbody>{children}</tbody>
        </table>
      </div>
    </section>
  );
}

function Sheets({ rows }: { rows: S["EngineRow"][] }) {
  return (
    <Group name="Engine sheets being drawn up" head={["Code", "Engine", "Sheet", "Findings", "Procedures", "Last changed"]}>
      {rows.map((r) => (
        <tr key={r.code}>
          <td className="text-ink-2">{r.code}</td>
          <th scope="row">
            <Link to="/engines/$code" params={{ code: r.code }} className="row-link">
              {r.maker}, {r.cylinders} cylinder{r.cylinders === 1 ? "" : "s"}
              {r.use && `, ${r.use}`}
            </Link>
          </th>
          <td>
            {r.draft} <span className="text-ink-2">{r.inUse ? `draft, in place of ${r.inUse}` : "draft, the first"}</span>
          </td>
          <td>
            <Blockers blocking={r.blocking} findings={r.findings} />
          </td>
          <td className="text-ink-2">
            {r.procedures} procedure{r.procedures === 1 ? "" : "s"}
          </td>
          <td className="num text-ink-2">{when(r.at)}</td>
        </tr>
      ))}
    </Group>
  );
}

function List({ name, rows }: { name: string; rows: S["ProcedureRow"][] }) {
  return (
    <Group name={name} head={["Code", "Procedure", "Revision", "Findings", "Latches", "Last changed"]}>
      {rows.map((r) => (
        <tr key={r.revision}>
          <td className="text-ink-2">{r.engine}</td>
          <th scope="row">
            <Link to="/revisions/$revision" params={{ revision: String(r.revision) }} className="row-link">
              {r.title}
            </Link>
          </th>
          <td>
            {r.number}{" "}
            <span className="text-ink-2">
              {r.state}, {r.steps} step{r.steps === 1 ? "" : "s"}
            </span>
          </td>
          <td>
            <Blockers blocking={r.blocking} findings={r.findings} />
          </td>
          <td>
            <Latches marks={r.latches} />
          </td>
          <td className="num truncate text-ink-2">
            {r.changedBy}, {when(r.changedAt)}
          </td>
        </tr>
      ))}
    </Group>
  );
}
