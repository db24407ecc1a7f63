let typed = "";
let stop: (() => void) | undefined;

/** early keeps what is typed while a page is still on its way, so that the first key is not lost and none is taken for a command. */
export function early() {
  stop?.();
  typed = "";
  const onKey = (e: KeyboardEvent) => {
    if (e.ctrlKey || e.metaKey || e.altKey) return;
    if (e.key.length === 1) typed += e.key;
    else if (e.key === "Backspace") typed = typed.slice(0, -1);
    else return;
    e.preventDefault();
    e.stopPropagation();
  };
  window.addEventListener("keydown", onKey, true);
  const timer = setTimeout(() => stop?.(), 15_000);
  stop = () => {
    clearTimeout(timer);
    window.removeEventListener("keydown", onKey, true);
    stop = undefined;
  };
}

/** typedEarly is what was typed since, and ends keeping it; undefined where nothing was waited for. */
export function typedEarly(): string | undefined {
  if (!stop) return undefined;
  stop();
  return typed;
}
