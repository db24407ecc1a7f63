import { useQuery, useQueryClient } from "@tanstack/react-query";
import { Link, useParams } from "@tanstack/react-router";
import { useVirtualizer } from "@tanstack/react-virtual";
import { useEffect, useMemo, useRef, useState } from "react";
import { api, ask, type Failure, type S } from "../../api/client";
import { drill, whoAmI } from "../../api/queries";
import { takeEdits } from "../../drafts/takeEdits";
import { useAddress } from "../../shell/address";
import { cap } from "../../shell/cap";
import { forPage } from "../../shell/keys";
import { TitleBlock } from "../../shell/TitleBlock";
import { Trouble, Waiting } from "../../shell/Trouble";
import { say } from "../../shell/toast";
import { useClose } from "../../shell/useClose";
import { useTitle } from "../../shell/useTitle";
import { Film } from "./Film";
import { Keep } from "./Keep";
import { type Filter, filters, grouped, type Mistake, outcomeWords } from "./mistakes";
import { Pair } from "./Pair";

/** column is the width of a step's column, rem sizes apart, px */
const column = 24;

/** head is how high the head over the columns is, px, as drill.css has it */
const head = 136;

/** Drill is the mistakes of the trade made on a page: which of its looks would show each, and what comes of those that none does. */
export function Drill() {
  const { revision } = useParams({ from: "/inside/revisions/$revision/drill" });
  const id = Number(revision);
  const { data, error, refetch } = useQuery(drill(id));
  const { data: who } = useQuery(whoAmI);
  const client = useQueryClient();
  const [show, setShow] = useAddress<string>("show", "open");
  const [on, setOn] = useAddress<string>("on", "");
  useTitle(data && `Mistake drill, ${data.meta.title}, ${data.meta.engine}`);
  const d = data?.drill;
  const filter = (show in filters ? show : "open") as Filter;
  const rows = useMemo(() => (d ? grouped(d, filter) : []), [d, filter]);
  const listed = useMemo(() => rows.flatMap((r) => (r.mistake ? [r.mistake] : [])), [rows]);
  const chosen = listed.find((m) => m.id === on) ?? listed[0];
  const { data: mends, isFetching } = useQuery({
    queryKey: ["drill", id, "mends", chosen?.id, data?.meta.version],
    queryFn: () =>
      ask(
        api.GET("/api/revisions/{revision}/drill/mends", {
          params: { path: { revision: id }, query: { mistake: chosen?.id ?? "" } },
        }),
      ),
    enabled: !!chosen && !chosen.good,
    staleTime: Number.POSITIVE_INFINITY,
  });
  const { data: settled } = useQuery({
    queryKey: ["drill", id, "settle", data?.meta.version],
    queryFn: () => ask(api.GET("/api/revisions/{revision}/drill/settle", { params: { path: { revision: id } } })),
    enabled: !!d && d.missed > 0,
    staleTime: Number.POSITIVE_INFINITY,
  });
  const take = (i: number) => {
    const m = mends?.[i];
    if (m) put(m.edits, m.label);
  };
  const put = async (edits: S["Mend"]["edits"], label: string) => {
    if (!data?.meta.editable) return;
    try {
      await takeEdits(id, data.meta.version, edits);
      say(`${label}: done. Ctrl Z in Write takes it back.`);
      client.invalidateQueries({ queryKey: ["revision", id] });
      refetch();
    } catch (e) {
      say((e as Failure).message);
    }
  };
  useEffect(() => {
    const onKey = (e: KeyboardEvent) => {
      if (!forPage(e) || listed.length === 0) return;
      const by = { ArrowDown: 1, ArrowUp: -1, j: 1, k: -1, ".": 1 }[e.key];
      if (by) {
        e.preventDefault();
        const at = listed.findIndex((m) => m.id === chosen?.id);
        setOn(listed[Math.max(0, Math.min(listed.length - 1, at + by))].id);
      } else if (e.key.toLowerCase() === "m") take(0);
    };
    window.addEventListener("keydown", onKey);
    return () => window.removeEventListener("keydown", onKey);
  });
  const close = useClose(id, data?.meta.version);
  if (error) return <Trouble error={error} again={refetch} />;
  if (!data || !d) return <Waiting />;
  return (
    <main id="main" className="flex h-full flex-col">
      <TitleBlock
        meta={data.meta}
        onClose={close}
        onRead={refetch}
        on="drill"
        writes={who?.writes ?? false}
        right={
          d.of > 0 && (
            <span className="flex items-center gap-1 max-sm:hidden">
              Worksheet
              {["xlsx", "csv"].map((f) => (
                <a
                  key={f}
                  className="button quiet slim no-underline"
                  href={`/api/revisions/${id}/drill/worksheet?format=${f}`}
                  title="Severity, occurrence and detection of every mistake, as a table"
                >
                  {f.toUpperCase()}
                </a>
              ))}
            </span>
          )
        }
      />
      <div className="drill min-h-0 flex-1">
        <section aria-label="Mistakes and what shows them" className="flex min-h-0 min-w-0 flex-col">
          <div className="drill-filters">
            {(Object.keys(filters) as Filter[]).map((f) => {
              const n = d.mistakes.filter(filters[f].of).length;
              return (
                <button
                  key={f}
                  type="button"
                  className="button quiet slim"
                  aria-pressed={f === filter}
                  disabled={n === 0 && f !== filter}
                  onClick={() => setShow(f)}
                >
                  {filters[f].name} <span className="font-normal">{n}</span>
                </button>
              );
            })}
          </div>
          {d.of === 0 ? (
            <p className="p-5 text-ink-2">No step of this page does anything that could be done wrongly yet.</p>
          ) : rows.length === 0 ? (
            <p className="p-5">
              {filter === "open" ? "Every mistake is caught, stops the work or comes to nothing." : "There is none of these."}
            </p>
          ) : (
            <Matrix d={d} rows={rows} chosen={chosen} onChoose={setOn} />
          )}
        </section>
        <aside className="drill-side" aria-label="What comes of it">
          <Sum d={d} />
          {d.missed > 0 && settled && (
            <Settle
              settled={settled}
              missed={d.missed}
              onTake={
                data.meta.editable
                  ? () =>
                      put(
                        settled.mends.flatMap((m) => m.edits),
                        settled.mends.length === 1 ? "The look" : `All ${settled.mends.length} looks`,
                      )
                  : undefined
              }
            />
          )}
          {chosen && (
            <One
              m={chosen}
              revision={id}
              family={d.families.find((f) => f.id === chosen.family)}
              mends={mends}
              busy={isFetching && !mends}
              editable={data.meta.editable}
              onTake={take}
              version={data.meta.version}
              played={on !== ""}
              onKept={() => {
                client.invalidateQueries({ queryKey: ["revision", id] });
                refetch();
              }}
            />
          )}
          {d.of > 1 && <Pairs key={data.meta.version} revision={id} version={data.meta.version} />}
        </aside>
      </div>
    </main>
  );
}

