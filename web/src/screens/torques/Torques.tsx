import { useQuery, useQueryClient } from "@tanstack/react-query";
import { Link, useParams, useSearch } from "@tanstack/react-router";
import { useMemo, useState } from "react";
import { api, ask, type S } from "../../api/client";
import { useActions } from "../../shell/actions";
import { useAddress } from "../../shell/address";
import { SortButton } from "../../shell/SortButton";
import { Trouble, Waiting } from "../../shell/Trouble";
import { useTitle } from "../../shell/useTitle";
import { TakeTable } from "./TakeTable";

type Table = S["TorqueTable"];
type Row = S["TorqueRow"];

/** CodeTorques is the torque table of an engine code. */
export function CodeTorques() {
  const { code } = useParams({ from: "/inside/engines/$code/torques" });
  const { sheet } = useSearch({ from: "/inside/engines/$code/torques" });
  const client = useQueryClient();
  const { data, error, refetch } = useQuery({
    queryKey: ["torques", code, sheet ?? 0],
    queryFn: () =>
      ask(api.GET("/api/engines/{code}/torques", { params: { path: { code }, query: sheet ? { number: sheet } : {} } })),
  });
  if (error) return <Trouble error={error} again={refetch} />;
  if (!data) return <Waiting />;
  const file = (format: string) =>
    `/api/engines/${encodeURIComponent(code)}/torques/file?format=${format}${sheet ? `&number=${sheet}` : ""}`;
  return (
    <Torques
      table={data}
      file={file}
      back={
        <Link to="/engines/$code" params={{ code }} search={{ ...(sheet ? { sheet } : {}), tab: "fasteners" }} className="link">
          The engine sheet
        </Link>
      }
      empty="The sheet has no fasteners yet. Add them on its fasteners’ tab, each with a thread and what it is tightened to."
      take={
        data.editable && (
          <TakeTable
            code={code}
            onTaken={() => {
              client.invalidateQueries({ queryKey: ["torques", code] });
            }}
          />
        )
      }
    />
  );
}

/** PageTorques is the torque table of a procedure. */
export function PageTorques() {
  const { revision } = useParams({ from: "/inside/revisions/$revision/torques" });
  const { data, error, refetch } = useQuery({
    queryKey: ["page torques", revision],
    queryFn: () => ask(api.GET("/api/revisions/{revision}/torques", { params: { path: { revision: Number(revision) } } })),
  });
  if (error) return <Trouble error={error} again={refetch} />;
  if (!data) return <Waiting />;
  return (
    <Torques
      table={data}
      file={(format) => `/api/revisions/${revision}/torques/file?format=${format}`}
      back={
        <Link to="/revisions/$revision/sheet" params={{ revision }} className="link">
          The job sheet
        </Link>
      }
      empty="No step of this page tightens anything to a value."
    />
  );
}

/** figureOf is the first figure of a text, by which values are sorted. */
const figureOf = (s: string) => {
  const m = s.replace(/[\u00a0\u202f]/g, "").match(/\d+([.,]\d+)?/);
  return m ? Number(m[0].replace(",", ".")) : Number.NaN;
};

/** by sorts texts as figures where both are, and as words where not; what is empty comes last. */
function by(a: string, b: string) {
  if (!a || !b) return a ? -1 : b ? 1 : 0;
  const x = figureOf(a);
  const y = figureOf(b);
  if (!Number.isNaN(x) && !Number.isNaN(y) && x !== y) return x - y;
  return a.localeCompare(b, "en", { numeric: true });
}

