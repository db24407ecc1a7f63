import { useSyncExternalStore } from "react";

let text = "";
let timer: ReturnType<typeof setTimeout> | undefined;
const ears = new Set<() => void>();

/** say shows a short sentence in the bar at the top for a few seconds: it has its own place there and covers nothing. */
export function say(sentence: string) {
  text = sentence;
  clearTimeout(timer);
  timer = setTimeout(() => {
    text = "";
    for (const e of ears) e();
  }, 5000);
  for (const e of ears) e();
}

/** ToastHost is the place for what was done: in the bar, or on small screens under it. */
export function ToastHost() {
  const t = useSyncExternalStore(
    (e) => {
      ears.add(e);
      return () => ears.delete(e);
    },
    () => text,
  );
  return (
    <div aria-live="polite" role="status" className="toast no-print" title={t || undefined}>
      {t && <span>{t}</span>}
    </div>
  );
}
