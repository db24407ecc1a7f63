import { useQuery } from "@tanstack/react-query";
import { type ReactNode, useEffect, useRef, useState } from "react";
import type { S } from "../api/client";
import { verbs } from "../api/queries";
import { Things } from "./Things";

type Step = S["Step"];
type Field = S["Field"];

/** StepEditor edits a step in place: its verb's fields as chips, then wording, note and cautions. Every change is looked at on the virtual engine at once and saved a moment later. */
export function StepEditor({
  step,
  sentence,
  drawing,
  chips,
  onLook,
  onRead,
  onSave,
  onDone,
}: {
  step: Step;
  sentence: string;
  drawing: S["Drawing"];
  chips: ReactNode;
  onLook: (s: Step) => void;
  /** reads a line of free text that was written again */
  onRead: (line: string) => Promise<S["Reading"] | undefined>;
  onSave: (s: Step) => void;
  onDone: () => void;
}) {
  const { data } = useQuery(verbs);
  const [mine, setMine] = useState(step);
  const [more, setMore] = useState(!!step.wording || !!step.note);
  const [bad, setBad] = useState<Record<string, string>>({});
  const dirty = useRef(false);
  const timer = useRef<ReturnType<typeof setTimeout>>(undefined);
  const box = useRef<HTMLDivElement>(null);
  const cautions = useRef<HTMLDivElement>(null);
  const latest = useRef(mine);
  const save = useRef(onSave);
  save.current = onSave;
  latest.current = mine;
  const arrived = JSON.stringify(step);
  // biome-ignore lint/correctness/useExhaustiveDependencies: arrived stands for step
  useEffect(() => {
    if (!dirty.current) setMine(step);
  }, [arrived]);
  useEffect(
    () => () => {
      clearTimeout(timer.current);
      if (dirty.current) save.current(latest.current);
    },
    [],
  );
  useEffect(() => {
    box.current?.querySelector<HTMLElement>("button, input, textarea, select")?.focus();
  }, []);
  const spec = data?.verbs.find((v) => v.verb === mine.verb);
  const change = (patch: Partial<Step>) => {
    const next = { ...mine, ...patch };
    for (const k of Object.keys(next)) {
      const v = next[k];
      if (
        k !== "id" &&
        k !== "phase" &&
        k !== "verb" &&
        (v === "" || v === false || v === 0 || v === undefined || (Array.isArray(v) && v.length === 0))
      )
        delete next[k];
    }
    setMine(next);
    dirty.current = true;
    onLook(next);
    clearTimeout(timer.current);
    timer.current = setTimeout(() => {
      dirty.current = false;
      onSave(next);
    }, 700);
  };
  const first = useRef(step.text);
  const leave = async () => {
    clearTimeout(timer.current);
    const now = latest.current;
    // Free text that was written again is read like a new line.
    if (now.verb === "do" && now.text && now.text !== first.current) {
      const r = await onRead(String(now.text));
      if (r && !r.problem && !r.aside && r.step.verb !== "do") {
        dirty.current = false;
        const { id, phase, note, tools } = now;
        onSave({ ...r.step, id, phase, note, tools, cautions: [...(now.cautions ?? []), ...(r.step.cautions ?? [])] });
        onDone();
        return;
      }
    }
    if (dirty.current) {
      dirty.current = false;
      onSave(now);
    }
    onDone();
  };
  return (
    <div
      ref={box}
      className="mr-3 mb-2 ml-10"
      onKeyDown={(e) => {
        // What is typed in a list that floats over the editor is not the editor's.
        if (!box.current?.contains(e.target as Node)) return;
        if (e.key === "Escape") {
          e.stopPropagation();
          leave();
        } else if (e.key === "Enter" && (e.target as HTMLElement).tagName === "INPUT") {
          e.preventDefault();
          leave();
        }
        if (!(e.ctrlKey || e.metaKey) || e.key.toLowerCase() !== "z") e.stopPropagation();
      }}
    >
      <div className="flex flex-wrap items-center gap-1.5">
        {spec?.fields.map((f) => (
          <FieldChip
            key={f.key}
            field={f}
            step={mine}
            things={drawing.things}
            trouble={bad[f.key]}
            onTrouble={(t) => setBad((b) => ({ ...b, [f.key]: t }))}
            onChange={(v) => change({ [f.key]: v })}
          />
        ))}
        {chips}
        <button type="button" className="button quiet !min-h-[24px] !px-2" aria-expanded={more} onClick={() => setMore(!more)}>
          {more ? "Less" : "Wording, note, cautions"}
        </button>
      </div>
      {Object.values(bad)
        .filter(Boolean)
        .map((t) => (
          <p key={t} role="alert" className="mt-1 text-[12px] font-[600] text-clash">
            {t}. It is kept here and not saved.
          </p>
        ))}
      {more && (
        <div className="mt-2 grid grid-cols-[74px_minmax(0,1fr)] items-start gap-x-2 gap-y-1.5">
          <label className="label pt-1" htmlFor="own-wording">
            Wording
          </label>
          <textarea
            id="own-wording"
            rows={2}
            value={mine.wording ?? ""}
            placeholder={sentence}
            onChange={(e) => change({ wording: e.target.value })}
            className="field"
          />
          <label className="label pt-1" htmlFor="own-note">
            Note
          </label>
          <textarea
            id="own-note"
            rows={1}
            value={mine.note ?? ""}
            placeholder="A hint that stands under the step"
            onChange={(e) => change({ note: e.target.value })}
            className="field"
          />
          <span className="label pt-1">Cautions</span>
          <div ref={cautions} className="flex flex-col gap-1">
            {(mine.cautions ?? []).map((c, i) => (
              <div key={i} className="flex gap-1">
                <input
                  aria-label={`Caution ${i + 1}`}
                  value={c.text}
                  onChange={(e) =>
                    change({ cautions: mine.cautions?.map((o, k) => (k === i ? { ...o, text: e.target.value } : o)) })
                  }
                  className="field"
                />
                <button
                  type="button"
                  className="button quiet"
                  aria-label={`Drop caution ${i + 1}`}
                  onClick={() => change({ cautions: mine.cautions?.filter((_, k) => k !== i) })}
                >
                  Drop
                </button>
              </div>
            ))}
            <button
              type="button"
              className="button quiet self-start"
              onClick={() => {
                change({ cautions: [...(mine.cautions ?? []), { text: "" }] });
                requestAnimationFrame(() => [...(cautions.current?.querySelectorAll("input") ?? [])].at(-1)?.focus());
              }}
            >
              Add a caution
            </button>
          </div>
        </div>
      )}
    </div>
  );
}

