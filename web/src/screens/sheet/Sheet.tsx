import { useQuery } from "@tanstack/react-query";
import { useParams } from "@tanstack/react-router";
import { type ReactNode, useCallback, useMemo, useState } from "react";
import type { S } from "../../api/client";
import { Pattern } from "../../drawing/Pattern";
import { fieldNotes, record, sheet, whoAmI } from "../../api/queries";
import { useActions } from "../../shell/actions";
import { TitleBlock } from "../../shell/TitleBlock";
import { Trouble, Waiting } from "../../shell/Trouble";
import { useClose } from "../../shell/useClose";
import { useLive } from "../../shell/useLive";
import { FieldNotes, NewFieldNote } from "./FieldNotes";
import { usePrinted } from "./usePrinted";
import { type Ticks, useTicks } from "./useTicks";
import { stateWord } from "../../shell/states";

/** together keeps a figure on one line with its unit and its tolerance. */
const together = (s: string) => s.replace(/(\d) (?=±|N·m|lbf|kgf|mm\b|Hz\b|min\b|h\b|s\b|°|L\b|mL\b)/g, "$1\u00a0");

const cap = (s: string) => s.charAt(0).toUpperCase() + s.slice(1);

/** Sheet is what a technician reads and prints. */
export function Sheet() {
  const id = Number(useParams({ from: "/inside/revisions/$revision/sheet" }).revision);
  const { data: s, error, refetch } = useQuery(sheet(id));
  const { data: me } = useQuery(whoAmI);
  const { data: done } = useQuery(record(id));
  const released = !!s && ["latched", "superseded", "withdrawn"].includes(s.meta.state);
  const { data: said, refetch: hear } = useQuery({ ...fieldNotes(id), enabled: released });
  const [noting, setNoting] = useState<string>();
  const note = released ? setNoting : undefined;
  useLive(
    id,
    useCallback(() => {
      refetch();
      if (released) hear();
    }, [refetch, hear, released]),
  );
  const ticks = useTicks(id);
  const steps = s?.phases.reduce((n, p) => n + p.steps.length, 0) ?? 0;
  const ticked = s?.phases.reduce((n, p) => n + p.steps.filter((t) => ticks.done.has(boxOf(t))).length, 0) ?? 0;
  const notesAt = (step: string) => said?.filter((n) => n.step === step && n.revision === id).length ?? 0;
  const close = useClose(id, s?.meta.version);
  const actions = useMemo(
    () => [
      { name: "Print the sheet", keys: "Ctrl P", run: () => window.print() },
      { name: "Export as a latch file", run: () => window.location.assign(`/api/revisions/${id}/export`) },
    ],
    [id],
  );
  useActions(actions);
  usePrinted(s?.meta.engine, s?.meta.title, s && `Revision ${s.meta.number}, ${stateWord(s.meta.state)}`);
  if (error) return <Trouble error={error} again={refetch} />;
  if (!s) return <Waiting />;
  const p = s.header.prelims ?? {};
  return (
    <main id="main" className="screen flex h-full flex-col">
      <TitleBlock
        meta={s.meta}
        onClose={close}
        onRead={refetch}
        on="sheet"
        writes={!!me?.writes}
        right={
          <>
            {ticks.done.size > 0 && (
              <span className="mr-1 text-small text-ink-2" aria-live="polite">
                {ticked} of {steps} done{" "}
                <button type="button" className="link" onClick={ticks.clear}>
                  untick all
                </button>
              </span>
            )}
            <a className="button quiet slim no-underline" href={`/api/revisions/${id}/export`}>
              Export
            </a>
            {released && (
              <button type="button" className="button quiet slim" onClick={() => setNoting("")}>
                Field note…
              </button>
            )}
            <button type="button" className="button slim" onClick={() => window.print()}>
              Print
            </button>
          </>
        }
      />
      {noting !== undefined && (
        <NewFieldNote
          sheet={s}
          step={noting}
          onClose={() => setNoting(undefined)}
          onSaid={() => {
            setNoting(undefined);
            hear();
          }}
        />
      )}
      <div className="scroller min-h-0 flex-1 overflow-auto bg-film">
        <article className="paper border-x border-rule px-11 py-8 text-body">
          {s.meta.withdrawn && <Across />}
          <Strip s={s} />
          {s.notice && <p className="mt-3 border-l-[3px] border-clash bg-clash-wash px-3 py-1.5 font-[650]">{s.notice}</p>}
          <h2 className="mt-5 text-title leading-tight">{s.header.title}</h2>
          {s.header.purpose && <p className="mt-1 max-w-[62ch] text-ink-2">{s.header.purpose}</p>}
          <p className="mt-3 border-l-[3px] border-paint bg-paint-wash px-3 py-1.5">{s.safety}</p>
          <div className="mt-5 grid grid-cols-[minmax(0,1fr)_430px] gap-8 max-md:grid-cols-1 print:grid-cols-[minmax(0,1fr)_340px]!">
            <div>
              <h3 className="text-lead">Before you start</h3>
              <ul className="mt-1 list-none">
                {(p.conditions ?? []).map((c) => (
                  <li key={c} className="flex gap-2 py-0.5">
                    <Box of={c} name={c} ticks={ticks} /> {c}
                  </li>
                ))}
              </ul>
              <dl className="mt-2 grid grid-cols-[90px_1fr] gap-y-0.5">
                {[
                  ["People", p.people],
                  ["Time", p.time],
                  ["Supplies", p.supplies?.join(", ")],
                  ["View", `${cap(s.view)}.`],
                  ["Sides", s.sides],
                ]
                  .filter(([, v]) => v)
                  .map(([k, v]) => (
                    <div key={k} className="contents">
                      <dt className="text-ink-2">{k}</dt>
                      <dd>{v}</dd>
                    </div>
                  ))}
              </dl>
            </div>
            <figure className="keep">
              {/* biome-ignore lint/security/noDangerouslySetInnerHtml: the SVG that can be exported; the server writes it and escapes every name in it */}
              <div className="drawn h-[340px]" dangerouslySetInnerHTML={{ __html: s.drawing }} />
              <figcaption className="text-center text-fine text-ink-2">
                Marks and locks in the timing position, running {s.running}
              </figcaption>
            </figure>
          </div>
          <div className="mt-5 grid grid-cols-2 gap-8 max-md:grid-cols-1 print:grid-cols-2!">
            <section className="keep">
              <h3 className="text-lead">Special tools</h3>
              <table className="mt-1">
                <thead>
                  <tr>
                    <th scope="col">Number</th>
                    <th scope="col">Tool</th>
                    <th scope="col">Steps</th>
                  </tr>
                </thead>
                <tbody>
                  {s.tools.map((t) => (
                    <tr key={t.number}>
                      <td className="font-mono text-small whitespace-nowrap">{t.number}</td>
                      <td>{t.name}</td>
                      <td className="text-ink-2">{t.steps.join(", ")}</td>
                    </tr>
                  ))}
                </tbody>
              </table>
              {s.tools.length === 0 && <p className="text-ink-2">None.</p>}
            </section>
            <section className="keep">
              <h3 className="text-lead">New parts</h3>
              <table className="mt-1">
                <thead>
                  <tr>
                    <th scope="col">Part</th>
                    <th scope="col">Count</th>
                    <th scope="col">Why</th>
                  </tr>
                </thead>
                <tbody>
                  {s.parts.map((q) => (
                    <tr key={q.name}>
                      <td>
                        {cap(q.name)}
                        {q.number?.split(", ").map((n) => (
                          <span key={n} className="block font-mono text-small whitespace-nowrap text-ink-2">
                            {n}
                          </span>
                        ))}
                      </td>
                      <td>{q.count}</td>
                      <td className="text-ink-2">
                        {q.why}
                        {q.every && <span className="block">due every {q.every}</span>}
                      </td>
                    </tr>
                  ))}
                </tbody>
              </table>
              {s.parts.length === 0 && <p className="text-ink-2">None.</p>}
            </section>
          </div>
          {s.opens && (
            <p className="keep mt-5 border border-ink px-3 py-2">
              <b className="font-[650]">Begins with.</b> {s.opens}
            </p>
          )}
          {s.phases.map((ph, k) => (
            <section key={k} className="mt-6">
              {/* A heading stands with its first step, so that it is never alone at the foot of a page. */}
              <div className="keep">
                <h3 className="border-b border-ink pb-0.5 text-lead text-marking">{ph.name}</h3>
                {ph.steps.slice(0, 1).map((st) => (
                  <SheetStep key={st.number} st={st} ticks={ticks} onNote={note} notes={notesAt(st.id)} />
                ))}
              </div>
              {ph.steps.slice(1).map((st) => (
                <SheetStep key={st.number} st={st} ticks={ticks} onNote={note} notes={notesAt(st.id)} />
              ))}
            </section>
          ))}
          {s.closes && (
            <p className="keep mt-4 border border-ink px-3 py-2">
              <b className="font-[650]">Ends with.</b> {s.closes}
            </p>
          )}
          {s.torque.length > 0 && (
            <section className="mt-7">
              <h3 className="text-lead">Torque table</h3>
              <div className="scroll-wide">
                <table className="mt-1">
                  <thead>
                    <tr>
                      <th scope="col">Step</th>
                      <th scope="col">Fastener</th>
                      <th scope="col">Thread</th>
                      <th scope="col">SI</th>
                      <th scope="col">Imperial</th>
                      <th scope="col">Lubrication</th>
                      <th scope="col">Reading</th>
                    </tr>
                  </thead>
                  <tbody>
                    {s.torque.map((t, i) => (
                      <tr key={i} className="keep">
                        <td className="text-ink-2">{t.step}</td>
                        <td>
                          {cap(t.name)}
                          {t.count > 1 && <span className="text-ink-2"> × {t.count}</span>}
                        </td>
                        <td>{t.thread}</td>
                        <td className="font-mono text-small">
                          {t.value}
                          {t.for && <span className="block font-sans text-ink-2">{t.for}</span>}
                        </td>
                        <td className="font-mono text-small">{t.other}</td>
                        <td className="text-ink-2">{t.lubricant}</td>
                        <td>
                          <span className="inline-block w-[60px] border-b border-ink-3">&nbsp;</span>
                        </td>
                      </tr>
                    ))}
                  </tbody>
                </table>
              </div>
            </section>
          )}
          {(s.changes ?? []).length > 0 && (
            <section className="mt-7">
              <h3 className="text-lead">Changed since revision {s.since}</h3>
              <p className="text-small text-ink-2">A bar at its right stands beside each step that is not as it was.</p>
              <ul className="mt-1 columns-2 gap-8 text-small max-md:columns-1 print:columns-2!" data-changes>
                {s.changes?.map((c) => (
                  <li key={c} className="keep border-b border-rule py-0.5">
                    {c}
                  </li>
                ))}
              </ul>
            </section>
          )}
          <section className="keep mt-7">
            <h3 className="text-lead">Record</h3>
            <table className="mt-1">
              <tbody>
                {s.meta.latches.map((l) => (
                  <tr key={l.latch}>
                    <td>{cap(l.latch)} latch</td>
                    <td>{l.closed ? `closed by ${l.by}` : "open"}</td>
                    <td className="text-ink-2">
                      {l.at && new Date(l.at).toLocaleString("en-GB", { dateStyle: "long", timeStyle: "short" })}
                    </td>
                  </tr>
                ))}
                {(s.kept ?? []).map((q) => (
                  <tr key={q.rule + q.step}>
                    <td>Accepted, step {q.step}</td>
                    <td>{q.what}</td>
                    <td className="text-ink-2">{q.reason}</td>
                  </tr>
                ))}
              </tbody>
            </table>
            <dl className="mt-2 grid grid-cols-[110px_minmax(0,1fr)] gap-y-0.5 text-small text-ink-2">
              <Told name="Reason">{s.meta.reason}</Told>
              {s.meta.sha256 && (
                <Told name="SHA-256">
                  <span className="font-mono text-fine break-all">{s.meta.sha256}</span>
                </Told>
              )}
              {s.anchor && (
                <Told name="Record">
                  entry <span className="font-mono text-fine break-all">{s.anchor}</span>, signed by key{" "}
                  <span className="font-mono text-fine">{s.signer}</span>
                </Told>
              )}
            </dl>
            {/* The foot stands with the record: no page carries it alone. */}
            <div className="mt-6">
              {s.meta.withdrawn && <Across />}
              <Strip s={s} />
            </div>
            <p className="mt-2 text-small text-ink-2">{s.safety}</p>
          </section>
          {said && said.length > 0 && <FieldNotes notes={said} sheet={s} onDone={hear} />}
        </article>
        <details className="no-print mx-auto max-w-[880px] border-x border-t border-rule bg-sheet px-11 py-4">
          <summary className="cursor-pointer font-[650]">What was done to this revision</summary>
          <table className="mt-2 w-full">
            <tbody>
              {done?.map((e) => (
                <tr key={e.seq} className="border-b border-rule">
                  <td className="py-1 pr-3 text-ink-2">
                    {new Date(e.at).toLocaleString("en-GB", { dateStyle: "medium", timeStyle: "medium" })}
                  </td>
                  <td className="pr-3">{e.by}</td>
                  <td className="pr-3">{e.what}</td>
                  <td className="font-mono text-fine text-ink-2">{e.hash.slice(0, 12)}</td>
                </tr>
              ))}
            </tbody>
          </table>
        </details>
      </div>
    </main>
  );
}

