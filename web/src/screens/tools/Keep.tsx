import { useQueryClient } from "@tanstack/react-query";
import { Dialog } from "radix-ui";
import { useRef, useState } from "react";
import { api, ask, type Failure, type S } from "../../api/client";
import { say } from "../../shell/toast";

/** the largest file, bytes, as the server has it */
const most = 10 << 20;

type Kind = "tool" | "source";

/** fileOf is the address of a kept file; it changes with the file. */
export const fileOf = (kind: Kind, number: string, f: Pick<S["KeptFile"], "id">) =>
  `/api/shelf/file?kind=${kind}&number=${encodeURIComponent(number)}&v=${f.id}`;

/** useKeep puts a file to a tool or a document, or takes it off, and reads the list again. */
function useKeep(kind: Kind, number: string) {
  const client = useQueryClient();
  const [busy, setBusy] = useState("");
  const [trouble, setTrouble] = useState("");
  const during = async (what: string, then: string, f: () => Promise<unknown>) => {
    setBusy(what);
    setTrouble("");
    try {
      await f();
      await client.invalidateQueries({ queryKey: [kind === "tool" ? "tools" : "sources"] });
      if (then) say(then);
      return true;
    } catch (e) {
      setTrouble((e as Failure).message);
      return false;
    } finally {
      setBusy("");
    }
  };
  const put = (file: File) => {
    if (file.size > most) {
      setTrouble(`${file.name} has ${(file.size / 1048576).toFixed(1)} MB; 10 MB is the most.`);
      return;
    }
    return during(`Keeping ${file.name}…`, `${file.name} is kept with ${number}`, () =>
      ask(
        api.PUT("/api/shelf/file", {
          params: { query: { kind, number, name: file.name.slice(0, 200) } },
          body: file as unknown as string,
          bodySerializer: (b) => b as unknown as BodyInit,
          headers: { "content-type": "application/octet-stream" },
        }),
      ),
    );
  };
  const off = () =>
    during("Taking it off…", `${number} is without it`, () =>
      ask(api.DELETE("/api/shelf/file", { params: { query: { kind, number } } })),
    );
  return { busy, trouble, during, put, off };
}

/** FileButton lets one choose a file for a tool or a document. */
function FileButton({ kind, has, busy, onFile }: { kind: Kind; has: boolean; busy: string; onFile: (f: File) => void }) {
  const pick = useRef<HTMLInputElement>(null);
  return (
    <>
      <input
        ref={pick}
        type="file"
        accept={kind === "tool" ? "image/jpeg,image/png,image/webp" : "application/pdf,image/jpeg,image/png,image/webp"}
        className="sr-only"
        tabIndex={-1}
        aria-label={kind === "tool" ? "A picture" : "A file"}
        onChange={(e) => {
          const f = e.target.files?.[0];
          e.target.value = "";
          if (f) onFile(f);
        }}
      />
      <button
        type="button"
        className={kind === "tool" ? "button" : "link"}
        disabled={busy !== ""}
        onClick={() => pick.current?.click()}
      >
        {busy || (has ? "Another…" : kind === "tool" ? "Choose a picture…" : "Attach the file…")}
      </button>
    </>
  );
}

/** KeptDocument is the file of a document, with what is done to it. */
export function KeptDocument({ number, file, writes }: { number: string; file?: S["KeptFile"]; writes: boolean }) {
  const keep = useKeep("source", number);
  if (!file && !writes) return null;
  return (
    <p className="flex flex-wrap items-center gap-x-3 gap-y-1 pt-1.5 text-small">
      {file && (
        <span>
          <a className="link" href={fileOf("source", number, file)} download={file.name}>
            {file.name}
          </a>
          <span className="text-ink-2">
            {" "}
            {file.by}, {file.at.slice(0, 10)}
          </span>
        </span>
      )}
      {writes && (
        <>
          <FileButton kind="source" has={!!file} busy={keep.busy} onFile={keep.put} />
          {file && (
            <button type="button" className="link" disabled={keep.busy !== ""} onClick={keep.off}>
              Take it off
            </button>
          )}
        </>
      )}
      {keep.trouble && (
        <span role="alert" className="text-clash">
          {keep.trouble}
        </span>
      )}
    </p>
  );
}

