import { useQuery } from "@tanstack/react-query";
import { useParams } from "@tanstack/react-router";
import { Tabs } from "radix-ui";
import type { ReactNode } from "react";
import { engine } from "../api/queries";
import { Drive } from "../drawing/Drive";
import { Trouble, Waiting } from "../shell/Trouble";

type Any = Record<string, unknown>;
const list = (v: unknown) => (Array.isArray(v) ? (v as Any[]) : []);
const text = (v: unknown) => (v === undefined || v === null ? "" : String(v));

/** Engine shows one engine sheet: the drive and its arithmetic, read only. */
export function Engine() {
  const { code } = useParams({ from: "/inside/engines/$code" });
  const { data, error, refetch } = useQuery(engine(code));
  if (error) return <Trouble error={error} again={refetch} />;
  if (!data) return <Waiting />;
  const s = data.sheet as Any;
  const years = s.years as { from?: number; to?: number } | undefined;
  const limits = (s.limits ?? {}) as Record<string, number>;
  const names = new Map(
    ["shafts", "wheels", "loops", "marks", "locks", "tensioners", "fasteners", "parts", "tools"].flatMap((k) =>
      list(s[k]).map((v) => [`${k}:${v.id}`, text(v.name)] as const),
    ),
  );
  const name = (kind: string, id: unknown) => names.get(`${kind}:${id}`) ?? text(id);
  return (
    <main className="flex h-full flex-col">
      <div className="flex flex-none border-b border-ink bg-(--white)">
        {[
          ["Engine code", text(s.code)],
          ["Maker", text(s.maker)],
          ["Years", `${years?.from ?? ""}–${years?.to ?? ""}`],
          ["Cylinders", `${s.cylinders}, ${s.cycle}`],
          ["Firing order", list(s.firingOrder).join("–")],
          ["Bore × stroke", `${s.bore} × ${s.stroke}`],
          ["Runs", `${s.running}, ${text(s.view)}`],
          ["Valves meet pistons", text(s.interference)],
        ].map(([k, v]) => (
          <div key={k} className="head-cell last:flex-1 last:border-r-0">
            <div className="name">{k}</div>
            <div className="what" title={v}>
              {v}
            </div>
          </div>
        ))}
      </div>
      <div className="flex min-h-0 flex-1 flex-col lg:flex-row">
        <div className="min-h-[300px] flex-none bg-(--white) p-3 lg:w-[44%] lg:border-r lg:border-rule">
          <Drive drawing={data.drawing} className="h-full w-full" />
        </div>
        <Tabs.Root defaultValue="drive" className="flex min-h-0 min-w-0 flex-1 flex-col">
          <Tabs.List className="flex flex-none items-end border-b border-rule bg-film px-3 pt-1" aria-label="The sheet">
            {[
              ["drive", "Drive"],
              ["marks", "Marks and locks"],
              ["fasteners", "Fasteners"],
              ["parts", "Parts"],
              ["limits", "Limits"],
            ].map(([v, n]) => (
              <Tabs.Trigger
                key={v}
                value={v}
                className="tab data-[state=active]:border-rule data-[state=active]:bg-sheet data-[state=active]:font-[650] data-[state=active]:text-ink"
              >
                {n}
              </Tabs.Trigger>
            ))}
          </Tabs.List>
          <div className="scroller min-h-0 flex-1 overflow-auto px-4 pb-6">
            <Tabs.Content value="drive">
              <Table
                head={["Wheel", "Shaft", "Mount", "Teeth or diameter", "x, y mm"]}
                rows={list(s.wheels).map((w) => [
                  text(w.name),
                  name("shafts", w.shaft),
                  text(w.mount),
                  w.teeth ? `${w.teeth} teeth` : `${w.diameter} mm`,
                  `${w.x}, ${w.y}`.replaceAll("-", "−"),
                ])}
              />
              <h2 className="mt-5 text-[13px]">What follows</h2>
              <Table
                head={["Shaft", "Turns per crank turn", "One tooth"]}
                rows={data.derived.shafts.map((d) => [d.name, d.ratio, d.tooth])}
              />
              {data.derived.loops.map((l) => (
                <p key={l.name} className="mt-3">
                  <b className="font-[650]">{l.name.charAt(0).toUpperCase() + l.name.slice(1)}:</b> {l.teeth} teeth × {l.pitch} mm
                  = {l.length.toFixed(1)} mm; the path round the wheels is {l.path.toFixed(1)} mm. It {l.says}.
                </p>
              ))}
            </Tabs.Content>
            <Tabs.Content value="marks">
              <Table
                head={["Lock", "Kind", "Holds", "Goes in at", "Play", "Bolt torque", "Tool"]}
                rows={list(s.locks).map((l) => [
                  text(l.name),
                  text(l.kind),
                  (l.holds as string[]).map((h) => name("shafts", h)).join(", "),
                  l.repeats ? `${l.at ?? 0}°` : "anywhere",
                  l.play ? `±${l.play}°` : "",
                  l.carriesTorque ? "may carry it" : "must not",
                  name("tools", l.tool),
                ])}
              />
              <Table
                head={["Mark", "On", "Meets", "Looks like", "Shows"]}
                rows={list(s.marks).map((m) => [
                  text(m.name),
                  m.wheel ? name("wheels", m.wheel) : name("loops", m.loop),
                  text(m.pointer),
                  text(m.look),
                  m.shows ? `${m.shows}°` : m.kind === "look-alike" ? "not a mark" : "",
                ])}
              />
              <h2 className="mt-5 text-[13px]">Home again</h2>
              <Table
                head={["Mark or lock", "Kind", "Stands home"]}
                rows={data.derived.homes.map((h) => [h.name, h.kind, h.says])}
              />
            </Tabs.Content>
            <Tabs.Content value="fasteners">
              <Table
                head={["Fastener", "Count", "Thread", "Tightened to", "Held with", "Use"]}
                rows={list(s.fasteners).map((f) => [
                  text(f.name),
                  text(f.count),
                  text(f.thread),
                  list(f.spec)
                    .map((g) => [g.torque, g.angle].filter(Boolean).join(" + "))
                    .join(" + "),
                  name("locks", f.holdWith),
                  f.singleUse ? "once" : "",
                ])}
              />
            </Tabs.Content>
            <Tabs.Content value="parts">
              <Table
                head={["Part", "Kind", "Policy", "Look for", "Comes off after"]}
                rows={list(s.parts).map((p) => [
                  text(p.name),
                  text(p.kind),
                  text(p.policy),
                  text(p.if),
                  ((p.after as string[]) ?? []).map((a) => name("parts", a)).join(", "),
                ])}
              />
            </Tabs.Content>
            <Tabs.Content value="limits">
              <Table
                head={["Limit", "Value"]}
                rows={[
                  ["Greatest cam error passed", `${limits.camError ?? ""}°`],
                  ["Safe window with the belt off", `±${limits.safeWindow ?? ""}° crank`],
                  ["Rest position", `${limits.rest ?? ""}° after TDC`],
                  ["Allowed back-off", `${limits.backOff ?? ""}°`],
                ]}
              />
              <p className="mt-4 text-ink-2">{text(s.sides)}</p>
            </Tabs.Content>
          </div>
        </Tabs.Root>
      </div>
    </main>
  );
}

function Table({ head, rows }: { head: string[]; rows: ReactNode[][] }) {
  return (
    <table className="mt-3 w-full border-collapse">
      <thead>
        <tr>
          {head.map((h) => (
            <th key={h} scope="col" className="border-b border-ink py-1 pr-3 text-left text-[11.5px] font-[600] text-ink-2">
              {h}
            </th>
          ))}
        </tr>
      </thead>
      <tbody>
        {rows.map((r, i) => (
          <tr key={i} className="border-b border-rule">
            {r.map((c, k) => (
              <td key={k} className={`py-1.5 pr-3 align-baseline ${k === 0 ? "font-[650]" : ""}`}>
                {c}
              </td>
            ))}
          </tr>
        ))}
      </tbody>
    </table>
  );
}
