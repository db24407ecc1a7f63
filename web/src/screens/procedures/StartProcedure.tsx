import { useQuery } from "@tanstack/react-query";
import { Link } from "@tanstack/react-router";
import { Dialog } from "radix-ui";
import { type FormEvent, useState } from "react";
import { api, ask, Failure } from "../../api/client";
import { codesThere } from "../../api/queries";
import { CodePick } from "../../shell/CodePick";
import { early, typedEarly } from "../../shell/early";

/** StartProcedure asks for a title and a code, and starts an empty page. */
export function StartProcedure({
  engine,
  open,
  onOpenChange,
  onStarted,
}: {
  /** the code it is for, where that is known already */
  engine?: string;
  open: boolean;
  onOpenChange: (v: boolean) => void;
  onStarted: (id: number) => void;
}) {
  const { data: there } = useQuery({ ...codesThere, enabled: open });
  const none = there?.inUse === 0; // nothing is written on a sheet that is not in use
  const [code, setCode] = useState(engine ?? "");
  const [trouble, setTrouble] = useState("");
  const submit = async (e: FormEvent<HTMLFormElement>) => {
    e.preventDefault();
    const f = new FormData(e.currentTarget);
    early(); // the next key is of the first step
    try {
      const r = await ask(api.POST("/api/procedures", { body: { engine: code, title: String(f.get("title")).trim() } }));
      onOpenChange(false);
      onStarted(r.revision);
    } catch (err) {
      typedEarly(); // there is no page to type on
      setTrouble(err instanceof Failure ? err.message : "That did not work.");
    }
  };
  return (
    <Dialog.Root open={open} onOpenChange={onOpenChange}>
      <Dialog.Portal>
        <Dialog.Overlay className="veil" />
        <Dialog.Content className="float dialog" aria-describedby={undefined}>
          <Dialog.Title className="text-head">Start a procedure</Dialog.Title>
          {none && (
            <div className="mt-3">
              <p>
                A procedure is written on the engine sheet of a code, and no code has one in use here yet.
                {there.draft &&
                  ` ${there.drafts === 1 ? `${there.draft} has a draft` : `${there.drafts} have drafts`}: somebody else looks it over and puts it into use.`}
              </p>
              <div className="mt-4 flex justify-end gap-2">
                <Dialog.Close className="button quiet">Cancel</Dialog.Close>
                <Link to="/engines" className="button solid" onClick={() => onOpenChange(false)}>
                  {there.draft ? "To the engines" : "Make an engine code"}
                </Link>
              </div>
            </div>
          )}
          <form onSubmit={submit} className={`mt-3 ${none ? "hidden" : ""}`}>
            <label className="label" htmlFor="start-title">
              Title
            </label>
            <input
              id="start-title"
              name="title"
              required
              maxLength={300}
              autoFocus
              placeholder="Renew timing belt"
              aria-invalid={!!trouble}
              aria-describedby={trouble ? "start-trouble" : undefined}
              className="field mb-3"
            />
            <label className="label" htmlFor="start-engine">
              Engine code
            </label>
            <CodePick
              id="start-engine"
              value={code}
              onChange={setCode}
              none="choose the code…"
              inUse
              uses
              required
              className="!w-full"
            />
            {trouble && (
              <p id="start-trouble" role="alert" className="mt-3 border-l-[3px] border-clash bg-clash-wash px-3 py-1.5">
                {trouble}
              </p>
            )}
            <div className="mt-4 flex justify-end gap-2">
              <Dialog.Close className="button quiet">Cancel</Dialog.Close>
              <button type="submit" className="button solid">
                Start writing
              </button>
            </div>
          </form>
        </Dialog.Content>
      </Dialog.Portal>
    </Dialog.Root>
  );
}
