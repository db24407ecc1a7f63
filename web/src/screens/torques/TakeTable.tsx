import { Dialog } from "radix-ui";
import { useRef, useState } from "react";
import { api, ask, type Failure, type S } from "../../api/client";
import { say } from "../../shell/toast";
import { useSheet } from "../engine/useSheet";

/** TakeTable reads a changed torque table, shows row by row what it would change, and writes what is ticked as one change that one undo takes back. */
export function TakeTable({ code, onTaken }: { code: string; onTaken: () => void }) {
  const { draft } = useSheet(code, 0);
  const pick = useRef<HTMLInputElement>(null);
  const [busy, setBusy] = useState("");
  const [trouble, setTrouble] = useState("");
  const [found, setFound] = useState<S["TorqueChanges"]>();
  const [named, setNamed] = useState("");
  const [out, setOut] = useState(new Set<number>());
  const read = async (file: File) => {
    setBusy(file.name);
    setTrouble("");
    setNamed(file.name);
    setOut(new Set());
    try {
      setFound(
        await ask(
          api.POST("/api/engines/{code}/torques", {
            params: { path: { code } },
            body: file as unknown as string,
            bodySerializer: (b) => b as unknown as BodyInit,
            headers: { "content-type": "application/octet-stream" },
          }),
        ),
      );
    } catch (e) {
      setTrouble((e as Failure).message);
    }
    setBusy("");
  };
  const chosen = found?.changes.filter((_, i) => !out.has(i)) ?? [];
  const write = () => {
    if (!draft || chosen.length === 0) return;
    draft.save(chosen.map((c) => c.edit));
    say(`${chosen.length} value${chosen.length === 1 ? " is" : "s are"} written on the sheet of ${code}. Undo is on the sheet.`);
    setFound(undefined);
    // The table is read again when the sheet has them.
    const seen = draft.at();
    const wait = setInterval(() => {
      if (draft.at() === seen && draft.post.pending().length > 0) return;
      clearInterval(wait);
      onTaken();
    }, 150);
  };
  return (
    <>
      <input
        ref={pick}
        type="file"
        accept=".csv,.xlsx,text/csv"
        className="sr-only"
        tabIndex={-1}
        aria-label="A changed torque table"
        onChange={(e) => {
          const f = e.target.files?.[0];
          e.target.value = "";
          if (f) read(f);
        }}
      />
      <button type="button" className="button" disabled={busy !== ""} onClick={() => pick.current?.click()}>
        {busy ? `Reading ${busy}…` : "Read a changed table…"}
      </button>
      <Dialog.Root
        open={found !== undefined || trouble !== ""}
        onOpenChange={(o) => {
          if (o) return;
          setFound(undefined);
          setTrouble("");
        }}
      >
        <Dialog.Portal>
          <Dialog.Overlay className="veil" />
          <Dialog.Content className="float dialog !w-[min(860px,94vw)]">
            <Dialog.Title className="text-head">{trouble ? "The table was not read" : `What ${named} would change`}</Dialog.Title>
            <Dialog.Description className="mt-1 text-ink-2">
              {trouble
                ? `${trouble} Nothing is changed.`
                : `${found?.rows} row${found?.rows === 1 ? "" : "s"} read. Nothing is written until you say so; what is empty in the table stays as it is.`}
            </Dialog.Description>
            {found && (
              <div className="scroller mt-3 max-h-[56vh] overflow-auto">
                {found.changes.length === 0 ? (
                  <p className="py-2">It says what the sheet says: nothing would change.</p>
                ) : (
                  <table className="list-table w-full" aria-label="Changes">
                    <thead>
                      <tr>
                        <th scope="col">
                          <input
                            type="checkbox"
                            aria-label="All of them"
                            checked={out.size === 0}
                            onChange={() => setOut(out.size === 0 ? new Set(found.changes.keys()) : new Set())}
                          />
                        </th>
                        <th scope="col" className="num">
                          Row
                        </th>
                        <th scope="col">Fastener</th>
                        <th scope="col">Value</th>
                        <th scope="col">On the sheet</th>
                        <th scope="col">In the table</th>
                      </tr>
                    </thead>
                    <tbody>
                      {found.changes.map((c, i) => (
                        <tr key={c.edit.path}>
                          <td>
                            <input
                              type="checkbox"
                              aria-label={`${c.column} of the ${c.name}`}
                              checked={!out.has(i)}
                              onChange={() =>
                                setOut((was) => {
                                  const next = new Set(was);
                                  if (!next.delete(i)) next.add(i);
                                  return next;
                                })
                              }
                            />
                          </td>
                          <td className="num">{c.row}</td>
                          <th scope="row">{c.name}</th>
                          <td>{c.column}</td>
                          <td className="font-mono text-small text-ink-2">{c.was || "–"}</td>
                          <td className="font-mono text-small">{c.now || "–"}</td>
                        </tr>
                      ))}
                    </tbody>
                  </table>
                )}
                {found.troubles.length > 0 && (
                  <>
                    <h3 className="mt-4 mb-1 text-body font-[650]">Not taken</h3>
                    <ul className="text-small">
                      {found.troubles.map((t, i) => (
                        <li key={i} className="border-t border-rule py-1">
                          {t.row > 0 && <span className="text-ink-2">Row {t.row}: </span>}
                          {t.says}
                        </li>
                      ))}
                      {found.more > 0 && <li className="border-t border-rule py-1 text-ink-2">and {found.more} more</li>}
                    </ul>
                  </>
                )}
              </div>
            )}
            <div className="mt-4 flex justify-end gap-2">
              <Dialog.Close className="button quiet">{trouble || chosen.length === 0 ? "Close" : "Change nothing"}</Dialog.Close>
              {found && found.changes.length > 0 && (
                <button type="button" className="button solid" disabled={chosen.length === 0 || !draft} onClick={write}>
                  Write {chosen.length} value{chosen.length === 1 ? "" : "s"}
                </button>
              )}
            </div>
          </Dialog.Content>
        </Dialog.Portal>
      </Dialog.Root>
    </>
  );
}
