import { Fragment } from "react";
import type { S } from "../../api/client";
import { cap } from "../../shell/cap";
import { fileOf } from "../tools/Keep";
import type { Ticks } from "./useTicks";

/** PickList is what is fetched before the work begins: each tool with the place where it goes, by kit, then parts and supplies, each with a box. */
export function PickList({ s, ticks }: { s: S["Sheet"]; ticks: Ticks }) {
  const supplies = s.header.prelims?.supplies ?? [];
  const kits = [...new Set(s.picks.map((k) => k.kit ?? ""))];
  return (
    <>
      <h2 className="text-title leading-tight">Pick list</h2>
      <p className="mt-1 text-ink-2">
        {s.header.title}. {s.maker} {s.code}, revision {s.meta.number}.
      </p>
      {s.notice && <p className="mt-3 border-l-[3px] border-clash bg-clash-wash px-3 py-1.5 font-[650]">{s.notice}</p>}
      {s.picks.length === 0 && <p className="mt-5 text-ink-2">This page needs no special tool.</p>}
      {kits.map((kit) => (
        <Fragment key={kit}>
          <h3 className="mt-6 border-b border-ink pb-0.5 text-lead text-marking">
            {kit ? `From kit ${kit}` : kits.length > 1 ? "Single tools" : "Special tools"}
          </h3>
          {s.picks
            .filter((k) => (k.kit ?? "") === kit)
            .map((k) => (
              <Tool key={k.number + k.name} k={k} ticks={ticks} />
            ))}
        </Fragment>
      ))}
      {s.parts.length > 0 && (
        <>
          <h3 className="mt-6 border-b border-ink pb-0.5 text-lead text-marking">New parts</h3>
          {s.parts.map((p) => (
            <Row key={p.name} of={`pick part ${p.name}`} name={p.name} ticks={ticks}>
              <b className="font-[650]">{p.count > 1 ? `${p.count} × ` : ""}</b>
              {cap(p.name)}
              {p.number && <span className="ml-2 font-mono text-small text-ink-2">{p.number}</span>}
              <span className="text-ink-2">, {p.why}</span>
            </Row>
          ))}
        </>
      )}
      {supplies.length > 0 && (
        <>
          <h3 className="mt-6 border-b border-ink pb-0.5 text-lead text-marking">Supplies</h3>
          {supplies.map((p) => (
            <Row key={p} of={`pick supply ${p}`} name={p} ticks={ticks}>
              {cap(p)}
            </Row>
          ))}
        </>
      )}
      <p className="mt-6 border-l-[3px] border-paint bg-paint-wash px-3 py-1.5">{s.safety}</p>
    </>
  );
}

/** Tool is one tool: its number and name, what it does when, and the engine where it sits. */
function Tool({ k, ticks }: { k: S["SheetPick"]; ticks: Ticks }) {
  return (
    <Row of={`pick ${k.number} ${k.name}`} name={`${k.number} ${k.name}`} ticks={ticks}>
      <span className="grid grid-cols-[minmax(0,1fr)_auto] gap-5">
        <span>
          <span className="font-mono whitespace-nowrap">{k.number}</span> <b className="font-[650]">{k.name}</b>
          {k.for.map((f) => (
            <span key={f} className="block text-ink-2">
              {cap(f)}
            </span>
          ))}
          {k.sets && (
            <span className="block text-ink-2">
              Set to <span className="font-mono text-small text-ink">{k.sets.join(", ")}</span>
            </span>
          )}
          {k.steps.length > 0 && k.for.length === 0 && (
            <span className="block text-ink-2">
              Step{k.steps.length > 1 ? "s" : ""} {k.steps.join(", ")}
            </span>
          )}
          {k.steps.length === 0 && <span className="block text-ink-2">No step names it</span>}
        </span>
        <span className="flex items-start gap-3">
          {k.file && (
            <img className="pick-photo" src={fileOf("tool", k.number, { id: k.file })} alt={`${k.name}, as the house has it`} />
          )}
          {k.picture && (
            <figure className="pick-picture">
              {/* biome-ignore lint/security/noDangerouslySetInnerHtml: the SVG that can be exported; the server writes it and escapes every name in it */}
              <div className="drawn" dangerouslySetInnerHTML={{ __html: k.picture }} />
              <figcaption className="text-fine text-ink-2">{cap(k.shows ?? "")}</figcaption>
            </figure>
          )}
        </span>
      </span>
    </Row>
  );
}

/** Row is a line with a box that is ticked once the thing is on the trolley. */
function Row({ of, name, ticks, children }: { of: string; name: string; ticks: Ticks; children: React.ReactNode }) {
  return (
    <div className="keep grid grid-cols-[26px_minmax(0,1fr)] border-b border-rule py-2">
      <input
        type="checkbox"
        className="tick"
        aria-label={`${name} is fetched`}
        checked={ticks.done.has(of)}
        onChange={(e) => ticks.tick(of, e.target.checked)}
      />
      <span>{children}</span>
    </div>
  );
}
