import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { api, ask, type Failure } from "../api/client";
import { WordCell } from "./cells";
import { Add, type TabProps } from "./rows";
import { capital, figure, fresh, set, type Variation, type When } from "./sheet";
import { change, type SheetDraft } from "./useSheet";

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
                <td>
                  <OptionsIn
                    value={c.when.with}
                    editable={editable}
                    label="With options"
                    onChange={(v) => put({ ...c.when, with: v })}
                  />
                </td>
                <td>
                  <OptionsIn
                    value={c.when.without}
                    editable={editable}
                    label="Without options"
                    onChange={(v) => put({ ...c.when, without: v })}
                  />
                </td>
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

/** OptionsIn types the options a case asks for, or rules out, with commas between. */
function OptionsIn({
  value,
  editable,
  label,
  onChange,
}: {
  value?: string[];
  editable: boolean;
  label: string;
  onChange: (v?: string[]) => void;
}) {
  const text = value?.join(", ") ?? "";
  if (!editable) return <span>{text}</span>;
  return (
    <input
      key={text}
      aria-label={label}
      className="cell"
      style={{ width: 110 }}
      defaultValue={text}
      placeholder="any"
      onKeyDown={(e) => {
        e.stopPropagation();
        if (e.key === "Enter") e.currentTarget.blur();
      }}
      onBlur={(e) => {
        const t = e.target.value.trim();
        if (t === text) return;
        const list = t
          .split(",")
          .map((o) => o.trim())
          .filter(Boolean);
        onChange(list.length ? list : undefined);
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
