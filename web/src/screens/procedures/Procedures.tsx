import { keepPreviousData, useInfiniteQuery, useQuery, useQueryClient } from "@tanstack/react-query";
import { Link, useNavigate } from "@tanstack/react-router";
import { useVirtualizer } from "@tanstack/react-virtual";
import { useDeferredValue, useEffect, useMemo, useRef, useState } from "react";
import { Failure, type S } from "../../api/client";
import { pageOfProcedures, whoAmI } from "../../api/queries";
import { useActions } from "../../shell/actions";
import { useAddress } from "../../shell/address";
import { Blockers, Latches, when } from "../../shell/rows";
import { SortButton } from "../../shell/SortButton";
import { stateWord } from "../../shell/states";
import { Trouble, Waiting } from "../../shell/Trouble";
import { say } from "../../shell/toast";
import { useTitle } from "../../shell/useTitle";
import { type Asked, askedOf, Bring, bring } from "./Bring";
import { StartProcedure } from "./StartProcedure";

const cols =
  "grid grid-cols-[84px_minmax(0,1fr)_156px_134px_104px_164px_172px] gap-3 items-center max-lg:grid-cols-[76px_minmax(0,1fr)_150px_134px] max-md:grid-cols-[68px_minmax(0,1fr)_112px]";
const tall = 32;

type Sort = "code" | "title" | "state" | "findings" | "changed";
const heads: [Sort | "", string][] = [
  ["code", "Engine code"],
  ["title", "Procedure"],
  ["state", "Revision"],
  ["findings", "Findings"],
  ["", "Caught"],
  ["", "Latches"],
  ["changed", "Last changed"],
];

