import { useQuery } from "@tanstack/react-query";
import { Link } from "@tanstack/react-router";
import { type FormEvent, useState } from "react";
import { api, ask, type S } from "../../api/client";
import { say } from "../../shell/toast";
import { type Rules, sorted } from "./rules";

interface PlanProps {
  h: S["HouseRules"];
  rules: Rules;
  /** over is the version that held when the first change was made */
  over: number;
  changed: boolean;
  changes: string[] | undefined;
  refused?: string;
  onUndo: () => void;
  onDrop: () => void;
  onSaved: (version: number) => void;
}

/** Plan is what somebody changed, all pages held against it, and saving it. */
export function Plan({ h, rules, over, changed, changes, refused, onUndo, onDrop, onSaved }: PlanProps) {
  const [trial, setTrial] = useState<{ id: number; of: string }>();
  const [why, setWhy] = useState("");
  const [busy, setBusy] = useState(false);
  const { data: tried } = useQuery({
    queryKey: ["house", "trial", trial?.id],
    queryFn: () => ask(api.GET("/api/house/trials/{trial}", { params: { path: { trial: trial?.id ?? 0 } } })),
    enabled: !!trial,
    refetchInterval: (q) => (q.state.data?.state === "running" ? 400 : false),
  });
  const is = JSON.stringify(rules);
  const fresh = trial?.of === is;
  const done = tried && tried.state !== "running";
  const begin = async () => {
    setBusy(true);
    try {
      const t = await ask(api.POST("/api/house/trials", { body: { rules } }));
      setTrial({ id: t.id, of: is });
    } catch (e) {
      say((e as Error).message);
    }
    setBusy(false);
  };
  const stop = async () => {
    if (trial)
      await ask(api.DELETE("/api/house/trials/{trial}", { params: { path: { trial: trial.id } } })).catch(() => undefined);
    setTrial(undefined);
  };
  const save = async (e: FormEvent) => {
    e.preventDefault();
    setBusy(true);
    try {
      const v = await ask(api.PUT("/api/house", { body: { rules, over, why: why.trim() } }));
      setTrial(undefined);
      setWhy("");
      onSaved(v.version);
    } catch (e) {
      say((e as Error).message);
    }
    setBusy(false);
  };
  if (!changed || (changes?.length === 0 && !refused))
    return (
      <section>
        <h2 className="house-heading">What you changed</h2>
        <p className="text-ink-2">
          Nothing yet. Choose otherwise anywhere: nothing holds before it is saved, and first you see what it does to every page.
        </p>
        <BesidePage rules={rules} same />
      </section>
    );
  return (
    <section aria-live="polite">
      <h2 className="house-heading">What you changed</h2>
      {over !== h.version && (
        <p className="mb-1 text-clash">
          Somebody saved version {h.version} since you began. Take yours back, look at theirs, and choose again.
        </p>
      )}
      {refused ? (
        <p className="text-clash">{refused}</p>
      ) : (
        <ul>
          {changes?.map((c) => (
            <li key={c} className="border-b border-rule py-1">
              {c}
            </li>
          ))}
        </ul>
      )}
      <p className="mt-1.5 flex gap-1">
        <button type="button" className="button quiet slim -ml-2" onClick={onUndo}>
          Take the last back <span className="key">Ctrl Z</span>
        </button>
        <button type="button" className="button quiet slim" onClick={onDrop}>
          Take all back
        </button>
      </p>
      {!trial && (
        <button type="button" className="button solid mt-2" disabled={busy || !!refused || over !== h.version} onClick={begin}>
          See what it does to every page
        </button>
      )}
      {trial && tried && (
        <>
          <div className="mt-2 flex items-baseline gap-2">
            <span role="status" className="flex-1">
              {done
                ? tried.state === "done"
                  ? `${tried.total} pages were held against it.`
                  : "It was stopped."
                : tried.stuck
                  ? "Nobody works at it any more."
                  : `${tried.done} of ${tried.total} pages…`}
            </span>
            {!done && (
              <button type="button" className="button quiet slim" onClick={stop}>
                Stop
              </button>
            )}
            {(!fresh || tried.stuck) && (
              <button type="button" className="button slim" disabled={busy || !!refused} onClick={begin}>
                Again
              </button>
            )}
          </div>
          <progress
            className="house-progress"
            max={Math.max(tried.total, 1)}
            value={tried.done}
            aria-label="Pages held against the rules"
          />
          {!fresh && <p className="mt-1 text-small text-clash">You have changed something since. This is of the rules before.</p>}
          <Rows rows={tried.rows} done={!!done} />
        </>
      )}
      {trial && (done || tried?.stuck) && fresh && (
        <form className="mt-3 border-t border-ink pt-2" onSubmit={save}>
          <label className="block font-[650]" htmlFor="house-why">
            Why
          </label>
          <textarea
            id="house-why"
            className="field mt-1 w-full"
            rows={2}
            maxLength={2000}
            required
            value={why}
            placeholder="Whoever finds a page doubted reads it"
            onChange={(e) => setWhy(e.target.value)}
          />
          <button type="submit" className="button solid mt-1.5" disabled={busy || !why.trim()}>
            Save: they hold from now on
          </button>
        </form>
      )}
      <BesidePage rules={rules} />
    </section>
  );
}

