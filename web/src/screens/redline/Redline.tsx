import { useQuery } from "@tanstack/react-query";
import { Link, useNavigate, useParams } from "@tanstack/react-router";
import { type ReactNode, useCallback, useEffect, useMemo, useRef, useState } from "react";
import type { S } from "../../api/client";
import { redline, whoAmI } from "../../api/queries";
import { useActions } from "../../shell/actions";
import { useAddress } from "../../shell/address";
import { KeyMap } from "../../shell/KeyMap";
import { mute } from "../../shell/keys";
import { TitleBlock } from "../../shell/TitleBlock";
import { Trouble, Waiting } from "../../shell/Trouble";
import { useClose } from "../../shell/useClose";
import { useTitle } from "../../shell/useTitle";

type Row = S["RedlineRow"];
type Part = S["RedlinePart"];

const keys = [
  ["J K", "Next or previous change"],
  ["Enter", "To the step on the page"],
  ["F", "Fold the steps that are the same, or show them"],
  ["Ctrl K", "Find or do"],
  ["?", "This map"],
];

/** Redline is what lies between an earlier revision and this one, by meaning. */
export function Redline() {
  const id = Number(useParams({ from: "/inside/revisions/$revision/redline" }).revision);
  const [against, setAgainst] = useAddress<number>("against", 0);
  const { data, error, refetch } = useQuery(redline(id, against));
  const { data: me } = useQuery(whoAmI);
  const close = useClose(id, data?.meta.version);
  const navigate = useNavigate();
  const [at, setAt] = useState(-1);
  const [all, setAll] = useState(false);
  const [map, setMap] = useState(false);
  useTitle(data && `Redline, ${data.meta.title}, ${data.meta.engine}, revision ${data.meta.number}`);
  const changed = useMemo(() => data?.redline.rows.filter((r) => r.kind !== "same") ?? [], [data]);
  const met = changed[at]?.step;
  const list = useRef<HTMLOListElement>(null);
  const walk = useCallback(
    (by: number) => {
      if (changed.length === 0) return;
      const to = ((at < 0 && by < 0 ? 0 : at) + by + changed.length) % changed.length; // from nowhere, back is the last
      setAt(to);
      requestAnimationFrame(() => {
        const el = list.current?.querySelector<HTMLElement>(`[data-step="${CSS.escape(changed[to].step)}"]`);
        el?.focus({ preventScroll: true });
        el?.scrollIntoView({ block: "nearest" });
      });
    },
    [at, changed],
  );
  useEffect(() => {
    const onKey = (e: KeyboardEvent) => {
      const t = e.target as HTMLElement;
      if (t.closest?.("input, textarea, select, [role=dialog], [role=menu]") || e.ctrlKey || e.metaKey || e.altKey || mute(e))
        return;
      const k = e.key.toLowerCase();
      if (k === "j" || e.key === "ArrowDown") walk(1);
      else if (k === "k" || e.key === "ArrowUp") walk(-1);
      else if (k === "f") setAll((v) => !v);
      else if (e.key === "?") setMap(true);
      else if (e.key === "Enter" && met && changed[at].now && !t.closest?.("button, a"))
        navigate({ to: "/revisions/$revision", params: { revision: String(id) }, search: { step: met } });
      else return;
      e.preventDefault();
    };
    window.addEventListener("keydown", onKey);
    return () => window.removeEventListener("keydown", onKey);
  }, [walk, met, changed, at, id, navigate]);
  useActions(
    useMemo(
      () => [
        { name: "Next change", keys: "J", group: "Redline", run: () => walk(1) },
        { name: "Previous change", keys: "K", group: "Redline", run: () => walk(-1) },
        {
          name: all ? "Fold the steps that are the same" : "Show the steps that are the same",
          keys: "F",
          group: "Redline",
          run: () => setAll(!all),
        },
        { name: "Keys", keys: "?", run: () => setMap(true) },
      ],
      [walk, all],
    ),
  );
  if (error) return <Trouble error={error} again={refetch} />;
  if (!data) return <Waiting />;
  const r = data.redline;
  const others = data.meta.siblings.filter((s) => s.id !== data.meta.id);
  return (
    <main id="main" className="flex h-full flex-col">
      <TitleBlock
        meta={data.meta}
        onClose={close}
        onRead={refetch}
        on="redline"
        writes={!!me?.writes}
        right={
          <>
            {data.against && (
              <label className="flex items-center gap-1.5">
                against
                <select
                  className="field !min-h-[24px] !w-auto !py-0"
                  value={data.against.id}
                  onChange={(e) => {
                    setAgainst(Number(e.target.value));
                    setAt(-1);
                  }}
                >
                  {others.map((s) => (
                    <option key={s.id} value={s.id}>
                      revision {s.number}, {s.state}
                    </option>
                  ))}
                </select>
              </label>
            )}
            <button type="button" className="button quiet !min-h-[22px]" onClick={() => setMap(true)}>
              Keys
            </button>
          </>
        }
      />
      <KeyMap keys={keys} open={map} onOpenChange={setMap} />
      <div className="scroller min-h-0 flex-1 overflow-auto">
        <div className="mx-auto grid max-w-[1240px] gap-x-8 px-6 py-5 lg:grid-cols-[minmax(0,1fr)_300px] max-md:px-3">
          <div>
            <h2 className="text-title">{says(data, changed.length)}</h2>
            {data.against && changed.length > 0 && <p className="mt-0.5 text-ink-2">{weighed(r)}</p>}
            {r.header.length > 0 && (
              <Section name="Title and preparation">
                {r.header.map((p) => (
                  <Change key={p.what} part={p} />
                ))}
              </Section>
            )}
            {r.rows.length > 0 && data.against && (
              <Section
                name="Steps"
                right={
                  <button type="button" className="button quiet !min-h-[22px]" aria-pressed={all} onClick={() => setAll(!all)}>
                    {all ? "Fold the same" : "Show the same"}
                  </button>
                }
              >
                <ol ref={list} aria-label="Steps that differ">
                  {folded(r.rows, all).map((row) =>
                    typeof row === "number" ? (
                      <li key={`same ${row}`} className="border-b border-rule py-1 pl-[86px] text-small text-ink-2">
                        {r.rows[row].now === lastOf(r.rows, row)
                          ? `step ${r.rows[row].now} the same`
                          : `steps ${r.rows[row].now} to ${lastOf(r.rows, row)} the same`}
                      </li>
                    ) : (
                      <StepRow
                        key={row.step}
                        row={row}
                        on={row.step === met}
                        revision={id}
                        onMeet={() => setAt(changed.findIndex((c) => c.step === row.step))}
                      />
                    ),
                  )}
                </ol>
              </Section>
            )}
          </div>
          <aside className="max-lg:mt-6">
            <Told name="New findings" list={data.new} none="Nothing new is found." bad />
            <Told name="Settled" list={data.settled} none="No finding went away." />
            {r.lists.length > 0 && (
              <Section name="Tools and parts">
                {r.lists.map((p) => (
                  <Change key={p.what} part={p} />
                ))}
              </Section>
            )}
            {r.sheet.length > 0 && (
              <Section name="Engine sheet behind the page">
                {r.sheet.map((p) => (
                  <Change key={p.what} part={p} />
                ))}
              </Section>
            )}
          </aside>
        </div>
      </div>
    </main>
  );
}