/** Matrix has a row for each mistake and a column for each step that shows one of them. */
function Matrix({
  d,
  rows,
  chosen,
  onChoose,
}: {
  d: S["Drilled"];
  rows: ReturnType<typeof grouped>;
  chosen?: Mistake;
  onChoose: (id: string) => void;
}) {
  const box = useRef<HTMLDivElement>(null);
  const columns = useMemo(() => {
    const shown = new Set(rows.flatMap((r) => r.mistake?.seen.map((l) => l.step) ?? []));
    return d.steps.filter((s) => shown.has(s.step));
  }, [d, rows]);
  const at = new Map(columns.map((c, i) => [c.step, i]));
  const v = useVirtualizer({
    count: rows.length,
    getScrollElement: () => box.current,
    estimateSize: (i) => (rows[i].mistake ? 27 : 36),
    overscan: 12,
    // The list begins under a head that stays.
    scrollMargin: head,
    scrollPaddingStart: head + 36,
  });
  const index = rows.findIndex((r) => r.mistake && r.mistake.id === chosen?.id);
  // biome-ignore lint/correctness/useExhaustiveDependencies: only another choice scrolls
  useEffect(() => {
    if (index >= 0) v.scrollToIndex(index, { align: "auto" });
    // The step that shows it comes into view beside its name.
    const first = chosen && at.get((chosen.seen.find((l) => l.sure) ?? chosen.seen[0])?.step ?? "");
    const el = box.current;
    if (el && first !== undefined) {
      const x = first * column;
      const room = el.clientWidth - 430 - 2 * column;
      if (x < el.scrollLeft || x > el.scrollLeft + room) el.scrollLeft = Math.max(0, x - room / 2);
    }
  }, [index]);
  const wide = columns.length * column;
  return (
    <div ref={box} className="drill-scroll scroller min-h-0 flex-1 overflow-auto">
      <div style={{ width: `max(100%, ${430 + wide + 40}px)` }}>
        <div className="drill-head" aria-hidden="true">
          <span className="drill-name drill-note">
            Each mistake is made on the virtual engine, and the rest of the page is done. A filled square is a step that shows it,
            an open one a step that may.
          </span>
          <span className="relative block h-full" style={{ width: wide }}>
            {columns.map((c, i) => (
              <span key={c.step} className="drill-step" style={{ left: i * column }} title={`${c.number} ${c.says}`}>
                <b className="font-[650]">{c.number}</b> {c.says.length > 21 ? `${c.says.slice(0, 20).trimEnd()}…` : c.says}
              </span>
            ))}
          </span>
        </div>
        <div
          role="listbox"
          aria-label="Mistakes"
          tabIndex={0}
          aria-activedescendant={chosen ? `m-${chosen.id}` : undefined}
          style={{ height: v.getTotalSize(), position: "relative" }}
        >
          {v.getVirtualItems().map((item) => {
            const r = rows[item.index];
            const style = { transform: `translateY(${item.start - head}px)`, height: item.size };
            if (!r.mistake)
              return (
                <div key={r.family.id} role="presentation" className="drill-group" style={style}>
                  <span className="drill-name">
                    <span className="min-w-0 flex-1 truncate">{r.family.name}</span>
                    <span className="text-small font-normal text-ink-2">
                      {r.bad > 0 ? `${r.bad} of ${r.all} get through` : `${r.all}, none gets through`}
                    </span>
                  </span>
                </div>
              );
            const m = r.mistake;
            return (
              // biome-ignore lint/a11y/useKeyWithClickEvents: the arrow keys move through all of them
              <div
                key={m.id}
                id={`m-${m.id}`}
                role="option"
                tabIndex={-1}
                aria-selected={m.id === chosen?.id}
                className="drill-row"
                data-bad={m.missed || undefined}
                style={style}
                onClick={() => onChoose(m.id)}
              >
                <span className="drill-name" title={`${cap(m.what)}${m.size && `, ${m.size}`}`}>
                  <span className="w-[22px] flex-none text-right text-ink-2">{m.number}</span>
                  <span className="min-w-0 flex-1 truncate">{cap(m.what)}</span>
                  {m.size && <span className="flex-none font-mono text-fine text-ink-2">{m.size.split(",")[0]}</span>}
                  <span className={`drill-end ${m.good ? "text-ink-2" : "font-[650] text-clash"}`}>{outcomeWords(m)}</span>
                </span>
                <span className="relative h-full flex-none" style={{ width: wide }}>
                  {m.seen.map((l, i) => (
                    <i
                      key={l.step}
                      aria-hidden="true"
                      className="drill-cell"
                      data-sure={l.sure}
                      data-first={m.good && l.sure && m.seen.findIndex((o) => o.sure) === i}
                      title={`Step ${l.number}: ${l.says}`}
                      style={{ left: (at.get(l.step) ?? 0) * column + 6 }}
                    />
                  ))}
                </span>
              </div>
            );
          })}
        </div>
      </div>
    </div>
  );
}

