import { keepPreviousData, useQuery, useQueryClient } from "@tanstack/react-query";
import { Link, useNavigate, useParams } from "@tanstack/react-router";
import { type ReactNode, useEffect, useRef, useState } from "react";
import { api, ask, Failure, type S } from "../../api/client";
import { copyTo, revision, someCodes } from "../../api/queries";
import { useAddress } from "../../shell/address";
import { CodePick } from "../../shell/CodePick";
import { Trouble, Waiting } from "../../shell/Trouble";
import { say } from "../../shell/toast";
import { useTitle } from "../../shell/useTitle";
import { Wrong } from "../../shell/Wrong";
import { grouped, none, type Pair, whichSteps } from "./pairs";

/** Copy takes a page over to another engine code: what it names is matched first, and what could not be is asked. */
export function Copy() {
  const id = Number(useParams({ from: "/inside/revisions/$revision/copy" }).revision);
  const [to, setTo] = useAddress<string>("to", "");
  const { data, error, refetch } = useQuery(revision(id));
  const { data: others } = useQuery(someCodes("", true));
  useTitle(data && `Copy ${data.meta.title}, ${data.meta.engine}`);
  if (error) return <Trouble error={error} again={refetch} />;
  if (!data || !others) return <Waiting />;
  const known = to !== "" && to !== data.meta.engine;
  return (
    <main id="main" className="flex h-full flex-col">
      <div className="flex flex-none flex-wrap items-end gap-x-5 gap-y-2 border-b border-ink bg-(--white) px-5 py-3">
        <div className="min-w-0">
          <p className="text-small text-ink-2">
            <Link to="/revisions/$revision" params={{ revision: String(id) }} activeOptions={{ exact: true }} className="link">
              {data.meta.engine}, revision {data.meta.number}
            </Link>
          </p>
          <h1 className="truncate text-title">Copy “{data.meta.title}”</h1>
        </div>
        <span className="flex min-w-0 items-center gap-2">
          <label htmlFor="copy-to">to</label>
          <CodePick
            id="copy-to"
            value={known ? to : ""}
            onChange={setTo}
            none="choose the code…"
            inUse
            without={data.meta.engine}
            uses
            autoFocus={!known}
          />
        </span>
      </div>
      {known ? (
        <Matching key={to} id={id} from={data} to={to} />
      ) : (
        <Empty none={others.rows.every((c) => c.code === data.meta.engine)} />
      )}
    </main>
  );
}

function Empty({ none: no }: { none: boolean }) {
  return (
    <div className="max-w-[66ch] px-5 py-5">
      {no ? (
        <p>No other code has an engine sheet in use. Put one into use first; a page is copied onto its sheet.</p>
      ) : (
        <p className="text-ink-2">
          What the page names is matched with the other engine’s sheet: what has the same name and kind by itself, the rest you
          say. Torques come from the other sheet. What stays as it was said of this engine becomes a question at its step, and
          your latch closes when you have settled them all.
        </p>
      )}
    </div>
  );
}

/** useAnswers are what somebody said of each thing, kept in the window until the copy is made. */
function useAnswers(id: number, to: string) {
  const kept = `copy ${id} ${to}`;
  const [answers, set] = useState<Record<string, string>>(() => {
    try {
      return JSON.parse(sessionStorage.getItem(kept) ?? "{}");
    } catch {
      return {};
    }
  });
  useEffect(() => {
    if (Object.keys(answers).length > 0) sessionStorage.setItem(kept, JSON.stringify(answers));
    else sessionStorage.removeItem(kept);
  }, [answers, kept]);
  const answer = (more: Record<string, string>) =>
    set((a) => Object.fromEntries(Object.entries({ ...a, ...more }).filter(([, v]) => v !== "")));
  return [answers, answer] as const;
}