/** says answers the first question: how much has changed since. */
function says(data: S["Redlined"], n: number) {
  if (!data.against) return "The first revision: nothing stands before it";
  const since = `since revision ${data.against.number}`;
  if (n === 0 && data.redline.header.length + data.redline.sheet.length === 0) return `Nothing differs ${since}`;
  return n === 0 ? `No step differs ${since}` : `${n} step${n === 1 ? "" : "s"} differ${n === 1 ? "s" : ""} ${since}`;
}

/** weighed counts the changes by their weight. */
function weighed(r: S["Redline"]) {
  const n: Record<string, number> = {};
  for (const p of [...r.header, ...r.sheet, ...r.rows.flatMap((w) => w.parts ?? [])]) n[p.weight] = (n[p.weight] ?? 0) + 1;
  const words: [string, string, string][] = [
    ["value", "change of a value", "changes of values"],
    ["order", "of the order", "of the order"],
    ["wording", "of wording", "of wording"],
  ];
  return words
    .filter(([w]) => n[w])
    .map(([w, one, many]) => `${n[w]} ${n[w] === 1 ? one : many}`)
    .join(", ");
}

/** folded are the rows with runs of those that are the same as one place. */
function folded(rows: Row[], all: boolean): (Row | number)[] {
  if (all) return rows;
  return rows.flatMap<Row | number>((r, i) => (r.kind !== "same" ? [r] : rows[i - 1]?.kind === "same" ? [] : [i]));
}

