import { useQuery } from "@tanstack/react-query";
import { Link } from "@tanstack/react-router";
import { type ReactNode, useState } from "react";
import { api, ask, type Failure } from "../api/client";
import { ChoiceCell, FigureCell, names, QuantityCell, SetCell, WordCell, words } from "./cells";
import { Add, Out, Row, Rows } from "./DriveTab";
import { capital, figure, fresh, set, type Variation, type When } from "./sheet";
import { change, type SheetDraft } from "./useSheet";

interface TabProps {
  draft: SheetDraft;
  selected: string;
  onSelect: (ref: string) => void;
}

const millimetres = (q?: string) => (q?.endsWith(" mm") ? Number.parseFloat(q) : undefined);

function Line({ name, children, note }: { name: string; children: ReactNode; note?: ReactNode }) {
  return (
    <tr>
      <th scope="row" className="w-[230px] !border-rule !text-[13px] !font-normal !text-ink">
        {name}
      </th>
      <td className="w-[320px]">{children}</td>
      <td className="text-[12px] text-ink-2">{note}</td>
    </tr>
  );
}

export function LimitsTab({ draft, selected, onSelect }: TabProps) {
  const { sheet, derived } = draft.view;
  return (
    <>
      <section className="mt-3">
        <h2 className="mb-1 text-[13px]">The engine</h2>
        <table className="sheet-table cells-left border-t border-ink">
          <tbody>
            <Line name="Maker">
              <WordCell draft={draft} path="maker" label="Maker" value={sheet.maker} needed />
            </Line>
            <Line name="Used in">
              <WordCell draft={draft} path="use" label="Used in" value={sheet.use} />
            </Line>
            <Line name="Years" note="An open end stands for still made.">
              <span className="flex items-center gap-1">
                <FigureCell draft={draft} path="years/from" label="First year" value={sheet.years.from} whole />–
                <FigureCell
                  draft={draft}
                  path="years/to"
                  label="Last year"
                  value={sheet.years.to || undefined}
                  whole
                  empty="now"
                />
              </span>
            </Line>
            <Line name="Cylinders">
              <FigureCell draft={draft} path="cylinders" label="Cylinders" value={sheet.cylinders} whole least={1} />
            </Line>
            <Line name="Cycle">
              <ChoiceCell
                draft={draft}
                path="cycle"
                label="Cycle"
                value={sheet.cycle}
                choices={words("four-stroke", "two-stroke")}
              />
            </Line>
            <Line name="Firing order">
              <WordCell
                draft={{
                  ...draft,
                  save: (e) =>
                    draft.save(
                      e.map((v) => ({
                        ...v,
                        value:
                          typeof v.value === "string"
                            ? v.value
                                .split(/[^0-9]+/)
                                .filter(Boolean)
                                .map(Number)
                            : v.value,
                      })),
                    ),
                }}
                path="firingOrder"
                label="Firing order"
                value={sheet.firingOrder?.join("–")}
              />
            </Line>
            <Line name="Runs" note={sheet.view}>
              <ChoiceCell
                draft={draft}
                path="running"
                label="Runs"
                value={sheet.running}
                choices={words("clockwise", "counterclockwise")}
              />
            </Line>
            <Line name="Seen from">
              <WordCell draft={draft} path="view" label="Seen from" value={sheet.view} needed />
            </Line>
            <Line name="Left and right">
              <WordCell draft={draft} path="sides" label="Left and right" value={sheet.sides} />
            </Line>
            <Line name="Valves meet pistons">
              <ChoiceCell
                draft={draft}
                path="interference"
                label="Valves meet pistons"
                value={sheet.interference}
                choices={words("yes", "no", "unknown")}
              />
            </Line>
            <Line name="Bore">
              <QuantityCell draft={draft} path="bore" label="Bore" value={sheet.bore} empty="82 mm" />
            </Line>
            <Line name="Stroke">
              <QuantityCell draft={draft} path="stroke" label="Stroke" value={sheet.stroke} empty="85 mm" />
            </Line>
            <Line
              name="Connecting rod"
              note={
                derived.piston.length > 0 && (
                  <>
                    The piston stands{" "}
                    {derived.piston
                      .slice(0, 4)
                      .map((p) => `${p.drop.toFixed(2)} mm down at ${p.deg}°`)
                      .join(", ")}
                    .{" "}
                    <Link
                      to="/arithmetic"
                      className="underline"
                      search={{ stroke: millimetres(sheet.stroke), rod: millimetres(sheet.rod) }}
                    >
                      Find TDC by equal drops
                    </Link>
                  </>
                )
              }
            >
              <QuantityCell draft={draft} path="rod" label="Connecting rod" value={sheet.rod} empty="138 mm" />
            </Line>
          </tbody>
        </table>
      </section>
      <section className="mt-5">
        <h2 className="mb-1 text-[13px]">Limits</h2>
        <table className="sheet-table cells-left border-t border-ink">
          <tbody>
            <Line name="Greatest cam error passed, °">
              <FigureCell
                draft={draft}
                path="limits/camError"
                label="Greatest cam error, degrees"
                value={sheet.limits.camError}
                least={0}
              />
            </Line>
            <Line name="Safe window, loop off, ±° crank" note="Beyond it, with the belt or chain off, pistons may meet valves.">
              <FigureCell
                draft={draft}
                path="limits/safeWindow"
                label="Safe window, degrees"
                value={sheet.limits.safeWindow}
                least={0}
              />
            </Line>
            <Line name="Rest position, ° after TDC" note="The cams rest there without being thrown by their springs.">
              <FigureCell draft={draft} path="limits/rest" label="Rest position, degrees" value={sheet.limits.rest} />
            </Line>
            <Line name="Allowed back-off, °" note="How far the crank may be turned backwards to seat a tool.">
              <FigureCell
                draft={draft}
                path="limits/backOff"
                label="Allowed back-off, degrees"
                value={sheet.limits.backOff}
                least={0}
              />
            </Line>
          </tbody>
        </table>
      </section>
      <Rows
        caption="Tensioners"
        add={
          <Add
            draft={draft}
            onClick={() => {
              const id = fresh("tensioner", sheet.tensioners);
              draft.save([set(`tensioners/${id}`, { id, name: "new tensioner", method: "eccentric with pointer", travel: 5 })]);
            }}
          >
            Add a tensioner
          </Add>
        }
        head={[
          "Tensioner",
          "Method",
          "Wheel it moves",
          { name: "± mm", num: true },
          { name: "Moves °", num: true },
          "Pin",
          "Turned",
          "Bolts",
          { name: "Settle", num: true },
          "Wait",
          "Note",
          "",
        ]}
      >
        {(sheet.tensioners ?? []).map((t) => {
          const p = `tensioners/${t.id}`;
          return (
            <Row key={t.id} at={p} selected={selected} onSelect={onSelect}>
              <td className="min-w-[100px] font-[600]">
                <WordCell draft={draft} path={`${p}/name`} label="Name" value={t.name} needed />
              </td>
              <td className="min-w-[120px]">
                <ChoiceCell
                  draft={draft}
                  path={`${p}/method`}
                  label="Method"
                  value={t.method}
                  choices={words(
                    "eccentric with pointer",
                    "over-tension, settle, set",
                    "hydraulic with pin",
                    "spring arm",
                    "ratchet plunger",
                    "frequency",
                    "pre-load by torque",
                    "fixed",
                  )}
                />
              </td>
              <td className="min-w-[80px]">
                <ChoiceCell
                  draft={draft}
                  path={`${p}/wheel`}
                  label="Wheel"
                  value={t.wheel}
                  choices={names(sheet.wheels)}
                  none=""
                />
              </td>
              <td className="num">
                <FigureCell
                  draft={draft}
                  path={`${p}/travel`}
                  label="Travel either side, mm"
                  value={t.travel}
                  least={0}
                  width="40px"
                />
              </td>
              <td className="num">
                <FigureCell
                  draft={draft}
                  path={`${p}/moves`}
                  label="Way it moves, degrees from twelve o’clock"
                  value={t.moves}
                  width="44px"
                  empty="auto"
                />
              </td>
              <td>
                <ChoiceCell
                  draft={draft}
                  path={`${p}/pin`}
                  label="Pin"
                  value={t.pin}
                  choices={(sheet.tools ?? []).map((v) => ({ value: v.id, name: v.number }))}
                  none=""
                />
              </td>
              <td>
                <ChoiceCell
                  draft={draft}
                  path={`${p}/turn`}
                  label="Turned"
                  value={t.turn}
                  choices={words("clockwise", "counterclockwise")}
                  none=""
                />
              </td>
              <td className="max-w-[100px]">
                <SetCell draft={draft} path={`${p}/bolts`} label="Bolts" value={t.bolts} choices={names(sheet.fasteners)} />
              </td>
              <td className="num">
                <FigureCell
                  draft={draft}
                  path={`${p}/settle`}
                  label="Turns to settle"
                  value={t.settle}
                  whole
                  least={0}
                  width="36px"
                />
              </td>
              <td>
                <QuantityCell draft={draft} path={`${p}/wait`} label="Wait" value={t.wait} width="60px" />
              </td>
              <td>
                {t.frequency && (
                  <QuantityCell draft={draft} path={`${p}/frequency/note`} label="Note" value={t.frequency.note} width="84px" />
                )}
              </td>
              <Out draft={draft} path={p} name={t.name} />
            </Row>
          );
        })}
      </Rows>
      <Sources draft={draft} />
    </>
  );
}

