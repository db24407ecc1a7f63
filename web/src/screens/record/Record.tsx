import { useInfiniteQuery, useQuery } from "@tanstack/react-query";
import { Link } from "@tanstack/react-router";
import { useEffect, useRef } from "react";
import type { S } from "../../api/client";
import { colleagues, recordOf, whoAmI } from "../../api/queries";
import { useAddress } from "../../shell/address";
import { CodePick } from "../../shell/CodePick";
import { Trouble, Waiting } from "../../shell/Trouble";
import { useTitle } from "../../shell/useTitle";

const kinds = [
  ["", "everything"],
  ["edits", "edits"],
  ["latches", "latches and releases"],
  ["talk", "questions and remarks"],
  ["field notes", "field notes"],
  ["tools and documents", "tools and documents"],
  ["house rules", "house rules"],
  ["sheets", "engine sheets"],
] as const;

/** Record is who did what, the newest first, by person, code, kind and time. */
export function Record() {
  const [person, setPerson] = useAddress<number>("person", 0);
  const [procedure, setProcedure] = useAddress<number>("procedure", 0);
  const [engine, setEngine] = useAddress<string>("engine", "");
  const [kind, setKind] = useAddress<string>("kind", "");
  const [from, setFrom] = useAddress<string>("from", "");
  const [until, setUntil] = useAddress<string>("until", "");
  const { data: me } = useQuery(whoAmI);
  const { data: people } = useQuery(colleagues);
  const { data, error, refetch, fetchNextPage, hasNextPage, isFetchingNextPage } = useInfiniteQuery(
    recordOf({ person, procedure, engine, kind, from, until }),
  );
  useTitle("Record");
  const end = useRef<HTMLDivElement>(null);
  useEffect(() => {
    const el = end.current;
    if (!el || !hasNextPage) return;
    const o = new IntersectionObserver((es) => es.some((e) => e.isIntersecting) && fetchNextPage());
    o.observe(el);
    return () => o.disconnect();
  }, [hasNextPage, fetchNextPage]);
  if (error) return <Trouble error={error} again={refetch} />;
  if (!data) return <Waiting />;
  const lines = data.pages.flat();
  const exports = me?.administers || me?.leads;
  const all = [person, procedure, engine, kind, from, until].some(Boolean);
  const shown = lines.find((l) => l.title)?.title;
  return (
    <main id="main" className="flex h-full flex-col">
      <div className="flex flex-none flex-wrap items-center gap-x-4 gap-y-2 border-b border-rule bg-film px-6 py-3 max-md:px-3">
        <h1 className="mr-2 text-title">Record</h1>
        <Pick name="By" value={String(person)} onChange={(v) => setPerson(Number(v))}>
          <option value="0">anybody</option>
          {people?.map((p) => (
            <option key={p.id} value={p.id}>
              {p.name}
            </option>
          ))}
        </Pick>
        <span className="flex items-center gap-1.5 text-small text-ink-2">
          <label htmlFor="record-code">Code</label>
          <CodePick id="record-code" value={engine} onChange={setEngine} none="any" className="slim !w-auto" />
        </span>
        <Pick name="What" value={kind} onChange={setKind}>
          {kinds.map(([k, n]) => (
            <option key={k} value={k}>
              {n}
            </option>
          ))}
          {me?.administers && <option value="people">people</option>}
        </Pick>
        <label className="flex items-center gap-1.5 text-small text-ink-2">
          From
          <input
            type="date"
            className="field slim !w-auto"
            value={from}
            max={until || undefined}
            onChange={(e) => setFrom(e.target.value)}
          />
        </label>
        <label className="flex items-center gap-1.5 text-small text-ink-2">
          until
          <input
            type="date"
            className="field slim !w-auto"
            value={until}
            min={from || undefined}
            onChange={(e) => setUntil(e.target.value)}
          />
        </label>
        {procedure > 0 && (
          <button type="button" className="chip" onClick={() => setProcedure(0)} title="Show every procedure">
            {shown ?? "One procedure"} <span aria-hidden>✕</span>
          </button>
        )}
        {all && (
          <button
            type="button"
            className="button quiet slim"
            onClick={() => {
              setPerson(0);
              setProcedure(0);
              setEngine("");
              setKind("");
              setFrom("");
              setUntil("");
            }}
          >
            Show everything
          </button>
        )}
        {exports && (
          <a className="button ml-auto no-underline" href="/api/record/export" download="record.jsonl">
            Export as JSON lines
          </a>
        )}
      </div>
      <div className="scroller min-h-0 flex-1 overflow-auto">
        {lines.length === 0 ? (
          <p className="px-6 py-6 text-lead">Nothing was done {all ? "that fits what is asked for" : "yet"}.</p>
        ) : (
          <ol className="mx-auto max-w-[1120px] px-6 py-4 max-md:px-3" aria-label="What was done, the newest first">
            {lines.map((l, i) => (
              <Entry key={l.seq} line={l} day={dayOf(l.at) !== dayOf(lines[i - 1]?.at)} />
            ))}
          </ol>
        )}
        <div ref={end} className="h-8 px-6 text-small text-ink-2">
          {isFetchingNextPage && "Reading on…"}
        </div>
      </div>
    </main>
  );
}

