import { useQuery, useQueryClient } from "@tanstack/react-query";
import { Link, useParams } from "@tanstack/react-router";
import { useEffect, useMemo } from "react";
import type { Failure, S } from "../../api/client";
import { turns, whoAmI } from "../../api/queries";
import { takeEdits } from "../../drafts/takeEdits";
import { Shapes } from "../../drawing/shapes";
import { useActions } from "../../shell/actions";
import { useAddress } from "../../shell/address";
import { cap } from "../../shell/cap";
import { mute } from "../../shell/keys";
import { TitleBlock } from "../../shell/TitleBlock";
import { Trouble, Waiting } from "../../shell/Trouble";
import { say } from "../../shell/toast";
import { useClose } from "../../shell/useClose";
import { useTitle } from "../../shell/useTitle";
import { Picture } from "./Picture";

type Plan = S["TurnPlan"];

/** Turns is the turn plan of a procedure: where everything stands at each count, and what the procedure does. */
export function Turns() {
  const { revision } = useParams({ from: "/inside/revisions/$revision/turns" });
  const id = Number(revision);
  const { data, error, refetch } = useQuery(turns(id));
  const { data: who } = useQuery(whoAmI);
  const client = useQueryClient();
  const [at, setAt] = useAddress<number>("n", -1);
  const plan = data?.plan;
  useTitle(data && `Turns, ${data.meta.title}, ${data.meta.engine}`);
  const n =
    at >= 0
      ? Math.min(at, plan?.horizon ?? 0)
      : Math.min(plan?.horizon ?? 0, plan && plan.ends >= 0.5 ? Math.round(plan.ends) : (plan?.best ?? 0));

  useEffect(() => {
    const onKey = (e: KeyboardEvent) => {
      if (
        !plan ||
        mute(e) ||
        e.altKey ||
        e.ctrlKey ||
        e.metaKey ||
        (e.target instanceof HTMLElement && e.target.matches("input, textarea, select"))
      )
        return;
      const by = { ArrowRight: 1, ArrowLeft: -1 }[e.key];
      if (by) {
        e.preventDefault();
        setAt(Math.max(0, Math.min(plan.horizon, n + by)));
      } else if (e.key === "Home") setAt(0);
      else if (e.key.toLowerCase() === "m" && plan.mends[0] && data?.meta.editable) take(0);
    };
    window.addEventListener("keydown", onKey);
    return () => window.removeEventListener("keydown", onKey);
  });

  const take = async (i: number) => {
    const m = plan?.mends[i];
    if (!m || !data) return;
    try {
      await takeEdits(id, data.meta.version, m.edits);
      say(`${m.label}: done. Ctrl Z in Write takes it back.`);
      client.invalidateQueries({ queryKey: ["revision", id] });
      refetch();
    } catch (e) {
      say((e as Failure).message);
    }
  };
  const close = useClose(id, data?.meta.version);
  useActions(
    useMemo(() => [{ name: "Go to the best count", group: "Turns", run: () => plan && setAt(Number(plan.best)) }], [plan, setAt]),
  );
  if (error) return <Trouble error={error} again={refetch} />;
  if (!data || !plan) return <Waiting />;
  return (
    <main id="main" className="flex h-full flex-col">
      <TitleBlock meta={data.meta} onClose={close} onRead={refetch} on="turns" writes={who?.writes ?? false} />
      <div className="scroller min-h-0 flex-1 overflow-auto">
        <div className="px-5 pt-3.5 pb-8">
          <div className="flex items-start gap-6">
            <div className="min-w-0">
              <h2 className="text-head">{plan.says}</h2>
              <p className="max-w-[760px] text-ink-2">
                {plan.rows.length === 0 ? (
                  <>
                    A turn plan needs something to look at.{" "}
                    <Link to="/engines/$code" params={{ code: data.meta.engine }}>
                      Add locks or marks to the sheet of {data.meta.engine}
                    </Link>
                    .
                  </>
                ) : plan.chosen ? (
                  "Filled: home with the crank at its timing position. Open: it meets its place there, but the crank does not. Names in ink are what the procedure looks at; the green counts have all of them home."
                ) : (
                  "This procedure looks at nothing after the turns, so the plan is made for every lock and mark of the sheet."
                )}
              </p>
            </div>
            {plan.mends.length > 0 && (
              <div className="ml-auto flex-none border-l-[3px] border-clash bg-clash-wash px-3 py-2">
                <p className="font-[650]">
                  {plan.legs.length
                    ? `As written it ends at ${figure(plan.ends)} turns, where not all is home`
                    : "Nothing is turned"}
                </p>
                {data.meta.editable &&
                  plan.mends.map((m, i) => (
                    <button key={m.label} type="button" className="button mt-1" onClick={() => take(i)}>
                      {m.label} <span className="key">M</span>
                    </button>
                  ))}
              </div>
            )}
          </div>
          {plan.rows.length > 0 && <Picture plan={plan} at={n} onAt={setAt} revision={id} />}
          {plan.rows.length > 0 && (
            <div className="mt-4 grid gap-x-8 gap-y-5 border-t border-ink pt-3 lg:grid-cols-[minmax(0,46%)_minmax(0,1fr)]">
              <Stand plan={plan} drawing={data.drawing} n={n} />
              <div className="min-w-0">
                <Schools plan={plan} onAt={setAt} at={n} />
                <Notes plan={plan} />
              </div>
            </div>
          )}
        </div>
      </div>
    </main>
  );
}

const figure = (v: number) => (Math.abs(v - Math.round(v)) < 0.005 ? String(Math.round(v)) : v.toFixed(2));

