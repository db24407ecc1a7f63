import { Play, Square } from "lucide-react";
import { useState } from "react";
import type { S } from "../../api/client";
import { Drive } from "../../drawing/Drive";
import { FindingItem } from "../../shell/FindingItem";
import { blocks as count, ofWhichBlock } from "../../shell/rows";
import type { Draft } from "./useDraft";

/** EngineNow draws the engine at the selected step, with its dials. */
export function EngineNow({ draft, at, playing, onPlay }: { draft: Draft; at: number; playing: boolean; onPlay: () => void }) {
  const state = draft.view.states[at + 1];
  const loop = draft.drawing.loops[0];
  return (
    <>
      <div className="flex items-baseline px-3 pt-2 pb-0.5 text-small text-ink-2">
        <h2 className="!font-normal">
          {at < 0 ? "Before the first step" : `At step ${at + 1}`}, crank turning {draft.drawing.running}
        </h2>
        <button type="button" className="button quiet ml-auto slim" onClick={onPlay} aria-pressed={playing}>
          {playing ? <Square size={11} aria-hidden /> : <Play size={11} aria-hidden />} {playing ? "Stop" : "Run"}
        </button>
      </div>
      <div className="min-h-0 flex-1 px-2">
        <Drive drawing={draft.drawing} state={state} move={playing} className="mx-auto h-full w-full" />
      </div>
      {loop?.longest > 0 && (
        <div className="px-3 pb-1 text-right text-fine text-ink-2">
          longest free run {loop.longest.toFixed(1)} mm, {loop.longestFrom} to {loop.longestTo}
        </div>
      )}
      {state && <Dials state={state} drawing={draft.drawing} />}
    </>
  );
}

const signed = (v: number) => (Math.abs(v) < 0.05 ? "0.0" : v.toFixed(1));

function Dials({ state, drawing }: { state: S["StepState"]; drawing: S["Drawing"] }) {
  const crank = ((state.crank % state.cycle) + state.cycle) % state.cycle;
  const near = crank > state.cycle - 0.05 ? 0 : crank;
  const cells: { name: string; value: string; held?: boolean; bad?: boolean }[] = [
    { name: `Crank of ${state.cycle}°`, value: `${signed(near)}°`, held: state.shafts.find((s) => s.id === "crank")?.fixed },
  ];
  for (const s of state.shafts) {
    if (s.id === "crank" || !drawing.wheels.some((w) => w.shaft === s.id && w.teeth > 0)) continue;
    const a = ((s.angle % 360) + 540) % 360;
    cells.push({
      name: nameOf(s.id, drawing),
      value: `${signed(a === 0 ? 180 : a - 180)}°${offBy(s)}`,
      held: s.fixed,
      bad: !!s.teeth,
    });
  }
  for (const l of drawing.loops) {
    const tension = state.jumped?.includes(l.id)
      ? "jumped?"
      : (state.tension[l.tensioner] ?? (state.slack.includes(l.id) ? "slack" : "on"));
    cells.push({
      name: drawing.loops.length > 1 ? capital(l.name) : `${capital(l.kind)} tension`,
      value: state.on.includes(l.id) ? tension : `${l.kind} off`,
      held: false,
      bad: state.jumped?.includes(l.id),
    });
  }
  return (
    <dl
      className="grid flex-none border-y border-rule bg-sheet"
      style={{ gridTemplateColumns: `repeat(${Math.min(cells.length, cells.length > 5 ? 4 : 5)}, minmax(0, 1fr))` }}
    >
      {cells.map((c) => (
        <div key={c.name} className="border-r border-rule px-2.5 py-1.5 last:border-r-0">
          <dt className="text-fine text-ink-2">
            {c.name}
            {c.held && <span className="text-marking">, held</span>}
          </dt>
          <dd className={`truncate font-mono text-small ${c.bad ? "text-clash" : ""}`} title={c.value}>
            {c.value}
          </dd>
        </div>
      ))}
    </dl>
  );
}

/** offBy is how far off a shaft may stand: the play of the lock that holds it, what the page has left in doubt, whole teeth. */
function offBy(s: S["StepState"]["shafts"][number]) {
  const within = Math.max(s.fixed ? (s.play ?? 0) : 0, s.doubt ?? 0);
  if (s.teeth) return ` ±${s.teeth} ${s.teeth === 1 ? "tooth" : "teeth"}`;
  return within || s.fixed ? ` ±${within}` : "";
}

const capital = (s: string) => s.charAt(0).toUpperCase() + s.slice(1);

function nameOf(shaft: string, d: S["Drawing"]) {
  const w = d.wheels.find((v) => v.shaft === shaft && v.teeth > 0);
  return w ? capital(w.label) : shaft;
}

/** headsOf are the open findings that stand by themselves; what follows from one hangs under it. */
export function headsOf(all: S["Finding"][]) {
  const open = all.filter((f) => !f.accepted);
  const ids = new Set(open.map((f) => f.id));
  return open.filter((f) => !f.cause || !ids.has(f.cause));
}

/** Follows tells what a finding brings with it: settled with it, folded until asked for. */
function Follows({ findings, onGo }: { findings: S["Finding"][]; onGo: (step: string) => void }) {
  return (
    <details className="col-start-2 mt-1">
      <summary className="cursor-pointer text-small text-ink-2">
        and {findings.length} thing{findings.length === 1 ? " that follows" : "s that follow"}
      </summary>
      <ul className="mt-1 border-l border-rule pl-2">
        {findings.map((f) => (
          <li key={f.id + f.what} className="py-0.5 text-small">
            <button type="button" className="text-left text-ink-2" onClick={() => f.steps[0] && onGo(f.steps[0])}>
              {f.what}
            </button>
          </li>
        ))}
      </ul>
    </details>
  );
}