const days = new Intl.DateTimeFormat("en-GB", { weekday: "long", day: "numeric", month: "long", year: "numeric" });
const clock = new Intl.DateTimeFormat("en-GB", { hour: "2-digit", minute: "2-digit" });
const dayOf = (iso?: string) => (iso ? days.format(new Date(iso)) : "");

function Pick({
  name,
  value,
  onChange,
  children,
}: {
  name: string;
  value: string;
  onChange: (v: string) => void;
  children: React.ReactNode;
}) {
  return (
    <label className="flex items-center gap-1.5 text-small text-ink-2">
      {name}
      <select className="field slim !w-auto max-w-[180px]" value={value} onChange={(e) => onChange(e.target.value)}>
        {children}
      </select>
    </label>
  );
}

/** the most further lines of an entry that are shown unasked */
const most = 3;

function Entry({ line: l, day }: { line: S["RecordEntry"]; day: boolean }) {
  return (
    <>
      {day && (
        <li className="border-b border-ink pt-5 pb-0.5 first:pt-0">
          <h2 className="text-body">{dayOf(l.at)}</h2>
        </li>
      )}
      <li className="grid grid-cols-[48px_minmax(0,1fr)_minmax(0,260px)_64px] gap-x-3 border-b border-rule py-1.5 max-md:grid-cols-[44px_minmax(0,1fr)]">
        <time className="text-ink-2" dateTime={l.at}>
          {clock.format(new Date(l.at))}
        </time>
        <div>
          <b className="font-[650]">{l.by}</b> {l.says}
          {l.detail.slice(0, most).map((d) => (
            <span key={d} className="block text-small text-ink-2">
              {d}
            </span>
          ))}
          {l.detail.length > most && (
            <details className="text-small text-ink-2">
              <summary className="cursor-pointer">{l.detail.length - most} more</summary>
              {l.detail.slice(most).map((d, i) => (
                <span key={i} className="block">
                  {d}
                </span>
              ))}
            </details>
          )}
        </div>
        <div className="truncate text-small max-md:col-start-2">
          {l.revision ? (
            <Link to="/revisions/$revision" params={{ revision: String(l.revision) }}>
              {l.engine} {l.title} {l.number}
            </Link>
          ) : l.sheet ? (
            <Link to="/engines/$code" params={{ code: l.engine ?? "" }} search={{ sheet: l.sheet }}>
              {l.engine} engine sheet {l.sheet}
            </Link>
          ) : null}
        </div>
        <span className="text-right font-mono text-fine text-ink-2 max-md:hidden" title={`Entry ${l.seq}, SHA-256 ${l.hash}`}>
          {l.seq}
        </span>
      </li>
    </>
  );
}
