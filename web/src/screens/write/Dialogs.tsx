import { Dialog } from "radix-ui";
import { useState } from "react";
import type { S } from "../../api/client";
import { PartOfJob, whole } from "./PartOfJob";
import { Things } from "./Things";
import type { Draft } from "./useDraft";

/** ClashDialog shows both versions of a step two people changed, and asks which stays. */
export function ClashDialog({ draft }: { draft: Draft }) {
  const c = draft.clash;
  if (!c) return null;
  return (
    <Dialog.Root open>
      <Dialog.Portal>
        <Dialog.Overlay className="veil" />
        <Dialog.Content className="float dialog" onEscapeKeyDown={(e) => e.preventDefault()}>
          <Dialog.Title className="text-head">Two people changed the same step</Dialog.Title>
          <Dialog.Description className="mt-1 text-ink-2">Nothing is lost. Choose which one stays.</Dialog.Description>
          {c.clash.steps.map((s) => (
            <dl key={s.id} className="mt-3 grid grid-cols-[110px_minmax(0,1fr)] gap-y-1 border-t border-rule pt-2">
              <dt className="text-ink-2">Yours</dt>
              <dd className="font-[650]">{s.yours || "your edit"}</dd>
              <dt className="text-ink-2">{s.by}</dt>
              <dd className="font-[650]">{s.theirs || "removed the step"}</dd>
            </dl>
          ))}
          <div className="mt-4 flex justify-end gap-2">
            <button type="button" className="button" onClick={() => draft.settle(false)}>
              Take theirs
            </button>
            <button type="button" className="button solid" onClick={() => draft.settle(true)}>
              Keep mine
            </button>
          </div>
        </Dialog.Content>
      </Dialog.Portal>
    </Dialog.Root>
  );
}

export const writeKeys = [
  ["↑ ↓", "Walk the steps; the engine follows"],
  ["Enter", "Open the step; Esc closes it"],
  ["N", "Write the next step"],
  ["Tab", "Take the first completion, or the nearest line that reads"],
  ["note: caution:", "A line for the step above it"],
  ["Alt ↑ ↓", "Move the step"],
  ["Delete", "Remove the step"],
  [".", "Next finding, then mistakes that get through"],
  ["M", "Take its mend"],
  ["Space", "Run the engine through the page, or stop"],
  ["Ctrl Z", "Undo, across saves"],
  ["Ctrl Shift Z", "Redo"],
  ["Ctrl K", "Find or do"],
  ["Home End", "First or last step"],
  ["?", "This map"],
];

/** HeaderDialog edits what stands above the steps. */
export function HeaderDialog({ draft, open, onOpenChange }: { draft: Draft; open: boolean; onOpenChange: (v: boolean) => void }) {
  return (
    <Dialog.Root open={open} onOpenChange={onOpenChange}>
      <Dialog.Portal>
        <Dialog.Overlay className="veil" />
        <Dialog.Content className="float dialog" aria-describedby={undefined} onKeyDown={(e) => e.stopPropagation()}>
          <Dialog.Title className="text-head">Title and preparation</Dialog.Title>
          <HeaderForm draft={draft} onDone={() => onOpenChange(false)} />
        </Dialog.Content>
      </Dialog.Portal>
    </Dialog.Root>
  );
}

/** TaskPicks says what the page owes by its purpose: what is new, set or home at its end, or that it only looks. */
function TaskPicks({ draft, task, onTask }: { draft: Draft; task: S["Task"]; onTask: (t: S["Task"]) => void }) {
  const things = draft.drawing.things;
  const pick = (key: "renews" | "sets" | "homes", label: string, kinds: string[], only?: (id: string) => boolean) => {
    const all = only ? things.filter((t) => only(t.id)) : things;
    return all.some((t) => kinds.includes(t.kind)) ? (
      <Things
        label={label}
        all={all}
        kinds={kinds}
        several
        value={task[key] ?? []}
        onChange={(v) => onTask({ ...task, [key]: v.length ? v : undefined })}
      />
    ) : null;
  };
  const phasers = new Set(draft.drawing.wheels.filter((w) => w.mount === "phaser").map((w) => w.id));
  return (
    <fieldset className="mb-2.5">
      <legend className="label">The page is to</legend>
      <div className="flex flex-wrap items-center gap-1.5">
        {pick("renews", "renew", ["part"])}
        {pick("sets", "set", ["tensioner"])}
        {pick("homes", "bring home", ["wheel"], (id) => phasers.has(id))}
        <label className="inline-flex items-center gap-1.5">
          <input
            type="checkbox"
            checked={!!task.checks}
            onChange={(e) => onTask({ ...task, checks: e.target.checked || undefined })}
          />
          only check the timing
        </label>
      </div>
    </fieldset>
  );
}