/** Starts shows the page on an engine that is found elsewhere in its cycle. */
function Starts({ starts, from, onFrom }: { starts: number[]; from: number; onFrom: (turns: number) => void }) {
  return (
    <p className="col-start-2 mt-1 flex flex-wrap items-center gap-1 text-small text-ink-2">
      Show the engine found
      {[0, ...starts].map((n) => (
        <button
          key={n}
          type="button"
          className="button slim"
          aria-pressed={from === n}
          data-on={from === n}
          onClick={() => onFrom(n)}
        >
          {n === 0 ? "where it works" : `${n} turn${n === 1 ? "" : "s"} elsewhere`}
        </button>
      ))}
    </p>
  );
}

/** Findings lists what the proof found, each with its mends. */
export function Findings({
  draft,
  heads,
  at,
  onAt,
  onGo,
  onMend,
  onKeep,
  from,
  onFrom,
}: {
  draft: Draft;
  /** the findings that stand by themselves and are to be mended */
  heads: S["Finding"][];
  /** the position the engine is shown from, in turns of the crank; 0 is the usual one */
  from: number;
  onFrom: (turns: number) => void;
  at: number;
  onAt: (i: number) => void;
  onGo: (step: string) => void;
  onMend: (f: S["Finding"], m: number) => void;
  onKeep: (f: S["Finding"], reason: string) => void;
}) {
  const open = draft.view.findings.filter((f) => !f.accepted);
  const under = (f: S["Finding"]) => open.filter((o) => o.cause === f.id && !heads.includes(o));
  const kept = draft.view.findings.filter((f) => f.accepted);
  const [keeping, setKeeping] = useState<number>();
  const blocks = draft.view.blocking;
  return (
    <section aria-label="Findings" className="flex min-h-0 flex-col bg-film">
      <div className="flex items-baseline justify-between px-3 pt-2 pb-1.5">
        <h2 className="text-body">
          {open.length === 0 ? "No findings" : `${open.length} finding${open.length === 1 ? "" : "s"}`}
        </h2>
        <span className={`text-small ${blocks ? "font-[650] text-clash" : "text-ink-2"}`}>
          {blocks ? `${count(blocks)} release` : "nothing blocks release"}
        </span>
      </div>
      <p className="sr-only" role="status">
        {open.length === 0 ? "No findings" : `${open.length} finding${open.length === 1 ? "" : "s"}`},{" "}
        {blocks ? ofWhichBlock(blocks) : "nothing blocks release"}
      </p>
      <ul className="scroller min-h-0 flex-1 overflow-auto px-3 pb-3" aria-label="Findings">
        {heads.map((f, i) => (
          <FindingItem
            key={f.id + f.what}
            finding={f}
            on={i === at}
            onGo={() => {
              onAt(i);
              if (f.steps[0]) onGo(f.steps[0]);
            }}
          >
            {draft.meta.editable && (
              <span className="col-start-2 mt-1 flex flex-wrap gap-1.5">
                {f.mends.map((m, k) => (
                  <button type="button" key={m.label} className="button" onClick={() => onMend(f, k)}>
                    {m.label}
                  </button>
                ))}
                {f.steps.length > 0 && (
                  <button
                    type="button"
                    className="button quiet hidden group-data-[on=true]:inline-flex"
                    onClick={() => setKeeping(keeping === i ? undefined : i)}
                  >
                    Accept with a reason
                  </button>
                )}
              </span>
            )}
            {under(f).length > 0 && <Follows findings={under(f)} onGo={onGo} />}
            {f.starts && f.starts.length > 0 && <Starts starts={f.starts} from={from} onFrom={onFrom} />}
            {keeping === i && (
              <form
                className="col-start-2 mt-1 flex gap-1"
                onSubmit={(e) => {
                  e.preventDefault();
                  const reason = String(new FormData(e.currentTarget).get("reason")).trim();
                  if (reason) {
                    setKeeping(undefined);
                    onKeep(f, reason);
                  }
                }}
              >
                <input
                  name="reason"
                  autoFocus
                  aria-label="Reason"
                  placeholder="Why it may stay; the reason shows on the sheet’s record"
                  className="field"
                  onKeyDown={(e) => e.stopPropagation()}
                />
                <button type="submit" className="button">
                  Accept
                </button>
              </form>
            )}
          </FindingItem>
        ))}
        {open.length === 0 && (
          <li className="border-t border-rule py-3 text-ink-2">
            {draft.view.rows.length === 0
              ? "They turn up here as soon as there are steps."
              : `${ran(draft.view.rows)} and met nothing in its way. ${draft.view.tried}`}
          </li>
        )}
        {kept.length > 0 && (
          <li className="border-t border-rule pt-2">
            <h3 className="text-small text-ink-2">Accepted with a reason</h3>
            {kept.map((f) => (
              <p key={f.rule + f.steps.join()} className="py-1 text-small text-ink-2">
                {f.what}. <i>{f.accepted}</i>
              </p>
            ))}
          </li>
        )}
      </ul>
    </section>
  );
}

/** ran says of how many steps the virtual engine followed; text is only read, by people. */
function ran(rows: S["Row"][]) {
  const text = rows.filter((r) => r.step.verb === "do").length;
  if (text === 0) return "The virtual engine ran every step";
  const only = text === 1 ? "1 step is text, which it only passed by" : `${text} steps are text, which it only passed by`;
  return `The virtual engine ran ${rows.length - text} of ${rows.length} steps (${only})`;
}
