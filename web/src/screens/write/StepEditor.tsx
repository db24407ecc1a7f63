import { useQuery } from "@tanstack/react-query";
import { type ReactNode, useEffect, useRef, useState } from "react";
import { api, ask, type S } from "../../api/client";
import { verbs } from "../../api/queries";
import { Conditions } from "./Conditions";
import { Things } from "./Things";
import { Tightened } from "./Tightened";
import { type Read, Typed } from "./Typed";

type Step = S["Step"];
type Field = S["Field"];

/** StepEditor edits a step in place: its verb's fields as chips, then wording, note and cautions. Every change is looked at on the virtual engine at once and saved a moment later. */
export function StepEditor({
  revision,
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
  at,
  onSave,
  onDone,
}: {
  revision: number;
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
  /** at is the version of the page that is shown */
  at: () => number;
  /** onSave saves the step as it was begun at a version */
  onSave: (s: Step, base: number) => void;
  onDone: () => void;
}) {
  const { data } = useQuery(verbs);
  const [mine, setMine] = useState(step);
  const [more, setMore] = useState(!!step.wording || !!step.note || !!step.picture);
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
  const arrived = plain(step);
  // The version and the step that what is typed here goes by; what others save in the meantime is shown beside it.
  const base = useRef(at());
  const own = useRef(new Set([arrived]));
  const [theirs, setTheirs] = useState<Step>();
  const busy = dirty.current || Object.values(bad).some(Boolean);
  // biome-ignore lint/correctness/useExhaustiveDependencies: arrived stands for step
  useEffect(() => {
    const echo = own.current.has(arrived); // what was saved here comes back
    if (!busy) {
      setMine(step);
      setTheirs(undefined);
      base.current = at();
      own.current.add(arrived);
    } else if (!echo) setTheirs(step);
  }, [arrived]);
  const keep = (s: Step) => {
    dirty.current = false;
    own.current.add(plain(s));
    onSave(s, base.current);
  };
  useEffect(
    () => () => {
      clearTimeout(timer.current);
      if (dirty.current) save.current(latest.current, base.current);
    },
    [],
  );
  useEffect(() => {
    box.current?.querySelector<HTMLElement>("button, input, textarea, select")?.focus();
  }, []);
  const spec = data?.verbs.find((v) => v.verb === mine.verb);
  // Values by case are asked for among the conditions.
  const shown = (f: Field) =>
    mine[f.key]
      ? true
      : f.with
        ? !!mine[f.with]
        : f.beside && f.of?.length
          ? drawing.things.some((t) => f.of?.includes(t.kind))
          : f.kind !== "stages by case" || conditions || !!by;
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
    timer.current = setTimeout(() => keep(next), 700);
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
  const troubles = useRef(bad);
  troubles.current = bad;
  const leave = async (giveUp = false) => {
    await reading.current;
    await Promise.resolve(); // the field has taken its answer
    // What cannot be taken stays where it was typed until it is put right or given up.
    if (!giveUp && Object.values(troubles.current).some(Boolean)) {
      box.current?.querySelector<HTMLElement>("[data-bad=true] input, [aria-invalid=true]")?.focus();
      return;
    }
    clearTimeout(timer.current);
    const now = latest.current;
    // Free text that was written again is read like a new line.
    if (now.verb === "do" && now.text && now.text !== first.current) {
      const r = await onRead(String(now.text));
      if (r && !r.problem && !r.aside && r.step.verb !== "do") {
        const { id, phase, note, tools } = now;
        keep({
          ...r.step,
          id,
          phase,
          note: [note, r.step.note].filter(Boolean).join(" ") || undefined,
          tools,
          cautions: [...(now.cautions ?? []), ...(r.step.cautions ?? [])],
        });
        onDone();
        return;
      }
    }
    if (dirty.current) keep(now);
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
          leave(true);
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
          className="button quiet slim !px-2"
          aria-expanded={conditions}
          onClick={() => setConditions(!conditions)}
        >
          Conditions
        </button>
        <button type="button" className="button quiet slim !px-2" aria-expanded={more} onClick={() => setMore(!more)}>
          {more ? "Less" : "Wording, note, picture, cautions"}
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
      {theirs && (
        <div role="alert" className="mt-1.5 border-l-[3px] border-paint bg-paint-wash px-3 py-1.5">
          <p>
            <b className="font-[650]">Somebody else changed this step while you were in it.</b> What you typed is kept; both are
            shown once you save it.
          </p>
          <button
            type="button"
            className="button quiet !px-0 underline"
            onClick={() => {
              clearTimeout(timer.current);
              dirty.current = false;
              setBad({});
              setMine(theirs);
              latest.current = theirs;
              base.current = at();
              own.current.add(plain(theirs));
              setTheirs(undefined);
              onLook(theirs);
            }}
          >
            Take theirs, and leave mine
          </button>
        </div>
      )}
      {Object.entries(bad)
        .filter(([, t]) => t)
        .map(([key, t]) => (
          <p key={key} id={`trouble-${key}`} role="alert" className="mt-1 text-small font-[600] text-clash">
            {t} It is kept here and not saved.
          </p>
        ))}
      <Tightened revision={revision} step={mine} />
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
          <label className="label pt-1" htmlFor="own-picture">
            Picture
          </label>
          <select
            id="own-picture"
            className="field max-w-[340px]"
            value={String(mine.picture ?? "")}
            onChange={(e) => change({ picture: e.target.value as Step["picture"] })}
          >
            <option value="">where it locks, lays, leaves slack or reads a mark</option>
            <option value="always">always on the sheet</option>
            <option value="never">never on the sheet</option>
          </select>
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
                  aria-label={`Remove caution ${i + 1}`}
                  onClick={() => change({ cautions: mine.cautions?.filter((_, k) => k !== i) })}
                >
                  Remove
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

/** plain writes a step so that two that say the same are the same text. */
const plain = (s: Step) =>
  JSON.stringify(s, (_, v) =>
    v && typeof v === "object" && !Array.isArray(v) ? Object.fromEntries(Object.entries(v).sort()) : v,
  );

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
          troubleId={`trouble-${field.key}`}
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