/** Rows are the pages for which rules make a difference, those newly blocked first. */
function Rows({ rows, done }: { rows: S["HouseTrialRow"][]; done: boolean }) {
  const s = sorted(rows);
  if (rows.length === 0) return done ? <p className="mt-1 text-ink-2">No page is found otherwise.</p> : null;
  return (
    <>
      <Group name="Newly blocked" rows={s.worse} tone="text-clash" />
      <Group name="Less is blocked" rows={s.better} tone="text-held" />
      <Group name="Found otherwise" rows={s.rest} tone="" />
    </>
  );
}

function Group({ name, rows, tone }: { name: string; rows: S["HouseTrialRow"][]; tone: string }) {
  if (rows.length === 0) return null;
  return (
    <>
      <h3 className={`mt-2.5 text-body ${tone}`}>
        {name} <span className="font-normal">{rows.length}</span>
      </h3>
      <ul>
        {rows.map((r) => (
          <li key={r.revision} className="border-b border-rule py-1">
            <details>
              <summary className="cursor-default">
                <Link to="/revisions/$revision" params={{ revision: String(r.revision) }} className="link">
                  {r.title}
                </Link>{" "}
                <span className="text-ink-2">
                  {r.engine}, {r.number}, {r.state === "latched" ? "released" : r.state}
                </span>
                <span className="block text-small">
                  <Counts r={r} />
                </span>
              </summary>
              <Says r={r} />
            </details>
          </li>
        ))}
      </ul>
    </>
  );
}

function Counts({ r }: { r: S["HouseTrialRow"] }) {
  const out: string[] = [];
  if (r.blocks !== r.blocked) out.push(`${r.blocked} → ${r.blocks} block${r.blocks === 1 ? "s" : ""}`);
  if (r.misses !== r.missed) out.push(`${r.missed} → ${r.misses} missed`);
  if (r.wants.length) out.push(`needs the ${r.wants.join(" and ")} latch`);
  if (r.spares.length) out.push(`needs no ${r.spares.join(" and ")} latch`);
  const findings = (n: number, more: string) => `${n} finding${n === 1 ? "" : "s"} ${more}`;
  if (out.length === 0 && r.new.length) out.push(findings(r.new.length, "more"));
  if (out.length === 0 || (out.length === 1 && r.blocks === r.blocked && r.gone.length))
    out.push(findings(r.gone.length, "less"));
  return <>{out.join(", ")}</>;
}

function Says({ r }: { r: S["HouseTrialRow"] }) {
  return (
    <ul className="mt-1 text-small">
      {r.new.map((v) => (
        <li key={`+${v}`} className="pl-3 -indent-3">
          + {v}
        </li>
      ))}
      {r.gone.map((v) => (
        <li key={`-${v}`} className="pl-3 -indent-3 text-ink-2">
          − {v}
        </li>
      ))}
    </ul>
  );
}

/** BesidePage is one page under the rules that hold and under those somebody thinks of. */
function BesidePage({ rules, same = false }: { rules: Rules; same?: boolean }) {
  const [revision, setRevision] = useState(0);
  const { data: pages } = useQuery({
    queryKey: ["procedures", "beside"],
    queryFn: () => ask(api.GET("/api/procedures", { params: { query: { limit: 200 } } })),
    staleTime: 60_000,
  });
  const { data, error } = useQuery({
    queryKey: ["house", "beside", revision, rules],
    queryFn: () => ask(api.POST("/api/house/beside", { body: { rules, revision } })),
    enabled: revision > 0 && !same,
    retry: false,
    placeholderData: (was) => was,
  });
  return (
    <div className="mt-5">
      <h2 className="house-heading">One page under both</h2>
      <select className="field" aria-label="A page" value={revision} onChange={(e) => setRevision(Number(e.target.value))}>
        <option value={0}>Choose a page</option>
        {pages?.rows.map((p) => (
          <option key={p.revision} value={p.revision}>
            {p.engine}: {p.title}, {p.number}
          </option>
        ))}
      </select>
      {revision > 0 && same && <p className="mt-1 text-ink-2">Choose another school, and it stands here under both.</p>}
      {revision > 0 && !same && error && <p className="mt-1 text-clash">{error.message}</p>}
      {revision > 0 && !same && data && (
        <>
          <table className="house-table mt-1.5">
            <thead>
              <tr>
                <td />
                <th scope="col">Holds now</th>
                <th scope="col">With yours</th>
              </tr>
            </thead>
            <tbody>
              <tr>
                <th scope="row">Findings that block</th>
                <td>{data.blocked}</td>
                <td className={data.blocks > data.blocked ? "font-[650] text-clash" : undefined}>{data.blocks}</td>
              </tr>
              {(data.missed > 0 || data.misses > 0) && (
                <tr>
                  <th scope="row">Mistakes missed</th>
                  <td>{data.missed}</td>
                  <td className={data.misses > data.missed ? "font-[650] text-clash" : undefined}>{data.misses}</td>
                </tr>
              )}
            </tbody>
          </table>
          {data.new.length + data.gone.length + data.wants.length + data.spares.length === 0 ? (
            <p className="mt-1 text-ink-2">It is the same under both.</p>
          ) : (
            <>
              {(data.wants.length > 0 || data.spares.length > 0) && (
                <p className="mt-1 text-small">
                  <Counts r={data} />
                </p>
              )}
              <Says r={data} />
            </>
          )}
        </>
      )}
    </div>
  );
}
