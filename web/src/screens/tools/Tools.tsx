import { keepPreviousData, useInfiniteQuery, useQuery } from "@tanstack/react-query";
import { Link } from "@tanstack/react-router";
import { useDeferredValue, useState } from "react";
import { api, ask, type S } from "../../api/client";
import { whoAmI } from "../../api/queries";
import { useAddress } from "../../shell/address";
import { CodeField } from "../../shell/CodeField";
import { Trouble, Waiting } from "../../shell/Trouble";
import { useTitle } from "../../shell/useTitle";

import { calibrated, fileOf, KeepTool } from "./Keep";

type Row = S["CribRow"];
const page = 200;

/** Tools is the crib: every special and torque tool that engine sheets in use name, by its kit, what it does, and where it stands. */
export function Tools() {
  const [q, setQ] = useAddress<string>("q", "");
  const [engine, setEngine] = useAddress<string>("engine", "");
  const [text, setText] = useState(q);
  const asked = useDeferredValue(q.trim());
  const { data: me } = useQuery(whoAmI);
  const { data, error, refetch, fetchNextPage, hasNextPage, isFetchingNextPage } = useInfiniteQuery({
    queryKey: ["tools", asked, engine],
    queryFn: ({ pageParam }) =>
      ask(
        api.GET("/api/tools", {
          params: { query: { ...(asked ? { q: asked } : {}), ...(engine ? { engine } : {}), offset: pageParam, limit: page } },
        }),
      ),
    initialPageParam: 0,
    getNextPageParam: (last, all) => {
      const n = all.reduce((s, p) => s + p.rows.length, 0);
      return n < last.total ? n : undefined;
    },
    placeholderData: keepPreviousData,
  });
  useTitle("Tools");
  if (error) return <Trouble error={error} again={refetch} />;
  if (!data) return <Waiting />;
  const rows = data.pages.flatMap((p) => p.rows);
  const total = data.pages.at(-1)?.total ?? 0;
  const kits: { kit: string; rows: Row[] }[] = [];
  for (const r of rows) {
    if (kits.at(-1)?.kit !== r.kit) kits.push({ kit: r.kit, rows: [] });
    kits.at(-1)?.rows.push(r);
  }
  const over = rows.filter((r) => r.calibrated?.over).length;
  const differ = rows.filter((r) => r.variants.length > 1).length;
  return (
    <main id="main" className="scroller h-full overflow-auto">
      <div className="mx-auto max-w-[1180px] px-6 py-6 max-md:px-3">
        <h1 className="text-title">Tools</h1>
        <div className="mt-3 flex flex-wrap items-end gap-3">
          <label className="min-w-[240px] flex-1">
            <span className="label">A number, a name, a kit</span>
            <input
              type="search"
              className="field"
              value={text}
              maxLength={200}
              placeholder="e.g. TL-101, cam bar"
              onChange={(e) => {
                setText(e.target.value);
                setQ(e.target.value);
              }}
            />
          </label>
          <CodeField code={engine} onCode={setEngine} />
        </div>
        <p role="status" className="mt-3 min-h-5 text-ink-2">
          {total === 0
            ? asked || engine
              ? "No engine sheet in use has such a tool."
              : "No engine sheet in use names a tool yet. Tools are put on a sheet under “Parts”, each with its number, its kit and the torques it gives."
            : `${total} tool${total === 1 ? "" : "s"}${engine ? ` of ${engine} and its kits` : " on the engine sheets in use"}${differ > 0 ? `; sheets differ about ${differ}` : ""}`}
          {over > 0 && <b className="font-[650] text-clash"> ✕ {over} overdue for calibration</b>}
        </p>
        {kits.map((k) => (
          <section key={k.kit || "none"} className="mt-4">
            <h2 className="flex flex-wrap items-baseline gap-x-2 border-b border-ink pb-0.5 text-body">
              {k.kit ? `Kit ${k.kit}` : "In no kit"}
              <span className="font-normal text-ink-2">
                {k.rows.length} tool{k.rows.length === 1 ? "" : "s"}
                {engine && k.kit && unneeded(k.rows) > 0 && `, ${unneeded(k.rows)} of them not needed on ${engine}`}
              </span>
            </h2>
            <div className="scroll-wide">
              <table
                className="list-table crib w-full md:min-w-[760px] md:table-fixed"
                aria-label={k.kit ? `Kit ${k.kit}` : "Tools in no kit"}
              >
                <colgroup>
                  {["w-[96px]", "w-[200px]", "", "w-[128px]", "w-[160px]", "w-[150px]"].map((w, i) => (
                    // biome-ignore lint/suspicious/noArrayIndexKey: the columns stay
                    <col key={i} className={w} />
                  ))}
                </colgroup>
                <thead className="sr-only">
                  <tr>
                    {["Number", "Name", "What it does", "On codes", "On pages", "Picture, replace"].map((h) => (
                      <th key={h} scope="col">
                        {h}
                      </th>
                    ))}
                  </tr>
                </thead>
                <tbody>
                  {k.rows.map((r) => (
                    <Tool key={r.number} r={r} engine={engine} writes={!!me?.writes} />
                  ))}
                </tbody>
              </table>
            </div>
          </section>
        ))}
        {hasNextPage && (
          <button type="button" className="button mt-4" disabled={isFetchingNextPage} onClick={() => fetchNextPage()}>
            {isFetchingNextPage ? "Reading…" : `Show more of ${total}`}
          </button>
        )}
      </div>
    </main>
  );
}

