import { Fragment, type ReactNode } from "react";
import type { S } from "../../api/client";
import { Pattern } from "../../drawing/Pattern";
import { cap } from "../../shell/cap";
import type { Ticks } from "./useTicks";

type Block = S["SheetBlock"];

/** together keeps a figure on one line with its unit and its tolerance. */
const together = (s: string) => s.replace(/(\d) (?=±|N·m|lbf|kgf|mm\b|Hz\b|min\b|h\b|s\b|°|L\b|mL\b)/g, "$1\u00a0");

/** A part of the sheet: a heading and what stands under it, up to the next. */
interface Part {
  name: string;
  blocks: Block[];
}

/** partsOf cuts the blocks of a sheet at its headings; what stands before the first is the head. */
export function partsOf(blocks: Block[]): { head: Block[]; parts: Part[] } {
  const head: Block[] = [];
  const parts: Part[] = [];
  for (const b of blocks) {
    if (b.kind === "heading" && b.level === 2) parts.push({ name: b.text ?? "", blocks: [] });
    else (parts[parts.length - 1]?.blocks ?? head).push(b);
  }
  return { head, parts };
}

const has = (p: Part | undefined, kind: Block["kind"]) => !!p?.blocks.some((b) => b.kind === kind);

/** Paper renders the blocks of a sheet from top to bottom. What stands on it and in which words is the server’s; how it is set is here. */
export function Paper({
  s,
  ticks,
  onNote,
  notesAt,
}: {
  s: S["Sheet"];
  ticks: Ticks;
  onNote?: (step: string) => void;
  notesAt: (step: string) => number;
}) {
  const { head, parts } = partsOf(s.blocks);
  const steps = new Map(s.phases.flatMap((p) => p.steps.map((t) => [t.id, t] as const)));
  const one = (b: Block, i: number) => {
    const st = b.step ? steps.get(b.step) : undefined;
    if (st) return <SheetStep key={st.id} st={st} ticks={ticks} onNote={onNote} notes={notesAt(st.id)} />;
    return <One key={i} s={s} b={b} ticks={ticks} />;
  };
  return (
    <>
      {head.map(one)}
      {parts.map((p, i) => {
        if (has(parts[i - 1], "tools") && has(p, "parts")) return null; // stands beside the tools
        if (has(p, "tools") && has(parts[i + 1], "parts")) {
          const pair = [p, parts[i + 1]];
          const wide = (b: Block) => b.kind === "paragraph";
          return (
            <Fragment key={p.name}>
              <div className="mt-5 grid grid-cols-2 gap-8 max-md:grid-cols-1 print:grid-cols-2!">
                {pair.map((q) => (
                  <section key={q.name} className="keep">
                    <h3 className="text-lead">{q.name}</h3>
                    {q.blocks.filter((b) => !wide(b)).map(one)}
                  </section>
                ))}
              </div>
              {pair.flatMap((q) => q.blocks.filter(wide)).map(one)}
            </Fragment>
          );
        }
        const drive = p.blocks.find((b) => b.kind === "drive");
        if (drive)
          return (
            <div
              key={p.name}
              className="mt-5 grid grid-cols-[minmax(0,1fr)_430px] gap-8 max-md:grid-cols-1 print:grid-cols-[minmax(0,1fr)_340px]!"
            >
              <div>
                <h3 className="text-lead">{p.name}</h3>
                {p.blocks.filter((b) => b !== drive).map(one)}
              </div>
              <One s={s} b={drive} ticks={ticks} />
            </div>
          );
        if (has(p, "work"))
          return (
            <section key={`${p.name} ${i}`} className="mt-6">
              {/* A heading stands with its first step, so that it is never alone at the foot of a page. */}
              <div className="keep">
                <h3 className="border-b border-ink pb-0.5 text-lead text-marking">{p.name}</h3>
                {p.blocks.slice(0, 1).map(one)}
              </div>
              {p.blocks.slice(1).map(one)}
            </section>
          );
        return (
          <section key={`${p.name} ${i}`} className={`mt-7 ${has(p, "record") ? "keep" : ""}`}>
            <h3 className="text-lead">{p.name}</h3>
            {p.blocks.map(one)}
          </section>
        );
      })}
    </>
  );
}