/** Pairs makes two mistakes at once, when somebody asks for it: each is noticed alone, and one may hide the other. */
function Pairs({ revision, version }: { revision: number; version: number }) {
  const [asked, setAsked] = useState(false);
  const { data: p, error } = useQuery({
    queryKey: ["drill", revision, "pairs", version],
    queryFn: () => ask(api.GET("/api/revisions/{revision}/drill/pairs", { params: { path: { revision } } })),
    enabled: asked,
    staleTime: Number.POSITIVE_INFINITY,
  });
  if (!asked)
    return (
      <button type="button" className="button quiet slim mt-3 -ml-2" onClick={() => setAsked(true)}>
        Make two at once…
      </button>
    );
  return (
    <section className="mt-4" aria-live="polite">
      <h2 className="border-b border-ink pb-0.5 text-body">Two at once</h2>
      {error ? (
        <p className="mt-1 text-clash">{(error as Failure).message}</p>
      ) : !p ? (
        <p className="mt-1 text-ink-2">Making them…</p>
      ) : p.tried === 0 ? (
        <p className="mt-1 text-ink-2">There are no two mistakes here that are each noticed alone.</p>
      ) : (
        <>
          <p className="mt-1 text-ink-2">
            Of {p.tried} pairs that are each noticed alone,{" "}
            {p.through.length === 0
              ? "none gets through"
              : p.through.length === 1
                ? "one gets through"
                : `${p.through.length} get through`}
            .
          </p>
          <ul>
            {p.through.map((v) => (
              <li key={`${v.first} ${v.firstAt} ${v.second} ${v.secondAt}`} className="border-b border-rule py-1 text-small">
                {v.first} (step {v.firstAt}), and {v.second} (step {v.secondAt}):{" "}
                <b className="font-[650] text-clash">{v.outcome}</b>
                <span className="block text-ink-2">{v.consequence}</span>
              </li>
            ))}
          </ul>
        </>
      )}
    </section>
  );
}