/** Sources says where each safety-relevant value comes from; who said so, and when, is kept with it. */
function Sources({ draft }: { draft: SheetDraft }) {
  const { sheet } = draft.view;
  const things = [
    ...(sheet.locks ?? []).filter((l) => ["stop", "pin", "bar"].includes(l.kind)),
    ...(sheet.tensioners ?? []),
    ...(sheet.fasteners ?? []).filter((f) => f.onShaft || f.singleUse),
    { id: "limits", name: "limits" },
  ];
  return (
    <section className="mt-5">
      <h2 className="mb-1 text-[13px]">Where the safety-relevant values come from</h2>
      <table className="sheet-table border-t border-ink">
        <tbody>
          {things.map((t) => {
            const e = sheet.evidence?.[t.id];
            return (
              <Line key={t.id} name={capital(t.name)} note={e && [e.by, e.on].filter(Boolean).join(", ")}>
                <WordCell
                  draft={draft}
                  path={`evidence/${t.id}/source`}
                  label={`Source of the ${t.name}`}
                  value={e?.source}
                  empty="drawing, letter, measured at the bench…"
                />
              </Line>
            );
          })}
        </tbody>
      </table>
    </section>
  );
}

const thingLists = ["fasteners", "tensioners", "locks", "loops", "parts", "marks", "wheels"] as const;