function FieldChip({
  field,
  step,
  things,
  trouble,
  onTrouble,
  onChange,
}: {
  field: Field;
  step: Step;
  things: S["Drawing"]["things"];
  trouble?: string;
  onTrouble: (t: string) => void;
  onChange: (v: unknown) => void;
}) {
  const value = step[field.key];
  switch (field.kind) {
    case "thing":
      return (
        <Things
          label={field.label}
          all={things}
          kinds={field.of ?? []}
          several={false}
          value={value ? [String(value)] : []}
          onChange={(v) => onChange(v[0] ?? "")}
        />
      );
    case "things":
      return (
        <Things
          label={field.label}
          all={things}
          kinds={field.of ?? []}
          several
          value={Array.isArray(value) ? value.map(String) : []}
          onChange={onChange}
        />
      );
    case "tick":
      return (
        <label className="chip cursor-pointer">
          <input
            type="checkbox"
            checked={!!value}
            onChange={(e) => onChange(e.target.checked)}
            className="accent-(--color-marking)"
          />{" "}
          {field.label}
        </label>
      );
    case "choice":
      return (
        <label className="chip">
          <span className="text-ink-2">{field.label}</span>{" "}
          <select value={String(value ?? "")} onChange={(e) => onChange(e.target.value)} className="bg-transparent outline-none">
            {!(field.choices ?? []).includes("") && !value && <option value="">choose…</option>}
            {field.choices?.map((c) => (
              <option key={c} value={c}>
                {c || (field.key === "to" ? "final" : "any")}
              </option>
            ))}
          </select>
        </label>
      );
    case "number":
      return (
        <Typed
          label={field.label}
          width={4}
          text={value ? String(value) : ""}
          hint={field.hint}
          trouble={trouble}
          read={readNumber}
          onTrouble={onTrouble}
          onChange={onChange}
        />
      );
    case "quantity":
      return (
        <Typed
          label={field.label}
          width={9}
          text={value ? String(value) : ""}
          hint={field.hint}
          trouble={trouble}
          unit={field.unit}
          read={readQuantity(field.unit)}
          onTrouble={onTrouble}
          onChange={onChange}
        />
      );
    case "stages":
      return (
        <Typed
          label={field.label}
          width={20}
          text={stagesText(value)}
          hint={field.hint}
          trouble={trouble}
          unit={field.unit}
          read={readStages(field.unit)}
          onTrouble={onTrouble}
          onChange={onChange}
        />
      );
    default:
      return (
        <Typed
          label={field.label}
          width={Math.min(52, Math.max(18, String(value ?? "").length))}
          text={String(value ?? "")}
          hint={field.hint}
          trouble={trouble}
          read={(t) => ({ value: t })}
          onTrouble={onTrouble}
          onChange={onChange}
        />
      );
  }
}