/** Sum says how many are caught, and how many a page needs to catch get through. */
function Sum({ d }: { d: S["Drilled"] }) {
  if (d.of === 0) return null;
  const needed = d.families.filter((f) => f.needed);
  const parts = [
    { name: "come to no harm", n: d.caught, tone: "bg-held" },
    {
      name: "late or by force",
      n: d.mistakes.filter((m) => m.outcome === "late" || m.outcome === "by force").length,
      tone: "bg-paint",
    },
    { name: "not caught", n: d.mistakes.filter((m) => m.outcome === "not caught").length, tone: "bg-clash" },
  ];
  return (
    <>
      <p>
        <span className="text-[34px] leading-none font-[680]">{d.caught}</span>{" "}
        <span className="text-lead text-ink-2">of {d.of} mistakes come to no harm</span>
      </p>
      <div className="mt-2 flex h-2 gap-px" role="img" aria-label={parts.map((p) => `${p.n} ${p.name}`).join(", ")}>
        {parts.map((p) => p.n > 0 && <span key={p.name} className={p.tone} style={{ flexGrow: p.n }} />)}
      </div>
      {d.part && <p className="mt-2">The page has so many that only the first of them were made in the time there is.</p>}
      <p className={`mt-2 ${d.missed ? "text-clash" : "text-ink-2"}`}>
        {d.missed
          ? `${d.missed} get${d.missed === 1 ? "s" : ""} through that a page needs to catch.`
          : needed.length > 0
            ? `All that a page needs to catch is caught: ${needed.map((f) => f.name.toLowerCase()).join("; ")}.`
            : "The house asks a page to catch none of these kinds."}
      </p>
    </>
  );
}

/** Settle offers the looks that catch all that a page needs to catch, in one go. */
function Settle({ settled, missed, onTake }: { settled: S["DrillSettled"]; missed: number; onTake?: () => void }) {
  const n = settled.mends.length;
  const rest = settled.left.length;
  if (n === 0)
    return <p className="mt-1 text-ink-2">No look that could be added was found to catch {missed === 1 ? "it" : "them"}.</p>;
  return (
    <div className="mt-2 flex flex-wrap items-center gap-x-3 gap-y-1.5">
      <p>
        {n === 1 ? "One look that is added catches" : `${n} looks that are added catch`}{" "}
        {rest > 0 ? `${missed - rest} of them` : missed === 1 ? "it" : "all of them"}
        {n > 1 &&
          (settled.atLeast === n
            ? "; no fewer of those that were tried do"
            : settled.atLeast > 1
              ? `; at least ${settled.atLeast} are needed`
              : "")}
        .
      </p>
      {onTake && (
        <button type="button" className="button" onClick={onTake}>
          {n === 1 ? "Put it in" : n === 2 ? "Put both in" : `Put all ${n} in`}
        </button>
      )}
    </div>
  );
}