/** whenText says a case as people do. */
function whenText(w: When) {
  const span = (r: { from?: number; to?: number } | undefined, name: string) =>
    r && (r.from || r.to) ? [`${name}${r.from ?? "…"}–${r.to || "now"}`] : [];
  const parts = [
    ...span(w.years, ""),
    ...span(w.builds, "build "),
    ...(w.with ?? []).map((o) => `with ${o}`),
    ...(w.without ?? []).map((o) => `without ${o}`),
  ];
  return parts.join(", ") || "all";
}

export function CasesTab({ draft, onSelect }: TabProps) {
  const { sheet } = draft.view;
  const things = thingLists.flatMap((l) =>
    ((sheet[l] ?? []) as { id: string; name: string }[]).map((v) => ({ value: `${l}/${v.id}`, name: v.name })),
  );
  return (
    <>
      <section className="mt-3">
        <h2 className="mb-1 text-[13px]">Options of this code</h2>
        <WordCell
          draft={{
            ...draft,
            save: (e) =>
              draft.save(
                e.map((v) => ({
                  ...v,
                  value:
                    typeof v.value === "string"
                      ? v.value
                          .split(",")
                          .map((o) => o.trim())
                          .filter(Boolean)
                      : v.value,
                })),
              ),
          }}
          path="options"
          label="Options"
          value={sheet.options?.join(", ")}
          empty="none; write them with commas between"
        />
      </section>
      {(sheet.varies ?? []).map((v) => (
        <Cases key={v.id} draft={draft} v={v} name={things.find((t) => t.value === v.of)?.name ?? v.of} onSelect={onSelect} />
      ))}
      {!sheet.varies?.length && (
        <p className="mt-4 text-ink-2">
          Every value holds for every engine of {sheet.code}. Where one changed, add cases for it.
        </p>
      )}
      {draft.view.meta.editable && (
        <select
          aria-label="Add cases for"
          className="field mt-4 !w-[260px]"
          value=""
          onChange={(e) => {
            const of = e.target.value;
            const id = fresh(of.split("/")[1], sheet.varies);
            const y = sheet.years;
            const last = y.to || new Date().getFullYear();
            const mid = Math.max(y.from, Math.min(last - 1, Math.floor((y.from + last) / 2)));
            draft.save([
              set(`varies/${id}`, {
                id,
                of,
                cases: [
                  { when: { years: { from: y.from, to: mid } }, set: {} },
                  { when: { years: { from: mid + 1, ...(y.to ? { to: y.to } : {}) } }, set: {} },
                ],
              }),
            ]);
          }}
        >
          <option value="">Add cases for a value…</option>
          {things.map((t) => (
            <option key={t.value} value={t.value}>
              {t.name}
            </option>
          ))}
        </select>
      )}
      <ForOne draft={draft} />
    </>
  );
}

