import { useQuery } from "@tanstack/react-query";
import { useEffect, useState } from "react";
import { api, ask, type Failure } from "../../api/client";
import { listed, WordCell } from "./cells";
import { Add, type TabProps } from "./rows";
import { capital, figure, fresh, set, type Variation } from "./sheet";
import { change, type SheetDraft } from "./useSheet";

const thingLists = [
  "fasteners",
  "tensioners",
  "locks",
  "loops",
  "parts",
  "marks",
  "readings",
  "wheels",
  "tools",
  "fluids",
] as const;

export function CasesTab({ draft, onSelect }: TabProps) {
  const { sheet } = draft.view;
  const things = thingLists.flatMap((l) =>
    ((sheet[l] ?? []) as { id: string; name: string }[]).map((v) => ({ value: `${l}/${v.id}`, name: v.name })),
  );
  return (
    <>
      <section className="mt-3">
        <h2 className="mb-1 text-body">Options of this code</h2>
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
            draft.save([set(`varies/${id}`, { id, of, cases: draft.view.derived.firstCases })]);
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
  const keep = (cases: unknown[]) => change(draft, `${p}/cases`, cases);
  const editable = draft.view.meta.editable;
  const refused = draft.refused?.path === `${p}/cases` ? draft.refused.why : undefined;
  const bolt = v.of.startsWith("fasteners/");
  const lines = draft.view.derived.cases.find((c) => c.id === v.id)?.lines ?? [];
  return (
    <section className="mt-5" onFocus={() => onSelect(p)}>
      <div className="flex items-baseline gap-3 border-b border-ink pb-0.5">
        <h2 className="text-body">{capital(name)}</h2>
        {bad && <p className="text-small font-[600] text-clash">{bad.what}</p>}
        {editable && (
          <span className="ml-auto">
            <Add draft={draft} onClick={() => keep([...v.cases, { when: {}, set: { ...v.cases[v.cases.length - 1]?.set } }])}>
              Add a case
            </Add>
            <button type="button" className="button quiet slim" onClick={() => draft.save([{ path: p }])}>
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
            <th scope="col">
              <span className="sr-only">Remove</span>
            </th>
          </tr>
        </thead>
        <tbody>
          {v.cases.map((_, i) => {
            const line = lines[i];
            if (!line) return null;
            // A part of a case is sent as it was typed; the server reads it.
            const put = (when: Record<string, string>) =>
              keep(v.cases.map((o, k) => (k === i ? { ...o, when: { ...o.when, ...when } } : o)));
            return (
              <tr key={i}>
                <td>
                  <LineIn
                    mono
                    editable={editable}
                    refused={refused}
                    label="Years, from–to"
                    empty="all"
                    text={line.years}
                    onText={(t) => put({ years: t })}
                  />
                </td>
                <td>
                  <LineIn
                    mono
                    editable={editable}
                    refused={refused}
                    label="Build numbers, from–to"
                    empty="all"
                    text={line.builds}
                    onText={(t) => put({ builds: t })}
                  />
                </td>
                <td>
                  <LineIn
                    editable={editable}
                    refused={refused}
                    label="With options"
                    empty="any"
                    text={line.with}
                    onText={(t) => put({ with: t })}
                  />
                </td>
                <td>
                  <LineIn
                    editable={editable}
                    refused={refused}
                    label="Without options"
                    empty="any"
                    text={line.without}
                    onText={(t) => put({ without: t })}
                  />
                </td>
                <td className="min-w-[180px]">
                  <LineIn
                    mono
                    editable={editable}
                    refused={refused}
                    label="What holds then"
                    empty={bolt ? "42 Nm or not fitted" : "value or not fitted"}
                    text={line.then}
                    onText={(t) => keep(v.cases.map((o, k) => (k === i ? { ...o, set: t } : o)))}
                  />
                </td>
                <td className="w-8 text-right">
                  {editable && v.cases.length > 1 && (
                    <button
                      type="button"
                      className="button quiet slim !px-1"
                      aria-label={`Remove the case ${line.says}`}
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
            className={`mr-px flex-1 border border-transparent py-0.5 text-center font-mono text-fine ${look}`}
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

/** LineIn is a line kept when it is left or Enter is pressed, and only if it changed; what the server refuses stays, red. */
function LineIn({
  text,
  label,
  empty,
  mono,
  editable,
  refused,
  onText,
}: {
  text: string;
  label: string;
  empty: string;
  mono?: boolean;
  editable: boolean;
  refused?: string;
  onText: (t: string) => void;
}) {
  const [typed, setTyped] = useState(text);
  useEffect(() => setTyped(text), [text]);
  const look = mono ? "font-mono text-small" : "";
  if (!editable) return <span className={look}>{text}</span>;
  const bad = refused && typed.trim() !== text ? refused : undefined;
  return (
    <>
      <input
        aria-label={label}
        aria-invalid={!!bad}
        className={`cell min-w-[110px] ${look}`}
        value={typed}
        placeholder={empty}
        onChange={(e) => setTyped(e.target.value)}
        onKeyDown={(e) => {
          e.stopPropagation();
          if (e.key === "Enter") e.currentTarget.blur();
          if (e.key === "Escape") setTyped(text);
        }}
        onBlur={() => typed.trim() !== text && onText(typed.trim())}
      />
      {bad && <span className="block text-small font-[600] text-clash">{bad}</span>}
    </>
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
      <h2 className="text-body">What holds for one engine</h2>
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
