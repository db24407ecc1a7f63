import type { S } from "../../api/client";

/** aside is a step with a note or a caution added to it. */
export function aside(step: S["Step"], r: S["Reading"]): S["Step"] {
  const text = r.sentence;
  if (r.aside === "note") return { ...step, note: step.note ? `${step.note} ${text}` : text };
  return { ...step, cautions: [...(step.cautions ?? []), { text }] };
}