/** One is a mistake with all that comes of it, and the looks that would show it. */
function One({
  m,
  revision,
  family,
  mends,
  busy,
  editable,
  onTake,
  version,
  played,
  onKept,
}: {
  m: Mistake;
  version: number;
  /** somebody chose it, and its film plays */
  played: boolean;
  onKept: () => void;
  revision: number;
  family?: S["DrillFamily"];
  mends?: S["Mend"][];
  busy: boolean;
  editable: boolean;
  onTake: (i: number) => void;
}) {
  const link = (step: string, n: number) => (
    <Link to="/revisions/$revision" params={{ revision: String(revision) }} search={{ step }} className="link">
      step {n}
    </Link>
  );
  return (
    <section className="mt-4 border border-rule bg-(--white) px-3.5 py-3" aria-live="polite">
      <h2 className="text-body">{cap(m.what)}</h2>
      <Film key={m.id} revision={revision} version={version} m={m} play={played} />
      <dl className="mt-2 grid grid-cols-[96px_minmax(0,1fr)] gap-x-3 gap-y-1">
        <dt className="text-ink-2">Made at</dt>
        <dd>{link(m.madeAt, m.number)}</dd>
        {m.size && (
          <>
            <dt className="text-ink-2">Size</dt>
            <dd className="font-mono">{m.size}</dd>
          </>
        )}
        <dt className="text-ink-2">It is</dt>
        <dd className={m.good ? "" : "font-[650] text-clash"}>{outcomeWords(m, true)}</dd>
        {m.outcome !== "absorbed" && m.outcome !== "stopped" && (
          <>
            <dt className="text-ink-2">If unnoticed</dt>
            <dd>{m.consequence}</dd>
          </>
        )}
        {m.on && (
          <>
            <dt className="text-ink-2">There</dt>
            <dd>{m.on}; elsewhere it is noticed, or not made</dd>
          </>
        )}
        {m.why && (
          <>
            <dt className="text-ink-2">Because</dt>
            <dd>{m.why}</dd>
          </>
        )}
        <dt className="text-ink-2">Risk</dt>
        <dd title="Severity × occurrence × detection, each from 1 to 10; how often it is made is said in the house rules">
          {m.risk}{" "}
          <span className="text-ink-2">
            severity {m.severity}, occurrence {m.occurrence}, detection {m.detection}
          </span>
        </dd>
      </dl>
      {m.seen.length > 0 && (
        <ul className="mt-2.5 border-t border-rule pt-1.5">
          {m.seen.map((l) => (
            <li key={l.step} className="grid grid-cols-[72px_minmax(0,1fr)] gap-x-3 py-0.5 text-small">
              <span>{link(l.step, l.number)}</span>
              <span>
                {!l.sure && <span className="text-ink-2">perhaps: </span>}
                {l.says}
              </span>
            </li>
          ))}
        </ul>
      )}
      {!m.good && (
        <div className="mt-2.5 border-t border-rule pt-2">
          {busy ? (
            <p className="text-ink-2">Trying what would catch it…</p>
          ) : mends && mends.length > 0 ? (
            <>
              <p className="font-[650]">Would catch it</p>
              {mends.map((v, i) => (
                <p key={v.label} className="mt-1 flex items-baseline gap-2">
                  <span>{v.label}</span>
                  {editable && (
                    <button type="button" className="button ml-auto flex-none" onClick={() => onTake(i)}>
                      Put that in {i === 0 && <span className="key">M</span>}
                    </button>
                  )}
                </p>
              ))}
            </>
          ) : (
            <p className="text-small text-ink-2">No look that could be added was found to catch it.</p>
          )}
        </div>
      )}
      <Pair key={`pair ${m.id}`} m={m} revision={revision} version={version} editable={editable} onPrinted={onKept} />
      {(m.accepted || (!m.good && editable)) && (
        <Keep
          key={`keep ${m.id}`}
          m={m}
          family={family}
          revision={revision}
          version={version}
          editable={editable}
          onKept={onKept}
        />
      )}
      {family && (
        <p className="mt-2.5 border-t border-rule pt-1.5 text-small text-ink-2">
          {family.name}: {family.doc}.{" "}
          <Link to="/house" className="link">
            House rules
          </Link>{" "}
          say how often and how large it is made.
        </p>
      )}
    </section>
  );
}