/** SheetStep is one step: its cautions before it, room for a reading, and the engine where that says more than words. */
function SheetStep({
  st,
  ticks,
  onNote,
  notes,
}: {
  st: S["SheetStep"];
  ticks: Ticks;
  onNote?: (step: string) => void;
  notes: number;
}) {
  return (
    <div
      className={`keep relative border-b border-rule py-1.5 ${st.changed ? "change-bar" : ""}`}
      data-branch={!!st.fails}
      data-changed={st.changed}
      data-done={ticks.done.has(boxOf(st))}
    >
      {st.changed && <span className="sr-only">{cap(st.changed)} since the last release.</span>}
      {st.cautions.map((c) => (
        <p key={c} className="my-1 ml-[58px] border-l-[3px] border-paint bg-paint-wash px-2 py-0.5 text-small">
          <b className="font-[650]">Caution.</b> {c}
        </p>
      ))}
      <div className="job-step">
        <Box of={boxOf(st)} name={`Step ${st.number} is done`} ticks={ticks} />
        <span className="pr-2 text-right text-ink-2">{st.number}</span>
        <div className={st.fails ? "border-l-2 border-paint pl-2.5" : undefined}>
          {st.picture && (
            <figure className="step-picture mb-1" data-picture>
              {/* biome-ignore lint/security/noDangerouslySetInnerHtml: the SVG that can be exported; the server writes it and escapes every name in it */}
              <div className="drawn" dangerouslySetInnerHTML={{ __html: st.picture }} />
              <figcaption className="text-fine text-ink-2">{cap(st.shows ?? "")}</figcaption>
            </figure>
          )}
          {together(st.text)}
          {st.free?.map((f) => (
            <span key={f} className="free-text">
              {f}
            </span>
          ))}
          {st.back && <span className="text-ink-2"> {cap(st.back)}.</span>}
          {st.condition && <span className="block text-small text-ink-2">{st.condition}</span>}
          {st.note && <span className="block text-small text-ink-2">{st.note}</span>}
          {st.figures?.map((f) => (
            <span key={f.name} className="mt-1.5 mb-1 block" data-figure>
              <Pattern places={f.places} name={f.name} width={240} />
            </span>
          ))}
        </div>
        {st.reading && (
          <span className="job-reading">
            <span className="inline-block w-[74px] border-b border-ink-3">&nbsp;</span>
            {st.reading}
          </span>
        )}
        {onNote && (
          <button
            type="button"
            className="note-button no-print"
            onClick={() => onNote(st.id)}
            aria-label={`Say what was wrong at step ${st.number}`}
          >
            {notes > 0 ? `${notes} field note${notes === 1 ? "" : "s"}` : "Field note…"}
          </button>
        )}
      </div>
    </div>
  );
}

