import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { Link } from "@tanstack/react-router";
import { useDeferredValue, useState } from "react";
import type { S } from "../../api/client";
import { whereUsed, whoAmI } from "../../api/queries";
import { useAddress } from "../../shell/address";
import { CodeField } from "../../shell/CodeField";
import { stateWord } from "../../shell/states";
import { Trouble } from "../../shell/Trouble";
import { useTitle } from "../../shell/useTitle";

const kinds = [
  ["", "anything"],
  ["tool", "tools"],
  ["part", "parts, belts and chains"],
  ["fastener", "fasteners"],
  ["value", "torques and angles"],
  ["lock", "locks"],
  ["mark", "marks"],
  ["other", "wheels, shafts and fluids"],
  ["words", "words of a sentence"],
] as const;

/** Where finds where a thing, a value or words are used: in which steps of which procedures, and on which engine sheets. */
export function Where() {
  const [q, setQ] = useAddress<string>("q", "");
  const [kind, setKind] = useAddress<string>("kind", "");
  const [engine, setEngine] = useAddress<string>("engine", "");
  const [text, setText] = useState(q);
  const asked = useDeferredValue(q.trim());
  const { data: me } = useQuery(whoAmI);
  const { data, error, refetch } = useQuery({
    ...whereUsed(asked, kind, engine),
    enabled: asked !== "",
    placeholderData: keepPreviousData,
  });
  useTitle(q ? `Where ${q} is used` : "Where used");
  if (error) return <Trouble error={error} again={refetch} />;
  const shown = asked === "" ? undefined : data;
  return (
    <main id="main" className="scroller h-full overflow-auto">
      <div className="mx-auto max-w-[1120px] px-6 py-6 max-md:px-3">
        <h1 className="text-title">Where used</h1>
        <div className="mt-3 flex flex-wrap items-end gap-3">
          <label className="min-w-[260px] flex-1">
            <span className="label">A tool, part, fastener, torque, lock, mark, or words</span>
            <input
              type="search"
              className="field"
              autoFocus
              value={text}
              maxLength={200}
              placeholder="e.g. TL-101, idler bolt, 39 N·m"
              onChange={(e) => {
                setText(e.target.value);
                setQ(e.target.value);
              }}
            />
          </label>
          <label>
            <span className="label">Among</span>
            <select className="field !w-auto" value={kind} onChange={(e) => setKind(e.target.value)}>
              {kinds.map(([k, n]) => (
                <option key={k} value={k}>
                  {n}
                </option>
              ))}
            </select>
          </label>
          <CodeField code={engine} onCode={setEngine} />
        </div>
        <p role="status" className="mt-3 flex min-h-5 items-baseline gap-4 text-ink-2">
          {shown && says(shown)}
          {shown && shown.places > 0 && me?.writes && (
            <Link to="/change" search={{ from: asked, ...(engine ? { engine } : {}) }} className="link">
              Change it everywhere…
            </Link>
          )}
        </p>
        {!shown && (
          <p className="mt-2 max-w-[62ch] text-ink-2">
            A name or a number is found from its beginning, words wherever they stand. Pages that are being written and those that
            hold are looked through, and the engine sheets in use.
          </p>
        )}
        {shown?.pages.map((p) => (
          <Page key={`${p.revision} ${p.engine} ${p.number}`} p={p} />
        ))}
      </div>
    </main>
  );
}

/** says answers the first question: how often, and where. */
function says(w: S["WhereUsed"]) {
  if (w.places === 0) return "It is used nowhere. A name is found from its beginning: try fewer letters.";
  const pages = w.pages.filter((p) => p.revision).length;
  const sheets = w.pages.length - pages;
  const on = [
    pages > 0 && `${pages} procedure${pages === 1 ? "" : "s"}`,
    sheets > 0 && `${sheets} engine sheet${sheets === 1 ? "" : "s"}`,
  ]
    .filter(Boolean)
    .join(" and ");
  if (w.more) return `More than ${w.places} places; the first are shown. Say more of it, or choose a code.`;
  return `${w.places} place${w.places === 1 ? "" : "s"} on ${on}`;
}

/** the places of one page that are shown unasked */
const most = 8;

function Page({ p }: { p: S["UsedOn"] }) {
  const [all, setAll] = useState(false);
  const places = all ? p.places : p.places.slice(0, most);
  return (
    <section className="mt-5">
      <h2 className="flex flex-wrap items-baseline gap-x-2 border-b border-ink pb-0.5 text-body">
        <span className="font-normal text-ink-2">{p.engine}</span>
        {p.revision ? (
          <Link to="/revisions/$revision" params={{ revision: String(p.revision) }} className="no-underline hover:underline">
            {p.title} {p.number}
          </Link>
        ) : (
          <Link to="/engines/$code" params={{ code: p.engine }} className="no-underline hover:underline">
            Engine sheet {p.number}
          </Link>
        )}
        <span className="font-normal text-ink-2">{stateWord(p.state)}</span>
        <span className="ml-auto text-small font-normal text-ink-2">
          {p.places.length} place{p.places.length === 1 ? "" : "s"}
        </span>
      </h2>
      <ul>
        {places.map((u, i) => (
          <li key={i} className="grid grid-cols-[170px_minmax(0,1fr)] gap-x-3 border-b border-rule py-1 max-md:grid-cols-1">
            <span className="truncate text-small text-ink-2">{u.terms.join(", ")}</span>
            {p.revision && u.step ? (
              <Link
                to="/revisions/$revision"
                params={{ revision: String(p.revision) }}
                search={{ step: u.step }}
                className="no-underline hover:underline"
              >
                {u.said}
              </Link>
            ) : (
              <span>{u.said}</span>
            )}
          </li>
        ))}
      </ul>
      {p.places.length > most && !all && (
        <button type="button" className="button quiet mt-1 !px-0" onClick={() => setAll(true)}>
          {p.places.length - most} more
        </button>
      )}
    </section>
  );
}
