import { useEffect, useRef, useState } from "react";
import type { S } from "../../api/client";

export type Read = (text: string) => Promise<S["FieldReading"]>;

/** Typed is a field that keeps what is being typed, and hands on what it means once it means something. */
export function Typed({
  label,
  text,
  width,
  hint,
  unit,
  trouble,
  troubleId,
  read,
  onTrouble,
  onChange,
}: {
  label: string;
  text: string;
  width: number;
  hint?: string;
  /** what a bare number means */
  unit?: string;
  trouble?: string;
  /** where what is wrong with it is said */
  troubleId?: string;
  read: Read;
  onTrouble: (t: string) => void;
  onChange: (v: unknown) => void;
}) {
  const [typed, setTyped] = useState(text);
  const focused = useRef(false);
  const turn = useRef(0);
  const take = async (t: string) => {
    setTyped(t);
    const now = ++turn.current;
    try {
      const r = await read(t.trim());
      if (now !== turn.current) return;
      onTrouble(r.problem ?? "");
      if (!r.problem) onChange(r.value);
    } catch (e) {
      if (now === turn.current) onTrouble((e as Error).message);
    }
  };
  useEffect(() => {
    if (!focused.current) setTyped(text);
  }, [text]);
  return (
    <label className="chip" data-bad={!!trouble}>
      <span className="text-ink-2">{label}</span>{" "}
      <input
        value={typed}
        placeholder={hint && `e.g. ${hint}`}
        aria-invalid={!!trouble}
        aria-describedby={trouble ? troubleId : undefined}
        title={trouble}
        onFocus={() => {
          focused.current = true;
        }}
        onBlur={() => {
          focused.current = false;
          if (!trouble) setTyped(text);
        }}
        onChange={(e) => take(e.target.value)}
        style={{ width: `${width + 2}ch` }}
        className="bg-transparent font-mono text-small outline-none"
      />
      {unit && bare.test(typed.trim()) && <span className="font-mono text-small text-ink-3">{unit}</span>}
    </label>
  );
}

const bare = /^\d+([.,]\d+)?$/;