const unneeded = (rows: Row[]) => rows.filter((r) => !r.needed).length;

function Tool({ r, engine, writes }: { r: Row; engine: string; writes: boolean }) {
  const v = r.variants[0];
  const [open, setOpen] = useState(false);
  const codes = r.variants.reduce((n, o) => n + o.codes, 0);
  return (
    <tr className={r.needed ? undefined : "text-ink-2"}>
      <th scope="row" className="whitespace-nowrap">
        {r.number}
        {r.picture && (
          <button type="button" className="crib-picture" onClick={() => setOpen(true)} aria-label={`Picture of ${r.number}`}>
            <img src={fileOf("tool", r.number, r.picture)} alt="" loading="lazy" />
          </button>
        )}
        {open && <KeepTool r={r} writes={writes} onClose={() => setOpen(false)} />}
      </th>
      <td>
        {v.name}
        {r.variants.slice(1).map((o) => (
          <span key={o.name + o.does + o.equivalents} className="block text-small text-clash">
            {o.name === v.name ? "" : `“${o.name}” `}on {o.some.slice(0, 3).join(", ")}
            {o.codes > 3 && ` and ${o.codes - 3} more`}
          </span>
        ))}
      </td>
      <td>
        {v.does || <span className="text-ink-2">nothing that the sheets say</span>}
        {v.equivalents && <span className="block text-small text-ink-2">or {v.equivalents}</span>}
        {r.calibrated && (
          <span className={`block text-small ${r.calibrated.over ? "text-clash" : "text-ink-2"}`}>
            {calibrated(r.calibrated)}
          </span>
        )}
        {r.variants.slice(1).map((o) => (
          <span key={o.name + o.does + o.equivalents} className="block text-small text-clash">
            {[o.does !== v.does && (o.does || "nothing"), o.equivalents !== v.equivalents && `or ${o.equivalents || "no other"}`]
              .filter(Boolean)
              .join("; ") || "\u00a0"}
          </span>
        ))}
      </td>
      <td className="text-small">
        <span title={r.variants.flatMap((o) => o.some).join(", ")}>
          {codes === 1 ? v.some[0] : `${codes} codes`}
          {!r.needed && <span className="block">not needed on {engine}</span>}
        </span>
      </td>
      <td className="text-small whitespace-nowrap">
        {r.pages > 0 ? (
          <Link to="/where" search={{ q: r.number, kind: "tool", ...(engine ? { engine } : {}) }} className="link">
            {r.places} place{r.places === 1 ? "" : "s"} on {r.pages} page{r.pages === 1 ? "" : "s"}
          </Link>
        ) : (
          <span className="text-ink-2">on no page</span>
        )}
      </td>
      <td className="text-right text-small whitespace-nowrap">
        {writes && (
          <button
            type="button"
            className="link mr-3"
            onClick={() => setOpen(true)}
            aria-label={`Picture and calibration of ${r.number}`}
          >
            Picture…
          </button>
        )}
        {writes && (
          <Link
            to="/change"
            search={{ from: r.number, ...(engine ? { engine } : {}) }}
            className="link"
            aria-label={`Replace ${r.number}`}
          >
            Replace…
          </Link>
        )}
      </td>
    </tr>
  );
}
