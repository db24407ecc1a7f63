import { useId } from "react";
import { CodePick } from "./CodePick";

/** CodeField chooses one engine code, or any. */
export function CodeField({ code, onCode }: { code: string; onCode: (code: string) => void }) {
  const id = useId();
  return (
    <div>
      <label className="label" htmlFor={id}>
        Code
      </label>
      <CodePick id={id} value={code} onChange={onCode} none="any" />
    </div>
  );
}
