import { useQuery, useQueryClient } from "@tanstack/react-query";
import { Link, useNavigate } from "@tanstack/react-router";
import { Dialog } from "radix-ui";
import { useEffect, useMemo, useRef, useState } from "react";
import { api, ask, type Failure } from "../../api/client";
import { engines, whoAmI } from "../../api/queries";
import { useActions } from "../../shell/actions";
import { Trouble, Waiting } from "../../shell/Trouble";
import { Blockers } from "../../shell/rows";

const columns = "grid-cols-[108px_minmax(0,1fr)_104px_120px_108px_104px_86px]";

/** Engines lists the codes, each with its sheet: what is in use, what is being drawn up, whether it fits together. */
export function Engines() {
  const { data, error, refetch } = useQuery(engines);
  const { data: me } = useQuery(whoAmI);
  const navigate = useNavigate();
  const [at, setAt] = useState(0);
  const [adding, setAdding] = useState(false);
  const list = useRef<HTMLDivElement>(null);
  const rows = data ?? [];
  useEffect(() => {
    const onKey = (e: KeyboardEvent) => {
      if (e.target instanceof HTMLElement && e.target.matches("input, textarea, select")) return;
      if (document.querySelector("[role=dialog]")) return;
      if (e.key === "ArrowDown" || e.key === "ArrowUp") {
        e.preventDefault();
        setAt((v) => Math.max(0, Math.min(rows.length - 1, v + (e.key === "ArrowDown" ? 1 : -1))));
      } else if (e.key === "Enter" && rows[at] && !(e.target instanceof HTMLElement && e.target.matches("a, button"))) {
        navigate({ to: "/engines/$code", params: { code: rows[at].code } });
      } else if (e.key.toLowerCase() === "n" && me?.writes && !e.ctrlKey && !e.metaKey) {
        e.preventDefault();
        setAdding(true);
      }
    };
    window.addEventListener("keydown", onKey);
    return () => window.removeEventListener("keydown", onKey);
  }, [rows, at, me?.writes, navigate]);
  useEffect(() => {
    list.current?.querySelector('[data-on="true"]')?.scrollIntoView({ block: "nearest" });
  });
  useActions(
    useMemo(
      () => (me?.writes ? [{ name: "Start an engine code", keys: "N", group: "Engines", run: () => setAdding(true) }] : []),
      [me?.writes],
    ),
  );
  if (error) return <Trouble error={error} again={refetch} />;
  if (!data) return <Waiting />;
  return (
    <main className="scroller h-full overflow-auto">
      <div className="mx-auto max-w-[1120px] px-6 py-6">
        <div className="mb-3 flex items-baseline">
          <h1 className="text-title">
            {data.length} engine code{data.length === 1 ? "" : "s"}
          </h1>
          {me?.writes && (
            <button type="button" className="button ml-auto" onClick={() => setAdding(true)}>
              New engine code <span className="key">N</span>
            </button>
          )}
        </div>
        <div className={`grid ${columns} gap-3 border-b border-ink px-2 pb-1 text-fine font-[600] text-ink-2`}>
          <span>Code</span>
          <span>Engine</span>
          <span>Drive</span>
          <span>Years</span>
          <span>Sheet</span>
          <span>Fits together</span>
          <span className="text-right">Procedures</span>
        </div>
        <div ref={list}>
          {data.map((e, i) => (
            <Link
              key={e.code}
              to="/engines/$code"
              params={{ code: e.code }}
              data-on={i === at}
              onFocus={() => setAt(i)}
              className={`grid min-h-9 ${columns} items-center gap-3 border-b border-rule px-2 no-underline hover:bg-marking-wash data-[on=true]:shadow-[inset_3px_0_0_var(--color-marking)]`}
            >
              <span className="font-[650]">{e.code}</span>
              <span className="truncate" title={e.use}>
                {e.maker}, {e.cylinders} cylinder{e.cylinders === 1 ? "" : "s"}
                {e.use && <span className="text-ink-2">, {e.use}</span>}
              </span>
              <span className="truncate text-ink-2">{e.drive}</span>
              <span>{e.years}</span>
              <span>
                {e.inUse ? `${e.inUse} in use` : ""}
                {e.draft > 0 && (
                  <span className="text-marking">
                    {e.inUse ? ", " : ""}draft {e.draft}
                  </span>
                )}
              </span>
              <Blockers blocking={e.blocking} findings={e.findings} />
              <span className="text-right text-ink-2">{e.procedures}</span>
            </Link>
          ))}
        </div>
        {data.length === 0 && (
          <div className="py-10 text-center">
            <p className="font-[650]">No engine code yet</p>
            <p className="mt-1 text-ink-2">
              A sheet describes one code: its wheels and belts, marks and locks, fasteners and limits. Procedures are written on
              it.
            </p>
          </div>
        )}
      </div>
      <NewEngine open={adding} onOpenChange={setAdding} codes={data.map((e) => e.code)} />
    </main>
  );
}

