import { useSyncExternalStore } from "react";

let text = "";
let timer: ReturnType<typeof setTimeout> | undefined;
const ears = new Set<() => void>();

/** say shows a short sentence at the bottom for a few seconds. */
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
    <div aria-live="polite" role="status" className="no-print fixed bottom-[52px] left-1/2 z-50 -translate-x-1/2">
      {t && <div className="float px-4 py-2 text-body font-medium">{t}</div>}
    </div>
  );
}
