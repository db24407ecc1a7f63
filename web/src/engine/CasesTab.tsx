import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { api, ask, type Failure } from "../api/client";
import { listed, WordCell } from "./cells";
import { Add, type TabProps } from "./rows";
import { capital, figure, fresh, type Stage, set, stagesText, type Variation, type When } from "./sheet";
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
          draft={draft}
          path="options"
          label="Options"
          value={sheet.options?.join(", ")}
          empty="none; write them with commas between"
          reads={listed}
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
  const bolt = v.of.startsWith("fasteners/");
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
            const words = (o?: string[]) => o?.join(", ") ?? "";
            const some = (t: string) => (t ? listed(t) : undefined);
            return (
              <tr key={i}>
                <td>
                  <LineIn
                    mono
                    editable={editable}
                    label="Years, from–to"
                    empty="all"
                    text={rangeText(c.when.years)}
                    onText={(t) => put({ ...c.when, years: rangeOf(t) })}
                  />
                </td>
                <td>
                  <LineIn
                    mono
                    editable={editable}
                    label="Build numbers, from–to"
                    empty="all"
                    text={rangeText(c.when.builds)}
                    onText={(t) => put({ ...c.when, builds: rangeOf(t) })}
                  />
                </td>
                <td>
                  <LineIn
                    editable={editable}
                    label="With options"
                    empty="any"
                    text={words(c.when.with)}
                    onText={(t) => put({ ...c.when, with: some(t) })}
                  />
                </td>
                <td>
                  <LineIn
                    editable={editable}
                    label="Without options"
                    empty="any"
                    text={words(c.when.without)}
                    onText={(t) => put({ ...c.when, without: some(t) })}
                  />
                </td>
                <td className="min-w-[180px]">
                  <LineIn
                    mono
                    editable={editable}
                    label="What holds then"
                    empty={bolt ? "42 Nm" : "play 0.4"}
                    text={patchText(c.set, bolt)}
                    onText={(t) => keep(v.cases.map((o, k) => (k === i ? { ...o, set: patchOf(t, bolt) } : o)))}
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
  const years = draft.view.derived.cases.find((c) => c.id === v.id)?.years ?? [];
  if (years.length === 0) return null;
  return (
    <div className="mt-1.5 flex" role="img" aria-label="Which case holds in which year">
      {years.map(({ year, cases }) => {
        const one = cases.length === 1;
        const look = one
          ? cases[0] % 2
            ? "bg-held-wash"
            : "bg-marking-wash"
          : `border-clash ${cases.length ? "bg-clash-wash" : "bg-(--white)"}`;
        return (
          <span
            key={year}
            className={`mr-px flex-1 border border-transparent py-0.5 text-center font-mono text-[11px] ${look}`}
            title={`${year}: ${one ? `case ${cases[0] + 1}` : cases.length ? `${cases.length} cases` : "no case"}`}
          >
            {String(year).slice(2)}
            {!one && <span className="text-clash"> ✕</span>}
          </span>
        );
      })}
    </div>
  );
}

/** LineIn is a line kept when it is left or Enter is pressed, and only if it changed. */
function LineIn({
  text,
  label,
  empty,
  mono,
  editable,
  onText,
}: {
  text: string;
  label: string;
  empty: string;
  mono?: boolean;
  editable: boolean;
  onText: (t: string) => void;
}) {
  const look = mono ? "font-mono text-[12px]" : "";
  if (!editable) return <span className={look}>{text}</span>;
  return (
    <input
      key={text}
      aria-label={label}
      className={`cell min-w-[110px] ${look}`}
      defaultValue={text}
      placeholder={empty}
      onKeyDown={(e) => {
        e.stopPropagation();
        if (e.key === "Enter") e.currentTarget.blur();
      }}
      onBlur={(e) => {
        const t = e.target.value.trim();
        if (t !== text) onText(t);
      }}
    />
  );
}

type Range = { from?: number; to?: number };
const rangeText = (r?: Range) => (r && (r.from || r.to) ? `${r.from ?? ""}–${r.to || ""}` : "");

/** rangeOf reads “2019–2021”, “2023–” or “–500”; undefined for all. */
function rangeOf(text: string): Range | undefined {
  const [from, to] = text.split(/[–-]/).map((s) => figure(s) || undefined);
  return from || to ? { ...(from ? { from } : {}), ...(to ? { to } : {}) } : undefined;
}

type Patch = Record<string, unknown>;

/** patchText writes what a case sets: for a fastener its stages, otherwise each value by its name. */
const patchText = (set: Patch, bolt: boolean) =>
  bolt
    ? stagesText(set.spec as Stage[] | string | undefined)
    : Object.entries(set)
        .map(([k, v]) => `${k} ${typeof v === "string" ? v : JSON.stringify(v)}`)
        .join(", ");

/** patchOf reads it back; the server reads stages. */
function patchOf(text: string, bolt: boolean): Patch {
  if (bolt) return text ? { spec: text } : {};
  return Object.fromEntries(
    listed(text).map((part) => {
      const [k, ...rest] = part.split(/\s+/);
      const word = rest.join(" ");
      return [k, word !== "" && !Number.isNaN(Number(word)) ? Number(word) : word];
    }),
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
