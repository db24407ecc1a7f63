import { type ReactNode, useEffect, useState } from "react";
import { ofWhichBlock } from "../../shell/rows";
import { useSmall } from "../../shell/useSmall";

const small = "(max-width: 1023px), (max-height: 560px)";

/** Beside holds the engine and the findings beside the steps. In a small window it folds away to a line, so that the steps keep the room. */
export function Beside({
  findings,
  blocks: blocking,
  stale,
  children,
}: {
  findings: number;
  blocks: number;
  stale: boolean;
  children: [ReactNode, ReactNode];
}) {
  const narrow = useSmall(small);
  const [open, setOpen] = useState(false);
  const shown = !narrow || open;
  return (
    <aside
      aria-label="The engine and the findings"
      data-stale={stale}
      data-folded={!shown}
      className={`flex min-h-0 flex-none flex-col ${narrow ? `w-full ${shown ? "h-[56%]" : ""}` : "w-[38.5%] max-w-[640px]"}`}
    >
      {narrow && (
        <div className="flex flex-none items-center gap-2 border-t border-ink bg-film px-3 py-0.5 text-small">
          <span className={blocking ? "font-[650] text-clash" : "text-ink-2"}>
            {findings === 0 ? "No findings" : `${findings} finding${findings === 1 ? "" : "s"}`}
            {blocking > 0 && `, ${ofWhichBlock(blocking)}`}
          </span>
          <button type="button" className="button quiet ml-auto slim" aria-expanded={shown} onClick={() => setOpen(!open)}>
            {shown ? "Fold away" : "Show the engine and the findings"}
          </button>
        </div>
      )}
      {shown && (
        <div
          className={`grid min-h-0 flex-1 ${narrow ? "grid-cols-2 max-[620px]:grid-cols-1" : "grid-rows-[minmax(0,1fr)_auto_minmax(150px,36%)]"}`}
        >
          <div className={`flex min-h-0 flex-col bg-(--white) ${narrow ? "max-[620px]:hidden" : "row-span-2"}`}>
            {stale && (
              <p role="status" className="bg-paint-wash px-3 py-1 text-small">
                From before your last edits: the server has not worked them out yet.
              </p>
            )}
            {children[0]}
          </div>
          {children[1]}
        </div>
      )}
    </aside>
  );
}

/** useLate is true once something has gone on for longer than a moment. */
export function useLate(on: boolean) {
  const [late, setLate] = useState(false);
  useEffect(() => {
    if (!on) {
      setLate(false);
      return;
    }
    const t = setTimeout(() => setLate(true), 1000);
    return () => clearTimeout(t);
  }, [on]);
  return late;
}