/** Stand draws the drive with every shaft where it stands at the chosen count, and says how far each is from home. */
function Stand({ plan, drawing, n }: { plan: Plan; drawing: S["Drawing"]; n: number }) {
  const c = plan.counts[n];
  const signs = new Map(drawing.wheels.filter((w) => w.shaft).map((w) => [w.shaft, Math.sign(w.ratio) || 1]));
  const angles = new Map(c?.shafts.map((s) => [s.id, s.degrees]) ?? []);
  const [x, y, w, h] = drawing.box;
  const px = Math.max(w / 240, h / 250, 0.5);
  return (
    <section aria-label="Where everything stands" className="grid grid-cols-[minmax(0,1fr)_220px] gap-4">
      <svg
        viewBox={[x - 14, y - 26, w + 28, h + 50].join(" ")}
        className="h-[268px] w-full"
        role="img"
        aria-label={`The drive after ${n} turns`}
      >
        <Shapes drawing={drawing} angles={angles} px={px} hatch="hatch-turns" />
      </svg>
      <div>
        <h3 className="text-body" aria-live="polite">
          After {n} turn{n === 1 ? "" : "s"}
          <span className={c?.all || n === 0 ? "text-held" : "text-ink-2"}>
            {n === 0 ? ", at the start" : c?.all ? ", all home" : ", not all home"}
          </span>
        </h3>
        <table className="sheet-table mt-1">
          <tbody>
            {c?.shafts.map((s) => {
              const off = s.degrees > 180 ? s.degrees - 360 : s.degrees;
              return (
                <tr key={s.id}>
                  <td className="!h-[26px] !pl-0">{cap(s.name)}</td>
                  <td className={`derived num !h-[26px] ${off === 0 ? "!text-held" : ""}`}>
                    {off === 0 ? "home" : `${off > 0 ? "+" : "−"}${Math.abs(off).toFixed(1)}°`}
                  </td>
                  <td className="derived num !h-[26px]">
                    {s.turn === "0" ? "" : `${s.turn} turn`}
                    {(signs.get(s.id) ?? 1) < 0 && " ↺"}
                  </td>
                </tr>
              );
            })}
          </tbody>
        </table>
        <p className="mt-2 text-small text-ink-2">
          <span className="key">←</span> <span className="key">→</span> another count
        </p>
      </div>
    </section>
  );
}

/** Schools lays the ways of choosing a count side by side. */
function Schools({ plan, onAt, at }: { plan: Plan; onAt: (n: number) => void; at: number }) {
  const rows = [...new Set(plan.schools.flatMap((s) => [...s.home, ...s.away]))];
  return (
    <section>
      <h3 className="text-body">What each school would see</h3>
      <table className="sheet-table mt-1">
        <thead>
          <tr>
            <th scope="col">School</th>
            <th scope="col" className="num">
              Turns
            </th>
            <th scope="col">What is looked at</th>
            <th scope="col">So</th>
          </tr>
        </thead>
        <tbody>
          {plan.schools.map((s) => (
            <tr
              key={s.name}
              data-on={Number(s.turns) === at}
              onClick={() => Number(s.turns) <= plan.horizon && onAt(Number(s.turns))}
            >
              <td className="font-[600]">{s.name}</td>
              <td className="num font-mono">{s.turns}</td>
              <td>
                <span className="flex flex-wrap gap-x-[3px]">
                  {rows.map((r) => (
                    <svg
                      key={r}
                      width="13"
                      height="13"
                      viewBox="0 0 14 14"
                      role="img"
                      aria-label={`${r} ${s.home.includes(r) ? "home" : "away"}`}
                    >
                      <title>{`${r}: ${s.home.includes(r) ? "home" : "away"}`}</title>
                      <circle
                        cx="7"
                        cy="7"
                        r="5"
                        fill={s.home.includes(r) ? "var(--color-marking)" : "var(--white)"}
                        stroke={s.home.includes(r) ? "var(--color-marking)" : "var(--color-clash)"}
                        strokeWidth="1.6"
                      />
                      {!s.home.includes(r) && <path d="M3.6 3.6l6.8 6.8" stroke="var(--color-clash)" strokeWidth="1.4" />}
                    </svg>
                  ))}
                </span>
              </td>
              <td className={s.good ? "text-held" : s.away.length ? "text-clash" : "text-ink-2"} title={s.away.join(", ")}>
                {s.good ? "✓ " : s.away.length ? "✕ " : ""}
                {s.says}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
    </section>
  );
}

/** Notes are the overshoot, the loops' returns and what the tensioners ask for. */
function Notes({ plan }: { plan: Plan }) {
  return (
    <dl className="mt-4 grid grid-cols-[118px_minmax(0,1fr)] gap-x-4 gap-y-2">
      <dt className="text-ink-2">Overshot</dt>
      <dd>{plan.advice.replace(/^Overshot: g/, "G")}</dd>
      {plan.returns.map((r) => (
        <div key={r.loop} className="contents">
          <dt className="text-ink-2">{cap(r.name)}</dt>
          <dd>{cap(r.says)}</dd>
        </div>
      ))}
      {plan.settling.map((s) => (
        <div key={s.name} className="contents">
          <dt className="text-ink-2">{cap(s.name)}</dt>
          <dd className={s.enough ? "" : "text-clash"}>
            {s.enough ? "✓ " : "✕ "}
            asks for {s.turns} turns{s.wait && ` and ${s.wait}`}; the procedure gives {figure(s.turned)}
            {s.wait && ` and ${figure(s.waited)} min`}
          </dd>
        </div>
      ))}
    </dl>
  );
}
