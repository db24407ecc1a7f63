import { useSyncExternalStore } from "react";

let text = "";
let timer: ReturnType<typeof setTimeout> | undefined;
const ears = new Set<() => void>();

/** say shows a short sentence in the bar at the top for a few seconds, where it covers nothing of what it speaks of. */
export function say(sentence: string) {
  text = sentence;
  clearTimeout(timer);
  timer = setTimeout(() => {
    text = "";
    for (const e of ears) e();
  }, 5000);
  for (const e of ears) e();
}

export function ToastHost() {
  const t = useSyncExternalStore(
    (e) => {
      ears.add(e);
      return () => ears.delete(e);
    },
    () => text,
  );
  return (
    <div
      aria-live="polite"
      role="status"
      className="no-print pointer-events-none fixed top-[6px] left-1/2 z-50 w-max max-w-[min(520px,92vw)] -translate-x-1/2"
    >
      {t && <div className="float px-3 py-[3px] text-small leading-[20px] font-medium text-ink">{t}</div>}
    </div>
  );
}