function NewEngine({ open, onOpenChange, codes }: { open: boolean; onOpenChange: (v: boolean) => void; codes: string[] }) {
  const navigate = useNavigate();
  const client = useQueryClient();
  const [code, setCode] = useState("");
  const [from, setFrom] = useState("");
  const [trouble, setTrouble] = useState("");
  const file = useRef<HTMLInputElement>(null);
  const go = (c: string) => {
    client.invalidateQueries({ queryKey: ["engines"] });
    onOpenChange(false);
    navigate({ to: "/engines/$code", params: { code: c } });
  };
  const start = async () => {
    setTrouble("");
    try {
      const r = await ask(api.POST("/api/engines", { body: { code, from: from || undefined } }));
      go(r.code);
    } catch (e) {
      setTrouble((e as Failure).message);
    }
  };
  const read = async (f: File) => {
    setTrouble("");
    try {
      const r = await ask(
        api.POST("/api/engines/import", {
          body: f as unknown as string,
          bodySerializer: (b) => b as unknown as BodyInit,
          headers: { "Content-Type": "application/octet-stream" },
        }),
      );
      go(r.code);
    } catch (e) {
      setTrouble((e as Failure).message);
    }
  };
  return (
    <Dialog.Root open={open} onOpenChange={onOpenChange}>
      <Dialog.Portal>
        <Dialog.Overlay className="veil" />
        <Dialog.Content className="float dialog" aria-describedby={undefined}>
          <Dialog.Title className="text-head">New engine code</Dialog.Title>
          <form
            className="mt-3 grid grid-cols-[150px_minmax(0,1fr)] gap-3"
            onSubmit={(e) => {
              e.preventDefault();
              start();
            }}
          >
            <label>
              <span className="label">Code</span>
              <input
                className="field"
                autoFocus
                value={code}
                onChange={(e) => setCode(e.target.value.toUpperCase())}
                placeholder="TQ4-18P"
                maxLength={20}
              />
            </label>
            <label>
              <span className="label">Starts from</span>
              <select className="field" value={from} onChange={(e) => setFrom(e.target.value)}>
                <option value="">a blank page</option>
                {codes.map((c) => (
                  <option key={c} value={c}>
                    a copy of {c}
                  </option>
                ))}
              </select>
            </label>
            {from && (
              <p className="col-span-2 text-small text-ink-2">
                Everything is copied but the sources: where a value comes from has to be said again for this code.
              </p>
            )}
            {trouble && (
              <p role="alert" className="col-span-2 border-l-[3px] border-clash bg-clash-wash px-2 py-1 text-small">
                {trouble}
              </p>
            )}
            <div className="col-span-2 flex gap-2">
              <button type="submit" className="button solid" disabled={!code}>
                Start the sheet
              </button>
              <button type="button" className="button" onClick={() => file.current?.click()}>
                Read it from a file…
              </button>
              <Dialog.Close className="button quiet">Not now</Dialog.Close>
            </div>
          </form>
          <input
            ref={file}
            type="file"
            accept=".json,application/json"
            className="hidden"
            aria-label="Engine sheet or latch file"
            onChange={(e) => {
              const f = e.target.files?.[0];
              e.target.value = "";
              if (f) read(f);
            }}
          />
        </Dialog.Content>
      </Dialog.Portal>
    </Dialog.Root>
  );
}