function HeaderForm({ draft, onDone }: { draft: Draft; onDone: () => void }) {
  // The header as it was when it was opened, and the version that was at.
  const [h] = useState(draft.view.header);
  const [base] = useState(draft.at);
  const [tools, setTools] = useState(h.prelims?.tools ?? []);
  const [begins, setBegins] = useState(h.begins ?? {});
  const [ends, setEnds] = useState(h.ends ?? {});
  const [task, setTask] = useState(h.task ?? {});
  const [bad, setBad] = useState("");
  const lines = (v: FormDataEntryValue | null) =>
    String(v ?? "")
      .split("\n")
      .map((s) => s.trim())
      .filter(Boolean);
  const submit = (e: React.FormEvent<HTMLFormElement>) => {
    e.preventDefault();
    const f = new FormData(e.currentTarget);
    const year = (k: string) => Number(f.get(k)) || undefined;
    const time = String(f.get("time")).trim();
    if (time && !/^\d+([.,]\d+)?\s*(h|hours?|min|minutes?)$/i.test(time)) {
      setBad("Write the time with its unit, such as 3.5 h or 45 min.");
      return;
    }
    const next: S["Header"] = {
      title: String(f.get("title")).trim(),
      engine: h.engine,
      after: String(f.get("after") ?? "").trim() || undefined,
      before: String(f.get("before") ?? "").trim() || undefined,
      begins: whole(begins) ? undefined : begins,
      ends: whole(ends) ? undefined : ends,
      purpose: String(f.get("purpose")).trim() || undefined,
      task: Object.values(task).some((v) => (Array.isArray(v) ? v.length > 0 : v)) ? task : undefined,
      applies: { years: { from: year("from") ?? 0, to: year("to") }, note: String(f.get("note")).trim() || undefined },
      prelims: {
        conditions: lines(f.get("conditions")),
        people: String(f.get("people")).trim() || undefined,
        time: time || undefined,
        tools,
        supplies: lines(f.get("supplies")),
      },
    };
    draft.edit([{ op: "header", header: next }], base);
    onDone();
  };
  const text = (name: string, label: string, value?: string, rows = 0) => (
    <div className="mb-2.5">
      <label className="label" htmlFor={`h-${name}`}>
        {label}
      </label>
      {rows ? (
        <textarea id={`h-${name}`} name={name} rows={rows} defaultValue={value} className="field" />
      ) : (
        <input
          id={`h-${name}`}
          name={name}
          defaultValue={value}
          required={name === "title"}
          aria-invalid={name === "time" && !!bad}
          aria-describedby={name === "time" && bad ? "h-bad" : undefined}
          className="field"
        />
      )}
    </div>
  );
  return (
    <form onSubmit={submit} className="mt-3">
      {text("title", "Title", h.title)}
      {text("purpose", "Purpose", h.purpose, 2)}
      <TaskPicks draft={draft} task={task} onTask={setTask} />
      <div className="grid grid-cols-[90px_90px_1fr] gap-2">
        {text("from", "From year", h.applies?.years?.from?.toString())}
        {text("to", "To year", h.applies?.years?.to?.toString())}
        {text("note", "Applicability, where the years do not say it", h.applies?.note)}
      </div>
      {text("conditions", "Conditions, one a line", h.prelims?.conditions?.join("\n"), 3)}
      <div className="grid grid-cols-[1fr_110px] gap-2">
        {text("people", "People and skill", h.prelims?.people)}
        {text("time", "Time", h.prelims?.time)}
      </div>
      <div className="mb-2.5">
        <Things label="special tools" all={draft.drawing.things} kinds={["tool"]} several value={tools} onChange={setTools} />
      </div>
      {text("supplies", "Supplies, one a line", h.prelims?.supplies?.join("\n"), 2)}
      <PartOfJob
        draft={draft}
        begins={begins}
        ends={ends}
        onBegins={setBegins}
        onEnds={setEnds}
        text={text}
        open={!!h.begins || !!h.ends || !!h.after || !!h.before}
      />
      {bad && (
        <p id="h-bad" role="alert" className="border-l-[3px] border-clash bg-clash-wash px-3 py-1.5">
          {bad}
        </p>
      )}
      <div className="mt-3 flex justify-end gap-2">
        <button type="button" className="button quiet" onClick={onDone}>
          Cancel
        </button>
        <button type="submit" className="button solid">
          Keep
        </button>
      </div>
    </form>
  );
}
