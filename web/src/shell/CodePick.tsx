import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { useDeferredValue, useId, useState } from "react";
import { someCodes } from "../api/queries";

interface CodePickProps {
  /** value is the code, empty for none. */
  value: string;
  onChange: (code: string) => void;
  /** none says what no code means. */
  none: string;
  label?: string;
  /** inUse offers only codes with a sheet in use, without one of them. */
  inUse?: boolean;
  without?: string;
  /** uses puts what the engine is used in behind its code. */
  uses?: boolean;
  autoFocus?: boolean;
  required?: boolean;
  id?: string;
  className?: string;
}

/** CodePick chooses one engine code: from a list, and where there are more of them than anybody looks through, by typing some of it. */
export function CodePick(p: CodePickProps) {
  const { value, onChange, none, label, inUse, without, uses, autoFocus, required, id, className } = p;
  const { data } = useQuery(someCodes("", inUse));
  if (data && data.total > data.rows.length) return <Typed {...p} />;
  const offered = (data?.rows ?? []).filter((c) => c.code !== without);
  return (
    <select
      id={id}
      className={`field min-w-0 max-w-full ${className ?? "!w-auto"}`}
      aria-label={label}
      required={required}
      value={value}
      autoFocus={autoFocus}
      onChange={(e) => onChange(e.target.value)}
    >
      <option value="">{none}</option>
      {value && !offered.some((c) => c.code === value) && <option value={value}>{value}</option>}
      {offered.map((c) => (
        <option key={c.code} value={c.code}>
          {uses && c.use ? `${c.code}, ${c.use}` : c.code}
        </option>
      ))}
    </select>
  );
}

/** Typed takes a code that is typed, and offers those that have it in them. */
function Typed({ value, onChange, none, label, inUse, without, autoFocus, required, id, className }: CodePickProps) {
  const [text, setText] = useState(value);
  const [was, setWas] = useState(value);
  if (was !== value) {
    setWas(value);
    setText(value);
  }
  const { data } = useQuery({ ...someCodes(useDeferredValue(text.trim()), inUse, 20), placeholderData: keepPreviousData });
  const list = useId();
  const offered = (data?.rows ?? []).filter((c) => c.code !== without);
  return (
    <>
      <input
        id={id}
        className={`field num ${className ?? "!w-[150px]"}`}
        aria-label={label}
        required={required}
        list={list}
        value={text}
        autoFocus={autoFocus}
        placeholder={none}
        autoComplete="off"
        onChange={(e) => {
          const t = e.target.value.toUpperCase();
          setText(t);
          if (t === "" || offered.some((c) => c.code === t)) onChange(t);
        }}
        onBlur={() => setText(value)}
      />
      <datalist id={list}>
        {offered.map((c) => (
          <option key={c.code} value={c.code}>
            {c.use}
          </option>
        ))}
      </datalist>
    </>
  );
}
