import { useQuery, useQueryClient } from "@tanstack/react-query";
import { Link } from "@tanstack/react-router";
import { useCallback, useEffect, useMemo, useRef, useState } from "react";
import { api, ask, Failure, type S } from "../../api/client";
import { changePlan } from "../../api/queries";
import { useAddress } from "../../shell/address";
import { CodeField } from "../../shell/CodeField";
import { stateWord } from "../../shell/states";
import { useTitle } from "../../shell/useTitle";
import { Worded } from "../../shell/Worded";
import { Wrong } from "../../shell/Wrong";
import { bodyOf, type Chosen, counted, keyOf, type Page, toggled } from "./places";

/** Change changes one term or value wherever it stands, each place seen before it is made, as drafts. */
export function Change() {
  const [from, setFrom] = useAddress<string>("from", "");
  const [to, setTo] = useAddress<string>("to", "");
  const [engine, setEngine] = useAddress<string>("engine", "");
  const [asked, setAsked] = useState<{ from: string; to: string; engine: string } | undefined>(
    from && to ? { from, to, engine } : undefined,
  );
  const { data, error, isFetching, refetch } = useQuery({
    ...changePlan(asked?.from ?? "", asked?.to ?? "", asked?.engine ?? ""),
    enabled: !!asked,
    refetchOnWindowFocus: false,
  });
  useTitle(asked ? `Change ${asked.from} everywhere` : "Change everywhere");
  const stale = !!asked && (asked.from !== from || asked.to !== to || asked.engine !== engine);
  const plan = asked && !stale ? data : undefined;
  return (
    <main id="main" className="scroller h-full overflow-auto">
      <div className="mx-auto max-w-[1120px] px-6 py-6 max-md:px-3">
        <p className="text-small text-ink-2">
          <Link to="/where" search={from ? { q: from } : {}} className="link">
            Where used
          </Link>
        </p>
        <h1 className="text-title">Change it everywhere</h1>
        <form
          className="mt-3 flex flex-wrap items-end gap-3"
          onSubmit={(e) => {
            e.preventDefault();
            if (asked && !stale) refetch();
            else setAsked({ from, to, engine });
          }}
        >
          <label className="min-w-[200px] flex-1">
            <span className="label">What stands there</span>
            <input
              className="field"
              value={from}
              required
              autoFocus={!from}
              maxLength={200}
              placeholder="e.g. 39 N·m, idler bolt, TL-101"
              onChange={(e) => setFrom(e.target.value)}
            />
          </label>
          <label className="min-w-[200px] flex-1">
            <span className="label">What is to stand there</span>
            <input
              className="field"
              value={to}
              required
              autoFocus={!!from}
              maxLength={200}
              onChange={(e) => setTo(e.target.value)}
            />
          </label>
          <CodeField code={engine} onCode={setEngine} />
          <button type="submit" className="button solid" disabled={isFetching}>
            {isFetching ? "Looking…" : "See each place"}
          </button>
        </form>
        {error && !isFetching && !stale && <Wrong says={error instanceof Failure ? error.message : "That did not work."} />}
        {!plan && !error && !isFetching && (
          <p className="mt-3 max-w-[70ch] text-ink-2">
            Nothing is changed before you have seen each place. A value is changed where it is that value, in a step or in words;
            a term where it stands as whole words. What pages call by its name changes with the engine sheet that has the name.
          </p>
        )}
        {plan && <Plan key={`${plan.from} ${plan.to} ${engine}`} plan={plan} onAgain={refetch} />}
      </div>
    </main>
  );
}

/** Done is what became of one page. */
type Done = { changed?: S["Changed"]; trouble?: string };

