import type { S } from "../../api/client";
import { type Read, Typed } from "./Typed";

type Step = S["Step"];

/** Conditions say for which engines a step is, that it is done only if another fails, and where to go on from it when it does. */
export function Conditions({
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
  const branch = rows.some((r) => r.fails === here);
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
        <span className="text-small text-ink-2">What to do when it fails: write the next line with “if not, …” in front.</span>
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
