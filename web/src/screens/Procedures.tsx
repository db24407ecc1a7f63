import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useNavigate } from "@tanstack/react-router";
import { Dialog } from "radix-ui";
import { type FormEvent, useEffect, useMemo, useRef, useState } from "react";
import { api, ask, Failure } from "../api/client";
import { engines, procedures, whoAmI } from "../api/queries";
import { useActions } from "../shell/actions";
import { Trouble, Waiting } from "../shell/Trouble";
import { say } from "../shell/toast";
import { Blockers, Latches, when } from "./rows";

const cols = "grid grid-cols-[84px_minmax(0,1fr)_120px_110px_290px_170px] gap-3 items-center";

export function Procedures() {
  const { data, error, refetch } = useQuery(procedures);
  const { data: me } = useQuery(whoAmI);
  const [filter, setFilter] = useState("");
  const [at, setAt] = useState(0);
  const [starting, setStarting] = useState(false);
  const input = useRef<HTMLInputElement>(null);
  const file = useRef<HTMLInputElement>(null);
  const navigate = useNavigate();
  const client = useQueryClient();
  useEffect(() => input.current?.focus(), []);
  const shown = useMemo(() => {
    const words = filter.toLowerCase().split(/\s+/).filter(Boolean);
    return (data ?? []).filter((p) => {
      const all = `${p.engine} ${p.title} ${p.state} ${p.changedBy} ${p.number}`.toLowerCase();
      return words.every((w) => all.includes(w));
    });
  }, [data, filter]);
  const open = (revision: number) => navigate({ to: "/revisions/$revision", params: { revision: String(revision) } });
  const bring = async (f?: File) => {
    if (!f) return;
    try {
      const r = await ask(
        api.POST("/api/import", {
          body: f as unknown as string,
          bodySerializer: (b) => b as unknown as BodyInit,
          headers: { "Content-Type": "application/octet-stream" },
        }),
      );
      client.invalidateQueries({ queryKey: ["procedures"] });
      open(r.revision);
    } catch (e) {
      say(e instanceof Failure ? e.message : "The file could not be read.");
    }
  };
  const actions = useMemo(
    () =>
      me?.writes
        ? [
            { name: "Start a procedure", run: () => setStarting(true) },
            { name: "Read a latch file", run: () => file.current?.click() },
          ]
        : [],
    [me],
  );
  useActions(actions);
  if (error) return <Trouble error={error} again={refetch} />;
  if (!data) return <Waiting />;
  const here = Math.min(at, shown.length - 1);
  return (
    <main className="flex h-full flex-col">
      <div className="flex items-center gap-2 border-b border-ink px-4 py-2">
        <h1 className="sr-only">Procedures</h1>
        <input
          ref={input}
          value={filter}
          onChange={(e) => {
            setFilter(e.target.value);
            setAt(0);
          }}
          onKeyDown={(e) => {
            if (e.key === "ArrowDown") setAt(Math.min(here + 1, shown.length - 1));
            else if (e.key === "ArrowUp") setAt(Math.max(here - 1, 0));
            else if (e.key === "Enter" && shown[here]) open(shown[here].revision);
            else if (e.key === "Escape") setFilter("");
            else return;
            e.preventDefault();
          }}
          aria-label="Filter the procedures"
          placeholder="Filter by code, title, state or name"
          className="field max-w-[360px]"
        />
        <span className="text-ink-2">
          {shown.length === data.length ? `${data.length} procedures` : `${shown.length} of ${data.length}`}
        </span>
        {me?.writes && (
          <span className="ml-auto flex gap-2">
            <input
              ref={file}
              type="file"
              accept=".json"
              className="hidden"
              aria-label="Latch file"
              onChange={(e) =>
                bring(e.target.files?.[0]).finally(() => {
                  if (file.current) file.current.value = "";
                })
              }
            />
            <button type="button" className="button" onClick={() => file.current?.click()}>
              Read a file…
            </button>
            <button type="button" className="button solid" onClick={() => setStarting(true)}>
              Start a procedure
            </button>
          </span>
        )}
      </div>
      <div className="scroller min-h-0 flex-1 overflow-auto">
        <div className="min-w-[1010px]">
          <div className={`${cols} sticky top-0 border-b border-rule bg-film px-4 py-1 text-[11.5px] text-ink-2`}>
            <span>Engine code</span>
            <span>Procedure</span>
            <span>Revision</span>
            <span>Findings</span>
            <span>Latches</span>
            <span className="text-right">Last changed</span>
          </div>
          {shown.map((p, i) => (
            <button
              type="button"
              key={p.revision}
              data-on={i === here}
              onClick={() => open(p.revision)}
              onMouseEnter={() => setAt(i)}
              className={`${cols} min-h-8 w-full border-b border-rule px-4 py-1 text-left data-[on=true]:bg-marking-wash`}
            >
              <span className="font-[650]">{p.engine}</span>
              <span className="truncate">{p.title}</span>
              <span>
                <b className="font-[650]">{p.number}</b> <span className="text-ink-2">{p.state}</span>
              </span>
              <Blockers blocking={p.blocking} findings={p.findings} />
              <Latches marks={p.latches} />
              <span className="truncate text-right text-ink-2">
                {p.changedBy}, {when(p.changedAt)}
              </span>
            </button>
          ))}
          {shown.length === 0 && (
            <p className="px-4 py-10 text-ink-2">
              {data.length === 0
                ? "No procedure yet. Start one from an empty page, or read a latch file."
                : "No procedure fits. Clear the filter with Esc."}
            </p>
          )}
        </div>
      </div>
      <StartDialog open={starting} onOpenChange={setStarting} onStarted={open} />
    </main>
  );
}

function StartDialog({
  open,
  onOpenChange,
  onStarted,
}: {
  open: boolean;
  onOpenChange: (v: boolean) => void;
  onStarted: (id: number) => void;
}) {
  const { data: codes } = useQuery({ ...engines, enabled: open });
  const inUse = codes?.filter((c) => c.inUse > 0); // nothing is written on a sheet that is not in use
  const [trouble, setTrouble] = useState("");
  const submit = async (e: FormEvent<HTMLFormElement>) => {
    e.preventDefault();
    const f = new FormData(e.currentTarget);
    try {
      const r = await ask(
        api.POST("/api/procedures", { body: { engine: String(f.get("engine")), title: String(f.get("title")).trim() } }),
      );
      localStorage.setItem("engine", String(f.get("engine"))); // the next one is often of the same code
      onOpenChange(false);
      onStarted(r.revision);
    } catch (err) {
      setTrouble(err instanceof Failure ? err.message : "That did not work.");
    }
  };
  return (
    <Dialog.Root open={open} onOpenChange={onOpenChange}>
      <Dialog.Portal>
        <Dialog.Overlay className="veil" />
        <Dialog.Content className="float dialog" aria-describedby={undefined}>
          <Dialog.Title className="text-[16px]">Start a procedure</Dialog.Title>
          <form onSubmit={submit} className="mt-3">
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
              className="field mb-3"
            />
            <label className="label" htmlFor="start-engine">
              Engine code
            </label>
            <select
              key={inUse?.length ?? 0}
              id="start-engine"
              name="engine"
              className="field"
              defaultValue={localStorage.getItem("engine") ?? undefined}
            >
              {inUse?.map((c) => (
                <option key={c.code} value={c.code}>
                  {c.code}, {c.use}
                </option>
              ))}
            </select>
            {trouble && (
              <p role="alert" className="mt-3 border-l-[3px] border-clash bg-clash-wash px-3 py-1.5">
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