function Matching({ id, from, to }: { id: number; from: S["Revision"]; to: string }) {
  const [answers, answer] = useAnswers(id, to);
  const { data, error, refetch, isPlaceholderData } = useQuery({ ...copyTo(id, to, answers), placeholderData: keepPreviousData });
  const [title, setTitle] = useState(from.meta.title);
  const first = useRef(new Map<string, Pair["how"]>());
  const [trouble, setTrouble] = useState("");
  const [busy, setBusy] = useState(false);
  const client = useQueryClient();
  const navigate = useNavigate();
  if (error) return <Trouble error={error} again={refetch} />;
  if (!data) return <Waiting />;
  const groups = grouped(data.pairs, first.current);
  const make = async () => {
    setBusy(true);
    setTrouble("");
    try {
      const c = await ask(
        api.POST("/api/revisions/{revision}/copy", { params: { path: { revision: id } }, body: { engine: to, title, answers } }),
      );
      answer(Object.fromEntries(Object.keys(answers).map((k) => [k, ""])));
      client.invalidateQueries({ queryKey: ["procedures"] });
      client.invalidateQueries({ queryKey: ["desk"] });
      say(`Copied to ${to}. ${c.asks.length > 0 ? "What has to be asked stands at the steps." : "Nothing has to be asked."}`);
      navigate({ to: "/revisions/$revision", params: { revision: String(c.revision) } });
    } catch (e) {
      setTrouble(e instanceof Failure ? e.message : "That did not work. What you said is kept.");
    } finally {
      setBusy(false);
    }
  };
  return (
    <div className="flex min-h-0 flex-1 max-lg:flex-col max-lg:overflow-auto">
      <div className="scroller min-h-0 min-w-0 flex-1 overflow-auto px-5 py-4 max-lg:flex-none max-lg:overflow-visible">
        <h2 className="text-lead">
          {data.open === 0 ? "Everything is matched" : `${data.open} of ${data.pairs.length} things are still to be matched`}
        </h2>
        <Group
          name="Not found there"
          says={`Which of ${to} is it? Steps that name what is not there are left out.`}
          pairs={groups.asked}
          to={to}
          answer={answer}
          all={{
            how: "asked",
            says: (n) => `None of these ${n} is there`,
            take: (open) => answer(Object.fromEntries(open.map((p) => [ref(p), none]))),
          }}
        />
        <Group
          name="Proposed"
          says="They sit where the other one does, or have its name and are of another kind."
          pairs={groups.proposed}
          to={to}
          answer={answer}
          all={{
            how: "proposed",
            says: (n) => `Take all ${n}`,
            take: (open) => answer(Object.fromEntries(open.map((p) => [ref(p), p.to ?? ""]))),
          }}
        />
        {groups.same.length > 0 && (
          <details className="mt-5" open={groups.asked.length + groups.proposed.length === 0}>
            <summary className="cursor-pointer border-b border-ink pb-0.5">
              <b className="font-[650]">The same name and kind</b> <span className="text-ink-2">{groups.same.length}</span>
            </summary>
            <Rows pairs={groups.same} to={to} answer={answer} />
          </details>
        )}
      </div>
      <aside
        aria-label="What comes of it"
        className={`scroller w-[420px] flex-none overflow-auto border-l border-rule bg-film px-4 py-3.5 max-lg:w-full max-lg:overflow-visible max-lg:border-t max-lg:border-l-0 ${isPlaceholderData ? "opacity-60" : ""}`}
      >
        <h2 className="text-lead">
          {data.steps} of {data.steps + data.left.length} steps
        </h2>
        <p className="text-ink-2" role="status">
          {data.findings === 0
            ? "The virtual engine finds nothing in its way."
            : `${data.findings} finding${data.findings === 1 ? "" : "s"} on ${to} as it stands${data.blocking ? `, ${data.blocking} block release` : ""}.`}
        </p>
        <label className="label mt-3" htmlFor="copy-title">
          Title of the copy
        </label>
        <input id="copy-title" className="field" maxLength={300} value={title} onChange={(e) => setTitle(e.target.value)} />
        <Wrong says={trouble} />
        <button type="button" className="button solid mt-2.5" disabled={busy || data.open > 0} onClick={make}>
          Copy to {to}
        </button>
        {data.open > 0 && <span className="ml-2.5 text-small text-ink-2">when everything is matched</span>}
        <Notes name="Left out" notes={data.left}>
          {(n) => (
            <>
              {n.says}
              <span className="block text-ink-2">{n.why}</span>
            </>
          )}
        </Notes>
        <Notes name={`From the sheet of ${to}`} notes={data.taken}>
          {(n) => n.says}
        </Notes>
        <Notes name="Becomes a question" notes={data.asks}>
          {(n) => n.says}
        </Notes>
      </aside>
    </div>
  );
}

const ref = (p: Pair) => `${p.list}/${p.id}`;

type Answer = (more: Record<string, string>) => void;

