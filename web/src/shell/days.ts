const days = new Intl.DateTimeFormat("en-GB", { weekday: "short", day: "numeric", month: "short", timeZone: "UTC" });

/** day says a day as 2026-05-31 as people do: “Sun 31 May”. */
export const day = (iso: string) => days.format(new Date(`${iso}T00:00:00Z`));

/** late tells a day that is over. */
export const late = (iso: string) => iso < today();

/** today is the day as 2026-05-31. */
export const today = () => new Date().toISOString().slice(0, 10);