function Cases({ draft, v, name, onSelect }: { draft: SheetDraft; v: Variation; name: string; onSelect: (r: string) => void }) {
  const p = `varies/${v.id}`;
  const bad = draft.view.findings.find((f) => f.on === p);
  const keep = (cases: Variation["cases"]) => change(draft, `${p}/cases`, cases);
  const editable = draft.view.meta.editable;
  return (
    <section className="mt-5" onFocus={() => onSelect(p)}>
      <div className="flex items-baseline gap-3 border-b border-ink pb-0.5">
        <h2 className="text-[13px]">{capital(name)}</h2>
        {bad && <p className="text-[12px] font-[600] text-clash">{bad.what}</p>}
        {editable && (
          <span className="ml-auto">
            <Add draft={draft} onClick={() => keep([...v.cases, { when: {}, set: { ...v.cases[v.cases.length - 1]?.set } }])}>
              Add a case
            </Add>
            <button type="button" className="button quiet !min-h-[22px]" onClick={() => draft.save([{ path: p }])}>
              Take the cases out
            </button>
          </span>
        )}
      </div>
      <YearBar draft={draft} v={v} />
      <table className="sheet-table">
        <thead>
          <tr>
            <th scope="col">Years</th>
            <th scope="col">Build numbers</th>
            <th scope="col">With</th>
            <th scope="col">Without</th>
            <th scope="col">Then</th>
            <th scope="col" />
          </tr>
        </thead>
        <tbody>
          {v.cases.map((c, i) => {
            const put = (when: When) => keep(v.cases.map((o, k) => (k === i ? { ...o, when } : o)));
            return (
              <tr key={i}>
                <td>
                  <Span value={c.when.years} editable={editable} label="Years" onChange={(years) => put({ ...c.when, years })} />
                </td>
                <td>
                  <Span
                    value={c.when.builds}
                    editable={editable}
                    label="Build numbers"
                    onChange={(builds) => put({ ...c.when, builds })}
                  />
                </td>
                <td>{c.when.with?.join(", ")}</td>
                <td>{c.when.without?.join(", ")}</td>
                <td className="min-w-[180px]">
                  <Patch
                    value={c.set}
                    editable={editable}
                    of={v.of}
                    onChange={(s) => keep(v.cases.map((o, k) => (k === i ? { ...o, set: s } : o)))}
                  />
                </td>
                <td className="w-8 text-right">
                  {editable && v.cases.length > 1 && (
                    <button
                      type="button"
                      className="button quiet !min-h-[20px] !px-1"
                      aria-label={`Take out the case ${whenText(c.when)}`}
                      onClick={() => keep(v.cases.filter((_, k) => k !== i))}
                    >
                      ×
                    </button>
                  )}
                </td>
              </tr>
            );
          })}
        </tbody>
      </table>
    </section>
  );
}

/** YearBar draws which case holds in which year; gaps stay empty, overlaps are crossed. */
function YearBar({ draft, v }: { draft: SheetDraft; v: Variation }) {
  const y = draft.view.sheet.years;
  const last = y.to || new Date().getFullYear();
  const years = Array.from({ length: Math.max(1, Math.min(40, last - y.from + 1)) }, (_, i) => y.from + i);
  const plain = v.cases.every((c) => !c.when.builds && !c.when.with?.length && !c.when.without?.length);
  if (!plain) return null;
  return (
    <div className="mt-1.5 flex" role="img" aria-label="Which case holds in which year">
      {years.map((n) => {
        const hit = v.cases.flatMap((c, i) => ((c.when.years?.from ?? 0) <= n && n <= (c.when.years?.to || 9999) ? [i] : []));
        const look =
          hit.length === 0
            ? "bg-(--white) border-clash"
            : hit.length > 1
              ? "bg-clash-wash border-clash"
              : hit[0] % 2
                ? "bg-held-wash"
                : "bg-marking-wash";
        return (
          <span
            key={n}
            className={`mr-px flex-1 border border-transparent py-0.5 text-center font-mono text-[11px] ${look}`}
            title={hit.length === 0 ? `${n}: no case` : hit.length > 1 ? `${n}: ${hit.length} cases` : `${n}: case ${hit[0] + 1}`}
          >
            {String(n).slice(2)}
            {hit.length !== 1 && <span className="text-clash"> ✕</span>}
          </span>
        );
      })}
    </div>
  );
}