function Plan({ plan, onAgain }: { plan: S["ChangePlan"]; onAgain: () => void }) {
  // Whatever is found is chosen; what somebody left out stays left out when the plan is made again.
  const [left, setLeft] = useState<Chosen>(new Set());
  const [reason, setReason] = useState("");
  const [done, setDone] = useState<Map<string, Done>>(new Map());
  const [running, setRunning] = useState(false);
  const stop = useRef(false);
  const client = useQueryClient();
  const halt = useCallback(() => {
    stop.current = true;
  }, []);
  useEffect(() => halt, [halt]);
  const open = useMemo(() => plan.pages.filter((p) => !done.get(keyOf(p))?.changed), [plan, done]);
  const chosen = counted(open, left);
  const finished = [...done.values()].filter((d) => d.changed).length;
  const run = async () => {
    setRunning(true);
    stop.current = false;
    for (const p of open) {
      if (stop.current) break;
      const body = bodyOf(p, plan, left, reason.trim());
      if (!body) continue;
      try {
        const changed = await ask(api.POST("/api/changes", { body }));
        setDone((d) => new Map(d).set(keyOf(p), { changed }));
      } catch (e) {
        setDone((d) => new Map(d).set(keyOf(p), { trouble: e instanceof Failure ? e.message : "That did not work." }));
      }
    }
    setRunning(false);
    client.invalidateQueries({ queryKey: ["procedures"] });
    client.invalidateQueries({ queryKey: ["desk"] });
    client.invalidateQueries({ queryKey: ["engines"] });
    client.invalidateQueries({ queryKey: ["uses"] });
  };
  if (plan.pages.length === 0)
    return (
      <div className="mt-4">
        <p className="text-lead">It stands nowhere that can be changed.</p>
        {plan.bare && <Bare />}
        <Near plan={plan} />
      </div>
    );
  return (
    <>
      <div className="sticky top-0 z-[2] mt-4 border-b border-ink bg-sheet pt-1 pb-2">
        <div className="flex flex-wrap items-end gap-x-4 gap-y-2">
          <h2 className="text-lead">
            <span role="status">{finished > 0 ? `${finished} of ${plan.pages.length} changed` : says(plan)}</span>
          </h2>
          {open.length > 0 && (
            <label className="flex min-w-[220px] flex-1 items-center gap-2">
              <span className="flex-none text-ink-2">Why</span>
              <input
                className="field"
                value={reason}
                maxLength={1000}
                placeholder="Readers of the new revisions see this"
                onChange={(e) => setReason(e.target.value)}
              />
            </label>
          )}
          {open.length === 0 ? (
            <button type="button" className="button" onClick={onAgain}>
              Look again
            </button>
          ) : running ? (
            <button type="button" className="button" onClick={halt}>
              Stop after this one
            </button>
          ) : (
            <button type="button" className="button solid" disabled={chosen.places === 0 || !reason.trim()} onClick={run}>
              {chosen.places === 0 ? "Nothing is chosen" : `Change ${chosen.places} place${chosen.places === 1 ? "" : "s"}`}
            </button>
          )}
        </div>
        {(running || finished > 0) && (
          <div className="mt-1.5 h-1 bg-rule" aria-hidden>
            <div className="h-1 bg-marking" style={{ width: `${(done.size / plan.pages.length) * 100}%` }} />
          </div>
        )}
      </div>
      {plan.behind && (
        <p className="mt-2 text-clash">
          Pages are still being looked through, so that some places may be missing here. Look again in a minute.
        </p>
      )}
      {plan.more && (
        <p className="mt-2 text-clash">There are more pages than are listed. Change these, then look again; or choose a code.</p>
      )}
      {!plan.value && plan.pages.some((p) => !p.revision) && (
        <p className="mt-2 text-small text-ink-2">
          Pages call things by the names of their sheet: they say the new one as soon as the changed sheet is in use.
        </p>
      )}
      {plan.bare && <Bare />}
      <Near plan={plan} />
      {plan.pages.map((p) => (
        <PageOf
          key={keyOf(p)}
          p={p}
          left={left}
          done={done.get(keyOf(p))}
          busy={running}
          onToggle={(keys) => setLeft((l) => toggled(l, p, keys))}
          onAgain={onAgain}
        />
      ))}
    </>
  );
}