function Torques({
  table,
  file,
  back,
  empty,
  take,
}: {
  table: Table;
  file: (format: string) => string;
  back: React.ReactNode;
  empty: string;
  take?: React.ReactNode;
}) {
  const [sort, setSort] = useAddress<string>("sort", "");
  const [down, setDown] = useAddress<boolean>("down", false);
  const [group, setGroup] = useAddress<string>("group", "");
  const [find, setFind] = useState("");
  useTitle(`Torques of ${table.title}`);
  useActions(
    useMemo(
      () => [
        { name: "Torque table as XLSX", run: () => window.location.assign(file("xlsx")) },
        { name: "Torque table as CSV", run: () => window.location.assign(file("csv")) },
      ],
      [file],
    ),
  );
  const at = table.columns.findIndex((c) => c.key === sort);
  // What no row says anything of is left out of the picture; the files have it, to be filled in.
  const shown = table.columns
    .map((c, i) => ({ ...c, i }))
    .filter((c) => c.i === 0 || (!besides.has(c.key) && table.rows.some((r) => r.cells[c.i])));
  const also = table.columns.findIndex((c) => c.key === "also");
  const grouped = table.columns.findIndex((c) => c.key === group);
  const said = find.trim().toLowerCase();
  const rows = useMemo(() => {
    const out = table.rows.filter((r) => !said || r.cells.some((c) => c.toLowerCase().includes(said)));
    if (at >= 0) out.sort((a, b) => (down ? -1 : 1) * by(a.cells[at], b.cells[at]));
    return out;
  }, [table, at, down, said]);
  const groups = useMemo(() => {
    if (grouped < 0) return [{ name: "", rows }];
    const out = new Map<string, Row[]>();
    for (const r of rows) out.set(r.cells[grouped], [...(out.get(r.cells[grouped]) ?? []), r]);
    return [...out].sort(([a], [b]) => by(a, b)).map(([name, of]) => ({ name, rows: of }));
  }, [rows, grouped]);
  return (
    <main id="main" className="scroller h-full overflow-auto">
      <div className="px-6 py-5 max-md:px-3">
        <p className="no-print text-small">{back}</p>
        <div className="mt-1 flex flex-wrap items-end gap-x-3 gap-y-2">
          <h1 className="mr-auto text-title">
            Torque table <span className="text-head font-normal text-ink-2">{table.title}</span>
          </h1>
          <label className="no-print w-[180px]">
            <span className="label">Find in it</span>
            <input type="search" className="field" value={find} maxLength={80} onChange={(e) => setFind(e.target.value)} />
          </label>
          <label className="no-print">
            <span className="label">In groups by</span>
            <select className="field" value={group} onChange={(e) => setGroup(e.target.value)}>
              <option value="">nothing</option>
              {shown
                .filter((c) => ["thread", "class", "lubricant", "wrench", "holdWith", "spec", "reuse"].includes(c.key))
                .map((c) => (
                  <option key={c.key} value={c.key}>
                    {c.name.toLowerCase()}
                  </option>
                ))}
            </select>
          </label>
          <span className="no-print flex flex-wrap gap-2">
            <a className="button no-underline" href={file("xlsx")}>
              XLSX
            </a>
            <a className="button no-underline" href={file("csv")}>
              CSV
            </a>
            {take}
            <button type="button" className="button" onClick={() => window.print()}>
              Print
            </button>
          </span>
        </div>
        {table.rows.length === 0 ? (
          <p className="mt-6 max-w-[60ch] text-ink-2">{empty}</p>
        ) : rows.length === 0 ? (
          <p className="mt-6 text-ink-2">
            Nothing in the table says “{find}”.{" "}
            <button type="button" className="link" onClick={() => setFind("")}>
              Show all {table.rows.length}
            </button>
          </p>
        ) : (
          <div className="scroll-wide mt-3" role="region" aria-label="The torque table, all columns" tabIndex={0}>
            <table className="list-table torque-table" aria-label="Torques">
              <thead>
                <tr>
                  {shown.map((c) => (
                    <th
                      key={c.key}
                      scope="col"
                      className={c.right ? "num" : undefined}
                      aria-sort={sort === c.key ? (down ? "descending" : "ascending") : undefined}
                    >
                      <SortButton
                        name={c.name}
                        on={sort === c.key}
                        down={down}
                        onSort={() => {
                          if (sort === c.key && down) {
                            setSort("");
                            setDown(false);
                          } else {
                            setDown(sort === c.key);
                            setSort(c.key);
                          }
                        }}
                      />
                    </th>
                  ))}
                </tr>
              </thead>
              {groups.map((g) => (
                <tbody key={g.name}>
                  {grouped >= 0 && (
                    <tr className="torque-group">
                      <th scope="rowgroup" colSpan={shown.length}>
                        {g.name || `no ${table.columns[grouped].name.toLowerCase()} said`}{" "}
                        <span className="font-normal text-ink-2">{g.rows.length}</span>
                      </th>
                    </tr>
                  )}
                  {g.rows.map((r, i) => (
                    <tr key={r.fastener + i}>
                      {shown.map((col) => {
                        const c = r.cells[col.i];
                        return col.i === 0 ? (
                          <th key={col.key} scope="row">
                            <Link
                              to="/engines/$code"
                              params={{ code: table.code }}
                              search={{ tab: "fasteners", on: `fasteners/${r.fastener}` }}
                              className="row-link"
                            >
                              {c}
                            </Link>
                          </th>
                        ) : (
                          <td
                            title={col.key === "source" ? c : undefined}
                            key={col.key}
                            className={`${col.right ? "num" : ""} ${mono.has(col.key) ? "font-mono text-small" : ""}`}
                          >
                            {col.key === "wrench" ? <span title={c}>{c.split(" ")[0]}</span> : c}
                            {col.key === "spec" && also >= 0 && r.cells[also] && (
                              <span className="block text-fine text-ink-2">{r.cells[also]}</span>
                            )}
                          </td>
                        );
                      })}
                    </tr>
                  ))}
                </tbody>
              ))}
            </table>
          </div>
        )}
        <p className="mt-3 max-w-[90ch] text-small text-ink-2">
          {table.rows.length} row{table.rows.length === 1 ? "" : "s"}. Clamp loads are bands over friction and say nothing where
          class or condition are not said. The table does not replace the maker’s data, local rules or a licensed technician’s
          judgement.
        </p>
      </div>
    </main>
  );
}

/** what stands beneath another column, is said by one, or is behind one: only in the files */
const besides = new Set(["also", "singleUse", "grip", "engaged"]);
/** columns that are figures with units */
const mono = new Set(["spec", "also", "clamp", "thread", "class", "steps"]);