/** One is one block, but for a step. */
function One({ s, b, ticks }: { s: S["Sheet"]; b: Block; ticks: Ticks }) {
  switch (b.kind) {
    case "strip":
      return <Strip rows={b.rows ?? []} withdrawn={!!s.meta.withdrawn && b !== s.blocks[0]} foot={b !== s.blocks[0]} />;
    case "notice":
      if (b.grade === "stop")
        return <p className="mt-3 border-l-[3px] border-clash bg-clash-wash px-3 py-1.5 font-[650]">{b.text}</p>;
      // What stood at the head in paint stands at the foot once more, small.
      if (b === s.blocks[s.blocks.length - 1]) return <p className="mt-2 text-small text-ink-2">{b.text}</p>;
      return <p className="mt-3 border-l-[3px] border-paint bg-paint-wash px-3 py-1.5">{b.text}</p>;
    case "heading":
      return <h2 className="mt-5 text-title leading-tight">{b.text}</h2>;
    case "paragraph":
      if (b.lead)
        return (
          <p className="keep mt-5 border border-ink px-3 py-2">
            <b className="font-[650]">{b.lead}</b> {b.text}
          </p>
        );
      return <p className="mt-1 max-w-[62ch] text-ink-2">{b.text}</p>;
    case "boxes":
      return (
        <ul className="mt-1 list-none">
          {b.items?.map((c) => (
            <li key={c} className="flex gap-2 py-0.5">
              <Box of={c} name={c} ticks={ticks} /> {c}
            </li>
          ))}
        </ul>
      );
    case "terms":
      return <Terms rows={b.rows ?? []} small={!s.blocks.slice(s.blocks.indexOf(b)).some((o) => o.kind === "work")} />;
    case "list":
      return (
        <>
          <p className="text-small text-ink-2">A bar at its right stands beside each step that is not as it was.</p>
          <ul className="mt-1 columns-2 gap-8 text-small max-md:columns-1 print:columns-2!">
            {b.items?.map((c) => (
              <li key={c} className="keep border-b border-rule py-0.5">
                {c}
              </li>
            ))}
          </ul>
        </>
      );
    case "drive":
      return (
        <figure className="keep">
          {/* biome-ignore lint/security/noDangerouslySetInnerHtml: the SVG that can be exported; the server writes it and escapes every name in it */}
          <div className="drawn h-[340px]" dangerouslySetInnerHTML={{ __html: s.drawing }} />
          <figcaption className="text-center text-fine text-ink-2">{b.text}</figcaption>
        </figure>
      );
    case "tools":
      return (
        <Table
          head={["Number", "Tool", "Steps"]}
          rows={s.tools.map((t) => [
            <span key="n" className="font-mono text-small whitespace-nowrap">
              {t.number}
            </span>,
            t.name,
            <span key="s" className="text-ink-2">
              {t.steps.join(", ")}
            </span>,
          ])}
        />
      );
    case "parts":
      return (
        <Table
          head={["Part", "Count", "Why"]}
          rows={s.parts.map((q) => [
            <Fragment key="p">
              {cap(q.name)}
              {q.number?.split(", ").map((n) => (
                <span key={n} className="block font-mono text-small whitespace-nowrap text-ink-2">
                  {n}
                </span>
              ))}
            </Fragment>,
            q.count,
            <span key="w" className="text-ink-2">
              {q.why}
              {q.every && <span className="block">due every {q.every}</span>}
            </span>,
          ])}
        />
      );
    case "torque":
      return (
        <div className="scroll-wide">
          <Table
            head={["Step", "Fastener", "Thread", "SI", "Imperial", "Lubrication", "Reading"]}
            rows={s.torque.map((t) => [
              <span key="s" className="text-ink-2">
                {t.step}
              </span>,
              <Fragment key="n">
                {cap(t.name)}
                {t.count > 1 && <span className="text-ink-2"> × {t.count}</span>}
              </Fragment>,
              t.thread,
              <span key="v" className="font-mono text-small">
                {t.value}
                {t.for && <span className="block font-sans text-ink-2">{t.for}</span>}
              </span>,
              <span key="o" className="font-mono text-small">
                {t.other}
              </span>,
              <span key="l" className="text-ink-2">
                {t.lubricant}
              </span>,
              <span key="r" className="inline-block w-[60px] border-b border-ink-3">
                &nbsp;
              </span>,
            ])}
          />
        </div>
      );
    case "record":
      return (
        <table className="mt-1">
          <tbody>
            {b.rows?.map((r) => (
              <tr key={r.name + r.text}>
                <td>{r.name}</td>
                <td>{r.text}</td>
                <td className="text-ink-2">{moment(r.when)}</td>
              </tr>
            ))}
          </tbody>
        </table>
      );
  }
  return null;
}