/** KeepTool is a dialog with the picture of a tool, and when it was calibrated. */
export function KeepTool({ r, writes, onClose }: { r: S["CribRow"]; writes: boolean; onClose: () => void }) {
  const keep = useKeep("tool", r.number);
  const c = r.calibrated;
  const [done, setDone] = useState(c?.done ?? "");
  const [months, setMonths] = useState(String(c?.months ?? 12));
  const n = Number(months);
  const wrong = months.trim() === "" || !Number.isInteger(n) || n < 0 || n > 600;
  const same = done === (c?.done ?? "") && (!c || n === c.months);
  return (
    <Dialog.Root open onOpenChange={(o) => !o && onClose()}>
      <Dialog.Portal>
        <Dialog.Overlay className="veil" />
        <Dialog.Content className="float dialog !w-[min(560px,94vw)]">
          <Dialog.Title className="text-head">
            {r.number} {r.variants[0].name}
          </Dialog.Title>
          <Dialog.Description className="sr-only">Its picture, and when it was calibrated.</Dialog.Description>
          {r.picture ? (
            <figure className="mt-3">
              <img
                src={fileOf("tool", r.number, r.picture)}
                alt={`The ${r.variants[0].name} ${r.number}`}
                className="max-h-[44vh] w-full bg-white object-contain"
              />
              <figcaption className="mt-1 text-small text-ink-2">
                {r.picture.name}, {r.picture.by}, {r.picture.at.slice(0, 10)}
              </figcaption>
            </figure>
          ) : (
            <p className="mt-3 text-ink-2">
              There is no picture of it yet{writes ? ": a photo or a drawing, JPEG, PNG or WebP, up to 10 MB." : "."}
            </p>
          )}
          {writes && (
            <div className="mt-2 flex gap-2">
              <FileButton kind="tool" has={!!r.picture} busy={keep.busy} onFile={keep.put} />
              {r.picture && (
                <button type="button" className="button quiet" disabled={keep.busy !== ""} onClick={keep.off}>
                  Take it off
                </button>
              )}
            </div>
          )}
          <h3 className="mt-4 border-b border-ink pb-0.5 text-body font-[650]">Calibration</h3>
          {writes ? (
            <form
              className="mt-2 flex flex-wrap items-end gap-3"
              onSubmit={(e) => {
                e.preventDefault();
                if (wrong) return;
                keep.during(
                  "Writing…",
                  done ? `Calibration of ${r.number} is noted` : `${r.number} is not calibrated any more`,
                  () =>
                    ask(
                      api.PUT("/api/tools/calibration", { params: { query: { number: r.number } }, body: { done, months: n } }),
                    ),
                );
              }}
            >
              <label>
                <span className="label">Calibrated on</span>
                <input type="date" className="field" value={done} onChange={(e) => setDone(e.target.value)} />
              </label>
              <label className="w-[110px]">
                <span className="label">Holds, months</span>
                <input
                  className="field"
                  inputMode="numeric"
                  value={months}
                  aria-invalid={wrong}
                  onChange={(e) => setMonths(e.target.value)}
                />
              </label>
              <button type="submit" className="button solid" disabled={wrong || same || keep.busy !== ""}>
                {done || !c ? "Note it" : "Take it off"}
              </button>
            </form>
          ) : (
            !c && <p className="mt-2 text-ink-2">Nobody has noted one.</p>
          )}
          {wrong && <p className="mt-1 text-small text-clash">A whole number of months, up to 600; 0 is until further notice.</p>}
          {c && (
            <p className={`mt-2 text-small ${c.over ? "text-clash" : "text-ink-2"}`}>
              {calibrated(c)} Noted by {c.by}.
            </p>
          )}
          {keep.trouble && (
            <p role="alert" className="mt-2 text-clash">
              {keep.trouble}
            </p>
          )}
          <div className="mt-4 flex justify-end">
            <Dialog.Close className="button">Close</Dialog.Close>
          </div>
        </Dialog.Content>
      </Dialog.Portal>
    </Dialog.Root>
  );
}

/** calibrated is a calibration in a sentence. */
export function calibrated(c: S["Calibration"]) {
  if (c.over) return `✕ Overdue since ${c.due}; last calibrated ${c.done}.`;
  return `Calibrated ${c.done}${c.due ? `, due ${c.due}` : ""}.`;
}