/** says answers the first question: how much, and where. */
function says(plan: S["ChangePlan"]) {
  const sheets = plan.pages.filter((p) => !p.revision).length;
  const pages = plan.pages.length - sheets;
  const on = [
    pages > 0 && `${pages} procedure${pages === 1 ? "" : "s"}`,
    sheets > 0 && `${sheets} engine sheet${sheets === 1 ? "" : "s"}`,
  ].filter(Boolean);
  return `${plan.places} place${plan.places === 1 ? "" : "s"} on ${on.join(" and ")}`;
}

/** Bare says what of the sheets was not looked at. */
function Bare() {
  return (
    <p className="mt-2 text-small text-ink-2">
      Degrees and millimetres of locks, marks, wheels and belts stand on the engine sheets as bare figures and are not looked at.
    </p>
  );
}

function Near({ plan }: { plan: S["ChangePlan"] }) {
  if (plan.near.length === 0) return null;
  return <p className="mt-2 text-small text-ink-2">Left alone, for it is written otherwise: {plan.near.join(", ")}.</p>;
}

function PageOf({
  p,
  left,
  done,
  busy,
  onToggle,
  onAgain,
}: {
  p: Page;
  left: Chosen;
  done?: Done;
  busy: boolean;
  onToggle: (keys: string[]) => void;
  onAgain: () => void;
}) {
  const key = keyOf(p);
  const on = p.places.filter((x) => !left.has(`${key} ${x.key}`));
  const box = useRef<HTMLInputElement>(null);
  useEffect(() => {
    if (box.current) box.current.indeterminate = on.length > 0 && on.length < p.places.length;
  });
  const changed = done?.changed;
  return (
    <section className="mt-5" aria-label={`${p.engine} ${p.title}`}>
      <h2 className="flex flex-wrap items-baseline gap-x-2 border-b border-ink pb-0.5 text-body">
        {!changed && (
          <input
            ref={box}
            type="checkbox"
            aria-label={`All places of ${p.engine} ${p.title}`}
            checked={on.length === p.places.length}
            disabled={busy}
            onChange={() =>
              onToggle(
                on.length === p.places.length
                  ? p.places.map((x) => x.key)
                  : p.places.filter((x) => left.has(`${key} ${x.key}`)).map((x) => x.key),
              )
            }
          />
        )}
        <span className="font-normal text-ink-2">{p.engine}</span>
        {p.revision ? (
          <Link to="/revisions/$revision" params={{ revision: String(p.revision) }} className="no-underline hover:underline">
            {p.title}
          </Link>
        ) : (
          <Link to="/engines/$code" params={{ code: p.engine }} className="no-underline hover:underline">
            Engine sheet {p.number}
          </Link>
        )}
        <span className="font-normal text-ink-2">{changed ? "" : goes(p)}</span>
        {changed && (
          <span className="text-small text-held">
            ✓ {changed.places} place{changed.places === 1 ? "" : "s"} changed in{" "}
            {changed.revision ? (
              <Link to="/revisions/$revision" params={{ revision: String(changed.revision) }} className="link">
                revision {changed.number}, {stateWord(changed.state)}
              </Link>
            ) : (
              <Link to="/engines/$code" params={{ code: changed.engine }} className="link">
                sheet {changed.number}, {changed.state}
              </Link>
            )}
            {changed.blocking > 0 && (
              <span className="text-clash">
                , {changed.blocking} finding{changed.blocking === 1 ? "" : "s"} block release
              </span>
            )}
          </span>
        )}
      </h2>
      {done?.trouble && (
        <div className="mt-1.5 flex items-center gap-3">
          <Wrong says={done.trouble} className="flex-1" />
          <button type="button" className="button" onClick={onAgain}>
            Look again
          </button>
        </div>
      )}
      {!changed && (
        <>
          {p.opens.length > 0 && (
            <p className="mt-1 text-small text-clash">
              It opens the closed latch{p.opens.length > 1 ? "es" : ""} of {p.opens.join(", ")}.
            </p>
          )}
          {p.new.map((f) => (
            <p key={f} className={`mt-0.5 text-small ${p.blocks ? "text-clash" : ""}`}>
              {p.blocks ? "✕" : "△"} would be found: {f}
            </p>
          ))}
          {p.until.map((f) => (
            <p key={f} className="mt-0.5 text-small text-ink-2">
              Until the changed sheet is in use: {f}
            </p>
          ))}
          {p.settled.map((f) => (
            <p key={f} className="mt-0.5 text-small text-held">
              ✓ settles: {f}
            </p>
          ))}
          {p.then && <Then then={p.then} />}
          <ul>
            {p.places.map((x) => (
              <li key={x.key} className="border-b border-rule">
                <label className="grid grid-cols-[18px_150px_minmax(0,1fr)] gap-x-2 py-1 max-md:grid-cols-[18px_minmax(0,1fr)]">
                  <input
                    type="checkbox"
                    className="mt-[3px] size-[13px]"
                    checked={!left.has(`${key} ${x.key}`)}
                    disabled={busy}
                    onChange={() => onToggle([x.key])}
                  />
                  <span className="truncate text-small text-ink-2">
                    {x.number ? `Step ${x.number}` : x.name || "Above the steps"}
                  </span>
                  <span className="max-md:col-start-2">
                    {x.texts.map((t, i) => (
                      <span key={i} className="block">
                        {t.what !== "step" && <span className="text-small text-ink-2">{t.what}: </span>}
                        <Worded words={t.words} />
                      </span>
                    ))}
                  </span>
                </label>
              </li>
            ))}
          </ul>
        </>
      )}
    </section>
  );
}