type Read = (t: string) => { value?: unknown; trouble?: string };

/** Typed is a field that keeps what is being typed, and hands on what it means once it means something. */
function Typed({
  label,
  text,
  width,
  hint,
  unit,
  trouble,
  read,
  onTrouble,
  onChange,
}: {
  label: string;
  text: string;
  width: number;
  hint?: string;
  /** what a bare number means */
  unit?: string;
  trouble?: string;
  read: Read;
  onTrouble: (t: string) => void;
  onChange: (v: unknown) => void;
}) {
  const [typed, setTyped] = useState(text);
  const focused = useRef(false);
  useEffect(() => {
    if (!focused.current) setTyped(text);
  }, [text]);
  return (
    <label className="chip" data-bad={!!trouble}>
      <span className="text-ink-2">{label}</span>{" "}
      <input
        value={typed}
        placeholder={hint}
        aria-invalid={!!trouble}
        title={trouble}
        onFocus={() => {
          focused.current = true;
        }}
        onBlur={() => {
          focused.current = false;
          if (!trouble) setTyped(text);
        }}
        onChange={(e) => {
          setTyped(e.target.value);
          const r = read(e.target.value.trim());
          onTrouble(r.trouble ?? "");
          if (!r.trouble) onChange(r.value);
        }}
        style={{ width: `${width + 2}ch` }}
        className="bg-transparent font-mono text-[12px] outline-none"
      />
      {unit && bare.test(typed.trim()) && <span className="font-mono text-[12px] text-ink-3">{unit}</span>}
    </label>
  );
}

const readNumber: Read = (t) => {
  if (!t) return { value: 0 };
  const n = Number(t.replace(",", "."));
  return Number.isFinite(n) && n >= 0 && n < 1000 ? { value: n } : { trouble: "A number, such as 2" };
};

// The server reads quantities; here it is only seen whether one is complete enough to send.
const complete = /^[-−]?[\d½¼¾].*(\p{L}|[°º%″"])/u;
const bare = /^\d+([.,]\d+)?$/;
const withUnit = (t: string, unit?: string) => (unit && bare.test(t) ? `${t}${unit === "°" ? "" : " "}${unit}` : t);
const readQuantity =
  (unit?: string): Read =>
  (typed) => {
    const t = withUnit(typed, unit);
    return !t ? { value: "" } : complete.test(t) ? { value: t } : { trouble: "A value with its unit, such as 15 min" };
  };
const readStages =
  (unit?: string): Read =>
  (typed) => {
    if (!typed) return { value: [] };
    const parts = typed.split(/\s+\+\s+(?!\/)/).map((p) => withUnit(p.trim(), unit));
    if (!parts.every((p) => complete.test(p))) return { trouble: "Values with units joined by +, such as 60 N·m + 90°" };
    return { value: parts.map((p) => (/(°|deg|turn)/i.test(p.replace(/±.*/, "")) ? { angle: p } : { torque: p })) };
  };

function stagesText(v: unknown) {
  return Array.isArray(v)
    ? v.map((s: { torque?: string; angle?: string }) => [s.torque, s.angle].filter(Boolean).join(" + ")).join(" + ")
    : "";
}
