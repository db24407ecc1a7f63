import { keepPreviousData, useInfiniteQuery, useQuery } from "@tanstack/react-query";
import { Link } from "@tanstack/react-router";
import { useDeferredValue, useState } from "react";
import { api, ask, type S } from "../../api/client";
import { whoAmI } from "../../api/queries";
import { useAddress } from "../../shell/address";
import { CodeField } from "../../shell/CodeField";
import { Trouble, Waiting } from "../../shell/Trouble";
import { useTitle } from "../../shell/useTitle";
import { KeptDocument } from "../tools/Keep";

const page = 200;

/** Sources is the letters, drawings and standards that values of engine sheets in use come from, and where one that is replaced is still rested on. */
export function Sources() {
  const [q, setQ] = useAddress<string>("q", "");
  const [engine, setEngine] = useAddress<string>("engine", "");
  const [text, setText] = useState(q);
  const asked = useDeferredValue(q.trim());
  const { data: me } = useQuery(whoAmI);
  const { data, error, refetch, fetchNextPage, hasNextPage, isFetchingNextPage } = useInfiniteQuery({
    queryKey: ["sources", asked, engine],
    queryFn: ({ pageParam }) =>
      ask(
        api.GET("/api/sources", {
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
  useTitle("Sources");
  if (error) return <Trouble error={error} again={refetch} />;
  if (!data) return <Waiting />;
  const rows = data.pages.flatMap((p) => p.rows);
  const total = data.pages.at(-1)?.total ?? 0;
  const late = rows.filter((r) => r.late > 0);
  return (
    <main id="main" className="scroller h-full overflow-auto">
      <div className="mx-auto max-w-[1180px] px-6 py-6 max-md:px-3">
        <h1 className="text-title">Sources</h1>
        <div className="mt-3 flex flex-wrap items-end gap-3">
          <label className="min-w-[240px] flex-1">
            <span className="label">A number, a kind, what it is about, who issued it</span>
            <input
              type="search"
              className="field"
              value={text}
              maxLength={200}
              placeholder="e.g. EL-0418, drawing"
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
              ? "No engine sheet in use names such a document."
              : "No engine sheet in use lists a document yet. They are listed on a sheet under “Limits”, and chosen there for each value that comes from them."
            : `${total} document${total === 1 ? "" : "s"}`}
          {late.length > 0 && (
            <b className="font-[650] text-clash">
              {"; "}
              {late.length}{" "}
              {late.length === 1 ? "is replaced, and values still rest on it" : "are replaced, and values still rest on them"}
            </b>
          )}
        </p>
        {[...late, ...rows.filter((r) => r.late === 0)].map((r) => (
          <Document key={r.number} r={r} writes={!!me?.writes} />
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

function Document({ r, writes }: { r: S["SourceRow"]; writes: boolean }) {
  return (
    <section className="mt-5">
      <h2 className="flex flex-wrap items-baseline gap-x-2 border-b border-ink pb-0.5 text-body">
        <span className="font-normal text-ink-2">{r.kind}</span> {r.number}
        {r.name && <span className="font-normal">{r.name}</span>}
        <span className="ml-auto text-small font-normal text-ink-2">{[r.issuer, r.on].filter(Boolean).join(", ")}</span>
      </h2>
      {r.replaced && (
        <p className="pt-1 text-small text-ink-2">
          Replaced by {r.replaced}
          {r.late === 0 && "; nothing rests on it any more"}.
        </p>
      )}
      <KeptDocument number={r.number} file={r.file} writes={writes} />
      <ul>
        {r.codes.map((c) => (
          <li key={c.code} className="grid grid-cols-[120px_minmax(0,1fr)] gap-x-3 border-b border-rule py-1 max-md:grid-cols-1">
            <Link to="/engines/$code" params={{ code: c.code }} search={{ tab: "limits" }} className="link text-small">
              {c.code}
            </Link>
            <span className={c.late ? "text-clash" : undefined}>
              {c.rests.length === 0 ? (
                <span className="text-ink-2">nothing rests on it</span>
              ) : (
                <>
                  {c.late && "✕ "}
                  {c.rests.join(", ")}
                  {c.late && !c.replaced && " (the sheet does not say that it is replaced)"}
                </>
              )}
            </span>
          </li>
        ))}
      </ul>
    </section>
  );
}