/** Then says what proof and drill find on the pages that use a tool once another one is in its place. */
function Then({ then }: { then: S["ChangeThen"][] }) {
  const quiet = then.filter((t) => !t.unread && t.new.length + t.settled.length === 0);
  return (
    <section className="my-2 border-l border-ink pl-3" aria-label="What proof and drill find then">
      <h3 className="text-small font-[600]">
        On the {then.length} page{then.length === 1 ? "" : "s"} that use{then.length === 1 ? "s" : ""} it, once the sheet is in
        use
      </h3>
      {then
        .filter((t) => !quiet.includes(t))
        .map((t) => (
          <div key={t.revision} className="mt-1 text-small">
            <Link to="/revisions/$revision" params={{ revision: String(t.revision) }} className="link">
              {t.title}
            </Link>{" "}
            <span className="text-ink-2">
              r{t.number} {stateWord(t.state)}
              {t.unread && ": not looked at, for it took too long"}
            </span>
            {t.new.map((f) => (
              <p key={f} className={t.blocks ? "text-clash" : ""}>
                {t.blocks ? "✕" : "△"} {f}
              </p>
            ))}
            {t.settled.map((f) => (
              <p key={f} className="text-held">
                ✓ no more: {f}
              </p>
            ))}
          </div>
        ))}
      {quiet.length > 0 && (
        <p className="text-small text-ink-2">
          {quiet.length === then.length ? "Proof and drill find the same as before" : "As before"}:{" "}
          {quiet.map((t) => `${t.title} r${t.number}`).join(", ")}.
        </p>
      )}
    </section>
  );
}

/** goes says where a change of a page would stand. */
function goes(p: Page) {
  if (p.starts) return `${stateWord(p.state)}; starts ${p.revision ? `revision ${p.number + 1}` : "the next version"}`;
  return `goes into ${p.revision ? "revision" : "version"} ${p.number}, ${stateWord(p.state)}`;
}