/** Procedures is every procedure there is: filtered, sorted and paged by the server, so that thousands are as quick as ten. */
export function Procedures() {
  const { data: me } = useQuery(whoAmI);
  const [filter, setFilter] = useAddress<string>("q", "");
  const [sort, setSort] = useAddress<string>("sort", "code");
  const [down, setDown] = useAddress<boolean>("down", false);
  const [deleted, setDeleted] = useAddress<boolean>("deleted", false);
  const order = useMemo(() => ({ sort: (heads.some(([h]) => h === sort) ? sort : "code") as Sort, down }), [sort, down]);
  const [at, setAt] = useState(0);
  const [starting, setStarting] = useState(false);
  useTitle(deleted ? "Deleted drafts" : "Procedures");
  const input = useRef<HTMLInputElement>(null);
  const file = useRef<HTMLInputElement>(null);
  const scroller = useRef<HTMLDivElement>(null);
  const navigate = useNavigate();
  const client = useQueryClient();
  const asked = useDeferredValue(filter.trim());
  const { data, error, refetch, fetchNextPage, hasNextPage, isFetchingNextPage } = useInfiniteQuery({
    ...pageOfProcedures({ filter: asked, ...order, deleted }),
    placeholderData: keepPreviousData,
  });
  const rows = useMemo(() => data?.pages.flatMap((p) => p.rows) ?? [], [data]);
  const total = data?.pages[0]?.total ?? 0;
  const here = Math.max(0, Math.min(at, rows.length - 1));
  const list = useVirtualizer({
    count: rows.length,
    getScrollElement: () => scroller.current,
    estimateSize: () => tall,
    overscan: 12,
  });
  const shown = list.getVirtualItems();
  const last = shown.at(-1)?.index ?? 0;
  useEffect(() => {
    if (hasNextPage && !isFetchingNextPage && last >= rows.length - 20) fetchNextPage();
  }, [hasNextPage, isFetchingNextPage, last, rows.length, fetchNextPage]);

  const open = (revision: number) =>
    navigate({
      to: me?.works === false ? "/revisions/$revision/sheet" : "/revisions/$revision",
      params: { revision: String(revision) },
    });
  const [walked, setWalked] = useState(false);
  const walk = (to: number) => {
    setWalked(true);
    const i = Math.max(0, Math.min(rows.length - 1, to));
    setAt(i);
    list.scrollToIndex(i);
  };
  const [question, setQuestion] = useState<Asked>();
  const came = (revision: number) => {
    client.invalidateQueries({ queryKey: ["procedures"] });
    open(revision);
  };
  const take = async (f?: File) => {
    if (!f) return;
    try {
      came((await bring(f, {})).revision);
    } catch (e) {
      const q = askedOf(f, {}, e);
      setQuestion(q);
      if (!q) say(e instanceof Failure ? e.message : "The file could not be read.");
      client.invalidateQueries({ queryKey: ["engines"] }); // its sheet may have been kept
    }
  };
  const actions = useMemo(
    () =>
      me?.writes
        ? [
            { name: "Start a procedure", run: () => setStarting(true) },
            { name: "Import a latch file", run: () => file.current?.click() },
            { name: deleted ? "Show the procedures" : "Show deleted drafts", run: () => setDeleted(!deleted) },
          ]
        : [],
    [me, deleted, setDeleted],
  );
  useActions(actions);
  if (error && !data) return <Trouble error={error} again={refetch} />;
  if (!data) return <Waiting />;
  return (
    <main id="main" className="flex h-full flex-col">
      <div className="flex flex-wrap items-center gap-2 border-b border-ink px-4 py-2">
        <h1 className="sr-only">{deleted ? "Deleted drafts" : "Procedures"}</h1>
        <input
          ref={input}
          autoFocus
          value={filter}
          onChange={(e) => {
            setFilter(e.target.value);
            setAt(0);
            list.scrollToOffset(0);
          }}
          onKeyDown={(e) => {
            const page = Math.max(1, Math.floor((scroller.current?.clientHeight ?? 400) / tall) - 1);
            if (e.key === "ArrowDown") walk(here + 1);
            else if (e.key === "ArrowUp") walk(here - 1);
            else if (e.key === "PageDown") walk(here + page);
            else if (e.key === "PageUp") walk(here - page);
            else if (e.key === "Enter" && rows[here]) open(rows[here].revision);
            else if (e.key === "Escape") setFilter("");
            else return;
            e.preventDefault();
          }}
          aria-label="Filter the procedures"
          placeholder="Filter by code, year, state, or words of the page"
          className="field max-w-[360px]"
        />
        <span className="sr-only" aria-live="polite">
          {walked &&
            rows[here] &&
            `${rows[here].engine}, ${rows[here].title}, ${rows[here].number} ${stateWord(rows[here].state)}. Enter opens it.`}
        </span>
        <span className="text-ink-2" aria-live="polite">
          {count(total)} {deleted ? `deleted draft${total === 1 ? "" : "s"}` : `procedure${total === 1 ? "" : "s"}`}
          {asked && ", filtered"}
        </span>
        {me?.writes && (
          <span className="ml-auto flex gap-2">
            <button type="button" className="button quiet" aria-pressed={deleted} onClick={() => setDeleted(!deleted)}>
              {deleted ? "Back to the procedures" : "Deleted drafts"}
            </button>
            <input
              ref={file}
              type="file"
              accept=".json"
              className="hidden"
              aria-label="Latch file"
              onChange={(e) =>
                take(e.target.files?.[0]).finally(() => {
                  if (file.current) file.current.value = "";
                })
              }
            />
            <button type="button" className="button" onClick={() => file.current?.click()}>
              Import a file…
            </button>
            <button type="button" className="button solid" onClick={() => setStarting(true)}>
              Start a procedure
            </button>
          </span>
        )}
      </div>
      <div ref={scroller} className="scroller min-h-0 flex-1 overflow-auto">
        <div
          className="lg:min-w-[940px]"
          role="table"
          aria-label={deleted ? "Deleted drafts" : "Procedures"}
          aria-rowcount={total + 1}
          aria-colcount={heads.length}
        >
          <div role="rowgroup" className="sticky top-0 z-10">
            {/* biome-ignore lint/a11y/useFocusableInteractive: a row of a table is read, what is in it is reached */}
            <div role="row" aria-rowindex={1} className={`${cols} border-b border-rule bg-film px-4 py-1 text-fine text-ink-2`}>
              {heads.map(([sort, name], i) => (
                // biome-ignore lint/a11y/useFocusableInteractive: a row of a table is read, what is in it is reached
                <span
                  key={name}
                  role="columnheader"
                  aria-sort={sort && order.sort === sort ? (order.down ? "descending" : "ascending") : undefined}
                  className={`${i === heads.length - 1 ? "text-right" : ""} ${i > 3 ? "max-lg:hidden" : i > 2 ? "max-md:hidden" : ""}`}
                >
                  {sort ? (
                    <SortButton
                      name={name}
                      on={order.sort === sort}
                      down={order.down}
                      onSort={() => {
                        setSort(sort);
                        setDown(order.sort === sort ? !order.down : sort === "changed" || sort === "findings");
                      }}
                    />
                  ) : (
                    name
                  )}
                </span>
              ))}
            </div>
          </div>
          <div role="rowgroup" style={{ height: list.getTotalSize() }} className="relative">
            {shown.map((v) => (
              <Row
                key={rows[v.index].revision}
                p={rows[v.index]}
                on={v.index === here}
                index={v.index}
                top={v.start}
                reads={me?.works === false}
                onEnter={() => setAt(v.index)}
              />
            ))}
          </div>
          {rows.length === 0 && (
            <p className="px-4 py-10 text-ink-2">
              {asked
                ? "No procedure fits. Clear the filter with Esc."
                : deleted
                  ? "No draft was deleted."
                  : "No procedure yet. Start one from an empty page, or import a latch file."}{" "}
              {!asked && !deleted && me?.writes && (
                <button type="button" className="text-marking underline" onClick={() => setStarting(true)}>
                  Start a procedure
                </button>
              )}
            </p>
          )}
        </div>
      </div>
      <StartProcedure open={starting} onOpenChange={setStarting} onStarted={open} />
      {question && <Bring asked={question} onAsk={setQuestion} onDone={came} />}
    </main>
  );
}