/** Across says over every page of a sheet, on the screen and on paper, that it is withdrawn. */
function Across() {
  return (
    <div className="across" aria-hidden>
      {Array.from({ length: 40 }, (_, i) => (
        <span key={i} style={{ top: i * 520 + 180 }}>
          Withdrawn
        </span>
      ))}
    </div>
  );
}

function Strip({ s }: { s: S["Sheet"] }) {
  return (
    <div className="keep grid grid-cols-[auto_auto_minmax(0,1fr)_auto_auto] border border-ink max-md:grid-cols-2 print:grid-cols-[auto_auto_minmax(0,1fr)_auto_auto]!">
      {[
        ["Maker", s.maker],
        ["Engine code", s.code],
        ["Procedure", s.header.title],
        ["Revision", `${s.meta.number} ${stateWord(s.meta.state)}`],
        ["Applicability", s.meta.applies + (s.header.applies?.note ? `, ${s.header.applies.note}` : "")],
      ].map(([k, v]) => (
        <div key={k} className="head-cell last:border-r-0">
          <div className="name">{k}</div>
          <div className="what">{v}</div>
        </div>
      ))}
    </div>
  );
}

function Told({ name, children }: { name: string; children: ReactNode }) {
  return (
    <>
      <dt>{name}</dt>
      <dd className="text-ink">{children}</dd>
    </>
  );
}

/** boxOf is what the box of a step is ticked for: the step as it reads now. Another text has not been done yet. */
const boxOf = (st: S["SheetStep"]) => `${st.id} ${st.text}`;

/** Box is ticked on the screen, for as long as the window is open, or on paper: there it is empty. */
function Box({ of, name, ticks }: { of: string; name: string; ticks: Ticks }) {
  return (
    <input
      type="checkbox"
      className="tick"
      aria-label={name}
      checked={ticks.done.has(of)}
      onChange={(e) => ticks.tick(of, e.target.checked)}
    />
  );
}
