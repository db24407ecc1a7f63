import { useQuery } from "@tanstack/react-query";
import { type ReactNode, useEffect, useRef, useState } from "react";
import { api, ask, type S } from "../../api/client";
import { verbs } from "../../api/queries";
import { Things } from "./Things";

type Step = S["Step"];
type Field = S["Field"];

/** StepEditor edits a step in place: its verb's fields as chips, then wording, note and cautions. Every change is looked at on the virtual engine at once and saved a moment later. */
export function StepEditor({
  step,
  stages,
  by,
  when,
  under,
  rows,
  sentence,
  drawing,
  chips,
  onLook,
  onRead,
  onSave,
  onDone,
}: {
  step: Step;
  /** the step's stages as they are written */
  stages: string;
  /** the step's values by case as they are written */
  by: string;
  /** for which engines the step is, as it is written */
  when: string;
  /** the step above that this one could be for when it fails, by its place; −1 for none */
  under: number;
  rows: S["Row"][];
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
  const [conditions, setConditions] = useState(!!step.when || !!step.ifNot || !!step.again);
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
  // Values by case are asked for among the conditions.
  const shown = (f: Field) => f.kind !== "stages by case" || conditions || !!by;
  const change = (patch: Partial<Step>) => {
    const next: Step = { ...latest.current, ...patch };
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
    latest.current = next;
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
  // What is typed is read by the server; leaving waits for what is on its way.
  const reading = useRef<Promise<unknown>>(undefined);
  const read = (field: string) => (text: string) => {
    const answer = ask(
      api.POST("/api/verbs/{verb}/fields/{field}", { params: { path: { verb: String(mine.verb), field } }, body: { text } }),
    );
    reading.current = answer.catch(() => undefined);
    return answer;
  };
  const leave = async () => {
    await reading.current;
    await Promise.resolve(); // the field has taken its answer
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
        {spec?.fields.filter(shown).map((f) => (
          <FieldChip
            key={f.key}
            field={f}
            step={mine}
            things={drawing.things}
            stages={stages}
            by={by}
            trouble={bad[f.key]}
            read={read(f.key)}
            onTrouble={(t) => setBad((b) => ({ ...b, [f.key]: t }))}
            onChange={(v) => change({ [f.key]: v })}
          />
        ))}
        {chips}
        <button
          type="button"
          className="button quiet !min-h-[24px] !px-2"
          aria-expanded={conditions}
          onClick={() => setConditions(!conditions)}
        >
          Conditions
        </button>
        <button type="button" className="button quiet !min-h-[24px] !px-2" aria-expanded={more} onClick={() => setMore(!more)}>
          {more ? "Less" : "Wording, note, cautions"}
        </button>
      </div>
      {conditions && (
        <Conditions
          step={mine}
          when={when}
          under={under}
          rows={rows}
          fails={!!spec?.fails}
          trouble={bad.when}
          read={read("when")}
          onTrouble={(t) => setBad((b) => ({ ...b, when: t }))}
          onChange={change}
        />
      )}
      {Object.values(bad)
        .filter(Boolean)
        .map((t) => (
          <p key={t} role="alert" className="mt-1 text-small font-[600] text-clash">
            {t} It is kept here and not saved.
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

/** Conditions say for which engines a step is, that it is done only if another fails, and where to go on from it when it does. */
function Conditions({
  step,
  when,
  under,
  rows,
  fails,
  trouble,
  read,
  onTrouble,
  onChange,
}: {
  step: Step;
  when: string;
  under: number;
  rows: S["Row"][];
  fails: boolean;
  trouble?: string;
  read: Read;
  onTrouble: (t: string) => void;
  onChange: (patch: Partial<Step>) => void;
}) {
  const here = rows.findIndex((r) => r.step.id === step.id);
  const branch = !step.ifNot && rows[here + 1]?.step.ifNot;
  const earlier = rows.slice(0, here).flatMap((r, i) => (r.step.ifNot ? [] : [{ id: r.step.id, name: `step ${i + 1}` }]));
  return (
    <div className="mt-1.5 flex flex-wrap items-center gap-1.5">
      <Typed
        label="only for"
        width={24}
        text={when}
        hint="from 2022"
        trouble={trouble}
        read={read}
        onTrouble={onTrouble}
        onChange={(v) => onChange({ when: Object.keys(v as object).length ? (v as Step["when"]) : undefined })}
      />
      {under >= 0 && (
        <label className="chip cursor-pointer">
          <input
            type="checkbox"
            checked={!!step.ifNot}
            onChange={(e) => onChange({ ifNot: e.target.checked ? true : undefined })}
            className="accent-(--color-marking)"
          />{" "}
          only if step {under + 1} fails
        </label>
      )}
      {fails && !step.ifNot && !branch && (
        <span className="text-small text-ink-2">
          What to do when it fails: write the next line with “if not, …” in front.
        </span>
      )}
      {fails && branch && (
        <>
          <label className="chip">
            <span className="text-ink-2">when it fails, then</span>{" "}
            <select
              value={step.again ? (step.again.from ?? "here") : ""}
              onChange={(e) =>
                onChange({
                  again:
                    e.target.value === ""
                      ? undefined
                      : { from: e.target.value === "here" ? undefined : e.target.value, times: step.again?.times ?? 1 },
                })
              }
              className="bg-transparent outline-none"
            >
              <option value="">the next step</option>
              <option value="here">this step again</option>
              {earlier.map((s) => (
                <option key={s.id} value={s.id}>
                  on from {s.name}
                </option>
              ))}
            </select>
          </label>
          {step.again && (
            <label className="chip">
              <span className="text-ink-2">at most</span>{" "}
              <select
                value={step.again.times ?? 1}
                onChange={(e) => onChange({ again: { ...step.again, times: Number(e.target.value) } })}
                className="bg-transparent outline-none"
              >
                {[1, 2, 3, 4, 5, 6, 7, 8, 9].map((n) => (
                  <option key={n} value={n}>
                    {n === 1 ? "once" : n === 2 ? "twice" : `${n} times`}
                  </option>
                ))}
              </select>
            </label>
          )}
        </>
      )}
    </div>
  );
}

function FieldChip({
  field,
  step,
  things,
  stages,
  by,
  trouble,
  read,
  onTrouble,
  onChange,
}: {
  field: Field;
  step: Step;
  things: S["Drawing"]["things"];
  stages: string;
  by: string;
  trouble?: string;
  read: Read;
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
    default:
      return (
        <Typed
          label={field.label}
          width={widthOf(field, value)}
          text={field.kind === "stages" ? stages : field.kind === "stages by case" ? by : value ? String(value) : ""}
          hint={field.hint}
          trouble={trouble}
          unit={field.unit}
          read={field.kind === "text" ? async (t) => ({ value: t, text: t }) : read}
          onTrouble={onTrouble}
          onChange={onChange}
        />
      );
  }
}

const widthOf = (field: Field, value: unknown) =>
  field.kind === "text"
    ? Math.min(52, Math.max(18, String(value ?? "").length))
    : ({ number: 4, quantity: 9, stages: 20, "stages by case": 36 }[field.kind as string] ?? 18);

type Read = (text: string) => Promise<S["FieldReading"]>;

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
  const turn = useRef(0);
  const take = async (t: string) => {
    setTyped(t);
    const now = ++turn.current;
    try {
      const r = await read(t.trim());
      if (now !== turn.current) return;
      onTrouble(r.problem ?? "");
      if (!r.problem) onChange(r.value);
    } catch (e) {
      if (now === turn.current) onTrouble((e as Error).message);
    }
  };
  useEffect(() => {
    if (!focused.current) setTyped(text);
  }, [text]);
  return (
    <label className="chip" data-bad={!!trouble}>
      <span className="text-ink-2">{label}</span>{" "}
      <input
        value={typed}
        placeholder={hint && `e.g. ${hint}`}
        aria-invalid={!!trouble}
        title={trouble}
        onFocus={() => {
          focused.current = true;
        }}
        onBlur={() => {
          focused.current = false;
          if (!trouble) setTyped(text);
        }}
        onChange={(e) => take(e.target.value)}
        style={{ width: `${width + 2}ch` }}
        className="bg-transparent font-mono text-small outline-none"
      />
      {unit && bare.test(typed.trim()) && <span className="font-mono text-small text-ink-3">{unit}</span>}
    </label>
  );
}

const bare = /^\d+([.,]\d+)?$/;