const count = (n: number) => n.toLocaleString("en-GB").replaceAll(",", " ");

function Row({
  p,
  on,
  index,
  top,
  reads,
  onEnter,
}: {
  p: S["ProcedureRow"];
  /** whether the person only reads: then a row leads to its job sheet */
  reads: boolean;
  on: boolean;
  index: number;
  top: number;
  onEnter: () => void;
}) {
  return (
    // biome-ignore lint/a11y/useFocusableInteractive: a row of a table is read, what is in it is reached
    <div
      role="row"
      aria-rowindex={index + 2}
      data-on={on}
      onFocus={onEnter}
      style={{ transform: `translateY(${top}px)`, height: tall }}
      className={`${cols} list-row absolute top-0 left-0 w-full border-b border-rule px-4 py-1`}
    >
      <span role="cell" className="text-ink-2">
        {p.engine}
      </span>
      {/* biome-ignore lint/a11y/useFocusableInteractive: a row of a table is read, what is in it is reached */}
      <span role="rowheader" className="truncate" title={p.title}>
        <Link
          to={reads ? "/revisions/$revision/sheet" : "/revisions/$revision"}
          params={{ revision: String(p.revision) }}
          className="row-link font-[650]"
        >
          {p.title}
        </Link>
      </span>
      <span role="cell">
        {p.number} <span className="text-ink-2">{stateWord(p.state)}</span>
        {p.latchedNumber && p.latchedNumber !== p.number ? (
          <Link
            to="/revisions/$revision/sheet"
            params={{ revision: String(p.latchedRevision) }}
            className="relative z-[1] ml-2 text-ink-2 underline decoration-marking-edge underline-offset-2"
          >
            {p.latchedNumber} holds
          </Link>
        ) : null}
      </span>
      <span role="cell" className="max-md:hidden">
        {p.state === "deleted" ? (
          <span className="text-ink-2">not proved</span>
        ) : p.trouble ? (
          <span className="block truncate text-clash" title={p.trouble}>
            cannot be read
          </span>
        ) : (
          <Blockers blocking={p.blocking} findings={p.findings} free={p.free} />
        )}
      </span>
      <span role="cell" className="truncate max-lg:hidden">
        <Caught p={p} />
      </span>
      <span role="cell" className="min-w-0 max-lg:hidden">
        <Latches marks={p.latches} />
      </span>
      <span role="cell" className="truncate text-right text-ink-2 max-lg:hidden">
        {p.changedBy}, {when(p.changedAt)}
      </span>
    </div>
  );
}

/** Caught says how many mistakes of the drill come to no harm, or how many get through that the page needs to catch. */
function Caught({ p }: { p: S["ProcedureRow"] }) {
  if (!p.mistakes) return null;
  const says = `${p.caught} of ${p.mistakes} mistakes of the drill come to no harm`;
  if (p.missed)
    return (
      <span className="text-clash" title={`${says}; ${p.missed} get through that the page needs to catch`}>
        {p.missed} get{p.missed === 1 ? "s" : ""} through
      </span>
    );
  return (
    <span title={says}>
      {p.caught} <span className="text-ink-2">of {p.mistakes}</span>
    </span>
  );
}