function Span({
  value,
  editable,
  label,
  onChange,
}: {
  value?: { from?: number; to?: number };
  editable: boolean;
  label: string;
  onChange: (v?: { from?: number; to?: number }) => void;
}) {
  const text = value && (value.from || value.to) ? `${value.from ?? ""}–${value.to || ""}` : "";
  if (!editable) return <span>{text}</span>;
  return (
    <input
      key={text}
      aria-label={`${label}, from–to`}
      className="cell font-mono text-[12px]"
      style={{ width: 110 }}
      defaultValue={text}
      placeholder="all"
      onKeyDown={(e) => {
        e.stopPropagation();
        if (e.key === "Enter") e.currentTarget.blur();
      }}
      onBlur={(e) => {
        const t = e.target.value.trim();
        if (t === text) return;
        const [a, b] = t.split(/[–-]/).map((s) => figure(s));
        const from = a && !Number.isNaN(a) ? a : undefined;
        const to = b && !Number.isNaN(b) ? b : undefined;
        onChange(from || to ? { ...(from ? { from } : {}), ...(to ? { to } : {}) } : undefined);
      }}
    />
  );
}

/** Patch types what a case sets: for a fastener its stages, otherwise a value as JSON writes it. */
function Patch({
  value,
  editable,
  of,
  onChange,
}: {
  value: Record<string, unknown>;
  editable: boolean;
  of: string;
  onChange: (v: Record<string, unknown>) => void;
}) {
  const bolt = of.startsWith("fasteners/");
  const spec = value.spec as { torque?: string; angle?: string }[] | undefined;
  const text = bolt
    ? (spec ?? []).map((g) => g.torque ?? g.angle ?? "").join(" + ")
    : Object.entries(value)
        .map(([k, v]) => `${k} ${typeof v === "string" ? v : JSON.stringify(v)}`)
        .join(", ");
  if (!editable) return <span className="font-mono text-[12px]">{text}</span>;
  return (
    <input
      key={text}
      aria-label="What holds then"
      className="cell font-mono text-[12px]"
      defaultValue={text}
      placeholder={bolt ? "42 Nm" : "play 0.4"}
      onKeyDown={(e) => {
        e.stopPropagation();
        if (e.key === "Enter") e.currentTarget.blur();
      }}
      onBlur={(e) => {
        const t = e.target.value.trim();
        if (t === text) return;
        if (bolt)
          return onChange(
            t ? { spec: t.split("+").map((s) => (/°|deg|turn/i.test(s) ? { angle: s.trim() } : { torque: s.trim() })) } : {},
          );
        const out: Record<string, unknown> = {};
        for (const part of t.split(",").map((s) => s.trim())) {
          const [k, ...rest] = part.split(/\s+/);
          const word = rest.join(" ");
          if (k) out[k] = word !== "" && !Number.isNaN(Number(word)) ? Number(word) : word;
        }
        onChange(out);
      }}
    />
  );
}

/** ForOne settles every case for one engine. */
function ForOne({ draft }: { draft: SheetDraft }) {
  const { sheet, meta } = draft.view;
  const [year, setYear] = useState(String(sheet.years.from));
  const [build, setBuild] = useState("");
  const [options, setOptions] = useState<string[]>([]);
  const car = { year: figure(year) ?? 0, build: figure(build) || undefined, options };
  const { data, error } = useQuery({
    queryKey: ["car", meta.code, meta.number, meta.version, car],
    queryFn: () =>
      ask(
        api.POST("/api/engines/{code}/car", { params: { path: { code: meta.code }, query: { number: meta.number } }, body: car }),
      ),
    retry: false,
  });
  if (!sheet.varies?.length) return null;
  return (
    <section className="mt-6 border-t border-ink pt-2">
      <h2 className="text-[13px]">What holds for one engine</h2>
      <div className="mt-1 flex flex-wrap items-end gap-3">
        <label className="w-[90px]">
          <span className="label">Year</span>
          <input className="field" value={year} onChange={(e) => setYear(e.target.value)} inputMode="numeric" />
        </label>
        <label className="w-[110px]">
          <span className="label">Build number</span>
          <input className="field" value={build} onChange={(e) => setBuild(e.target.value)} inputMode="numeric" />
        </label>
        {(sheet.options ?? []).map((o) => (
          <label key={o} className="flex h-[28px] items-center gap-1.5">
            <input
              type="checkbox"
              className="accent-(--color-marking)"
              checked={options.includes(o)}
              onChange={(e) => setOptions(e.target.checked ? [...options, o] : options.filter((v) => v !== o))}
            />
            with {o}
          </label>
        ))}
      </div>
      {error && <p className="mt-2 text-clash">{(error as Failure).message}</p>}
      <ul className="mt-2">
        {data?.map((s) => (
          <li key={s.id}>
            {capital(s.name)}: case {s.case + 1}, {s.when}
          </li>
        ))}
      </ul>
    </section>
  );
}