function lastOf(rows: Row[], from: number) {
  let i = from;
  while (rows[i + 1]?.kind === "same") i++;
  return rows[i].now;
}

const signs: Record<Row["kind"], [string, string]> = {
  same: ["", "the same"],
  changed: ["≠", "changed"],
  moved: ["↕", "moved"],
  new: ["+", "new"],
  gone: ["−", "gone"],
  split: ["⑂", "split"],
  joined: ["⑂", "joined"],
};

function StepRow({ row, on, revision, onMeet }: { row: Row; on: boolean; revision: number; onMeet: () => void }) {
  const [sign, word] = signs[row.kind];
  const parts = (row.parts ?? []).filter((p) => p.what !== "step" && !(p.what === "what it does" && row.words));
  const opens = [...new Set((row.parts ?? []).flatMap((p) => p.opens))];
  return (
    // biome-ignore lint/a11y/useKeyWithClickEvents: the changes are walked with J and K, see the key map
    <li
      data-step={row.step}
      data-kind={row.kind}
      data-on={on}
      tabIndex={-1}
      onClick={onMeet}
      className="redline-row grid grid-cols-[22px_64px_minmax(0,1fr)_auto] items-baseline gap-x-2 border-b border-rule px-1 py-1.5"
    >
      <span aria-hidden className="text-center font-[650]">
        {sign}
      </span>
      <span className="text-small text-ink-2">
        {row.was && row.now && row.was !== row.now ? `${row.was} → ${row.now}` : (row.now ?? row.was)}
        <span className="block text-fine">{row.kind === "same" ? "" : word}</span>
      </span>
      <span>
        {row.now ? (
          <Link
            to="/revisions/$revision"
            params={{ revision: String(revision) }}
            search={{ step: row.step }}
            className="no-underline hover:underline"
          >
            <Sentence row={row} />
          </Link>
        ) : (
          <Sentence row={row} />
        )}
        {parts.map((p) => (
          <Change key={p.what} part={p} />
        ))}
      </span>
      <span className="text-right text-fine text-ink-2">
        {opens.length > 0 && (opens.length > 3 ? "opens all latches" : `opens ${opens.join(", ")}`)}
      </span>
    </li>
  );
}

/** Sentence is the step with what went out struck through and what came in underlined. */
function Sentence({ row }: { row: Row }) {
  if (row.kind === "gone" || ((row.kind === "split" || row.kind === "joined") && !row.now)) return <del>{row.before}</del>;
  if (row.kind === "new" || ((row.kind === "split" || row.kind === "joined") && !row.was)) return <ins>{row.after}</ins>;
  if (!row.words) return <>{row.after}</>;
  return (
    <>
      {row.words.map((w, i) => (
        <span key={i}>
          {i > 0 && " "}
          {w.is === "out" ? <del>{w.text}</del> : w.is === "in" ? <ins>{w.text}</ins> : w.text}
        </span>
      ))}
    </>
  );
}

/** Change is one thing that changed, before and after. */
function Change({ part }: { part: Part }) {
  return (
    <span className="mt-0.5 block text-small">
      <span className="text-ink-2">{part.what}: </span>
      {part.before && <del>{part.before}</del>}{" "}
      {part.after ? <ins>{part.after}</ins> : <span className="text-ink-2">nothing</span>}
    </span>
  );
}

function Section({ name, right, children }: { name: string; right?: ReactNode; children: ReactNode }) {
  return (
    <section className="mt-5">
      <div className="flex items-baseline justify-between border-b border-ink pb-0.5">
        <h3 className="text-body">{name}</h3>
        {right}
      </div>
      {children}
    </section>
  );
}

function Told({ name, list, none, bad }: { name: string; list: string[]; none: string; bad?: boolean }) {
  return (
    <Section name={name}>
      {list.length === 0 ? (
        <p className="py-1 text-small text-ink-2">{none}</p>
      ) : (
        <ul>
          {list.map((s) => (
            <li key={s} className="flex gap-2 border-b border-rule py-1 text-small">
              <span aria-hidden className={bad ? "text-clash" : "text-held"}>
                {bad ? "✕" : "✓"}
              </span>
              {s}
            </li>
          ))}
        </ul>
      )}
    </Section>
  );
}