function Group({
  name,
  says,
  pairs,
  to,
  answer,
  all,
}: {
  name: string;
  says: string;
  pairs: Pair[];
  to: string;
  answer: Answer;
  /** what can be said of all at once that are still to be said */
  all: { how: Pair["how"]; says: (n: number) => string; take: (open: Pair[]) => void };
}) {
  if (pairs.length === 0) return null;
  const open = pairs.filter((p) => p.how === all.how);
  return (
    <section className="mt-4" aria-label={name}>
      <div className="flex items-baseline gap-3 border-b border-ink pb-0.5 max-md:flex-wrap max-md:gap-y-0">
        <h3 className="flex-none text-body">
          {name} <span className="font-normal text-ink-2">{pairs.length}</span>
        </h3>
        <span className="min-w-0 truncate text-small text-ink-2">{says}</span>
        {open.length > 1 && (
          <button type="button" className="button quiet ml-auto slim flex-none" onClick={() => all.take(open)}>
            {all.says(open.length)}
          </button>
        )}
      </div>
      <Rows pairs={pairs} to={to} answer={answer} />
    </section>
  );
}

function Rows({ pairs, to, answer }: { pairs: Pair[]; to: string; answer: Answer }) {
  return (
    <ul>
      {pairs.map((p) => (
        <Row key={ref(p)} p={p} to={to} answer={answer} />
      ))}
    </ul>
  );
}

const kinds: Record<string, string> = {
  locks: "lock",
  parts: "part",
  fasteners: "fastener",
  loops: "belt or chain",
  wheels: "wheel",
  marks: "mark",
  tensioners: "tensioner",
  shafts: "shaft",
  fluids: "fluid",
  tools: "tool",
  options: "option",
};

function Row({ p, to, answer }: { p: Pair; to: string; answer: Answer }) {
  const said = p.how === "said";
  const gone = said && p.to === none;
  return (
    <li
      data-how={p.how}
      className="grid grid-cols-[minmax(0,5fr)_minmax(0,6fr)_auto] items-start gap-x-4 border-b border-rule py-1.5 max-md:grid-cols-1 max-md:gap-y-1"
    >
      <span>
        <b className="font-[650]">{p.name}</b> <span className="text-small text-ink-2">{kinds[p.list]}</span>
        <span className="block text-small text-ink-2">{whichSteps(p.steps)}</span>
      </span>
      <span>
        <select
          className={`field ${p.how === "asked" ? "text-clash" : ""}`}
          aria-label={`${p.name} on ${to}`}
          value={p.to ?? ""}
          onChange={(e) => answer({ [ref(p)]: e.target.value })}
        >
          {(!p.to || said) && <option value="">{said ? "ask again" : "choose…"}</option>}
          <option value={none}>{to} has no such thing</option>
          {p.others.map((o) => (
            <option key={o.id} value={o.id}>
              {o.name}
            </option>
          ))}
        </select>
        {p.how === "proposed" && <span className="mt-0.5 block text-small text-ink-2">{p.why}</span>}
        {gone && <span className="mt-0.5 block text-small text-ink-2">What names it is left out.</span>}
        {p.apart.length > 0 && !gone && (
          <span className="mt-0.5 block text-small">
            {p.apart.map((a) => (
              <span key={a} className="block">
                <span aria-hidden className="mr-1 text-paint-edge">
                  △
                </span>
                {a}
              </span>
            ))}
          </span>
        )}
      </span>
      <span className="min-w-[52px] text-right max-md:text-left">
        {p.how === "proposed" ? (
          <button type="button" className="button" onClick={() => answer({ [ref(p)]: p.to ?? "" })}>
            Yes
          </button>
        ) : (
          <span className={`text-small ${p.how === "asked" ? "text-clash" : "text-held"}`}>{p.how === "asked" ? "" : "✓"}</span>
        )}
      </span>
    </li>
  );
}

function Notes({ name, notes, children }: { name: string; notes: S["CopyNote"][]; children: (n: S["CopyNote"]) => ReactNode }) {
  if (notes.length === 0) return null;
  return (
    <section className="mt-5" aria-label={name}>
      <h3 className="border-b border-ink pb-0.5 text-body">
        {name} <span className="font-normal text-ink-2">{notes.length}</span>
      </h3>
      <ul>
        {notes.map((n, i) => (
          <li key={i} className="grid grid-cols-[44px_minmax(0,1fr)] border-b border-rule py-1 text-small">
            <span className="text-ink-2">{n.number ?? "page"}</span>
            <span>{children(n)}</span>
          </li>
        ))}
      </ul>
    </section>
  );
}
