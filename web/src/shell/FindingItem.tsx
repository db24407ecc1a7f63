import type { ReactNode } from "react";

/** FindingItem is one finding in a list: its sign, what and why, and under them what can be done. */
export function FindingItem({
  finding,
  on,
  onGo,
  children,
}: {
  finding: { severity: string; what: string; why: string };
  on: boolean;
  onGo: () => void;
  children?: ReactNode;
}) {
  return (
    <li
      ref={on ? (el) => void el?.scrollIntoView({ block: "nearest" }) : undefined}
      data-on={on}
      className="group -mx-1.5 grid grid-cols-[20px_minmax(0,1fr)] gap-x-2 border-t border-rule px-1.5 py-1.5 data-[on=true]:bg-(--white)"
    >
      <Sign severity={finding.severity} />
      <button type="button" className="min-w-0 self-start text-left" onClick={onGo}>
        <span className="block font-[650]">{finding.what}</span>
        <span className="block text-small text-ink-2">{finding.why}</span>
      </button>
      {children}
    </li>
  );
}

function Sign({ severity }: { severity: string }) {
  return (
    <svg
      width="16"
      height="16"
      viewBox="0 0 16 16"
      role="img"
      aria-label={severity === "blocks" ? "Blocks" : severity === "should-fix" ? "Should fix" : "Check"}
      className="mt-0.5"
    >
      {severity === "blocks" ? (
        <path d="M2.5 2.5l11 11m0 -11l-11 11" stroke="var(--color-clash)" strokeWidth="2.6" />
      ) : severity === "should-fix" ? (
        <path d="M8 2l6.5 11.5h-13z" fill="none" stroke="var(--color-paint-edge)" strokeWidth="1.8" />
      ) : (
        <circle cx="8" cy="8" r="5.5" fill="none" stroke="var(--color-ink-2)" strokeWidth="1.6" strokeDasharray="2.4 2" />
      )}
    </svg>
  );
}