/** moment is a time of the record as people write it; other words stay as they are. */
const moment = (when = "") =>
  /^\d{4}-\d\d-\d\dT/.test(when) ? new Date(when).toLocaleString("en-GB", { dateStyle: "long", timeStyle: "short" }) : when;

/** Table is a table of the sheet; one without rows says so. */
function Table({ head, rows }: { head: string[]; rows: ReactNode[][] }) {
  return (
    <>
      <table className="mt-1">
        <thead>
          <tr>
            {head.map((h) => (
              <th key={h} scope="col">
                {h}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {rows.map((r, i) => (
            <tr key={i} className="keep">
              {r.map((c, k) => (
                <td key={head[k]}>{c}</td>
              ))}
            </tr>
          ))}
        </tbody>
      </table>
      {rows.length === 0 && <p className="text-ink-2">None.</p>}
    </>
  );
}

/** Terms are names with what stands behind them; hashes and keys are set so that they can be compared. */
function Terms({ rows, small }: { rows: S["SheetRow"][]; small: boolean }) {
  const look = small ? "grid-cols-[110px_minmax(0,1fr)] text-small text-ink-2" : "grid-cols-[90px_1fr]";
  return (
    <dl className={`mt-2 grid gap-y-0.5 ${look}`}>
      {rows.map((r) => (
        <div key={r.name} className="contents">
          <dt className="text-ink-2">{r.name}</dt>
          <dd className="text-ink">
            {/^[0-9a-f:]{8,}$/.test(r.text) ? <span className="font-mono text-fine break-all">{r.text}</span> : r.text}
          </dd>
        </div>
      ))}
    </dl>
  );
}

/** Strip is the title strip; the one at the foot stands with the record. */
function Strip({ rows, foot, withdrawn }: { rows: S["SheetRow"][]; foot: boolean; withdrawn: boolean }) {
  return (
    <div className={foot ? "mt-6" : undefined}>
      {withdrawn && <Across />}
      <div className="keep grid grid-cols-[auto_auto_minmax(0,1fr)_auto_auto] border border-ink max-md:grid-cols-2 print:grid-cols-[auto_auto_minmax(0,1fr)_auto_auto]!">
        {rows.map((r) => (
          <div key={r.name} className="head-cell last:border-r-0">
            <div className="name">{r.name}</div>
            <div className="what">{r.text}</div>
          </div>
        ))}
      </div>
    </div>
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
          {st.pair && <Pair pair={st.pair} />}
          {st.picture && !st.pair && (
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

/** Pair is how it looks at a step as it should, and how once somebody made a mistake. */
function Pair({ pair }: { pair: S["SheetPair"] }) {
  return (
    <div className="step-pair mb-1" data-pair>
      {[
        { svg: pair.right, says: "So it looks right", mark: "✓" },
        { svg: pair.wrong, says: `So it looks when ${pair.when}. ${cap(pair.shows)}.`, mark: "✕" },
      ].map((v) => (
        <figure key={v.mark} className={v.mark === "✕" ? "wrong" : undefined}>
          {/* biome-ignore lint/security/noDangerouslySetInnerHtml: the SVG that can be exported; the server writes it and escapes every name in it */}
          <div className="drawn" dangerouslySetInnerHTML={{ __html: v.svg }} />
          <figcaption className="text-fine text-ink-2">
            <b className={v.mark === "✕" ? "text-clash" : "text-held"}>{v.mark}</b> {v.says}
          </figcaption>
        </figure>
      ))}
    </div>
  );
}

/** Across says over every page of a sheet, on the screen and on paper, that it is withdrawn. */
export function Across() {
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

/** boxOf is what the box of a step is ticked for: the step as it reads now. Another text has not been done yet. */
export const boxOf = (st: S["SheetStep"]) => `${st.id} ${st.text}`;

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
