/** SortButton is the name of a column that a list is sorted by, with the way it is sorted now. */
export function SortButton({
  name,
  by,
  on,
  down,
  onSort,
}: {
  name: string;
  /** by says what of the column it is sorted by, where its name does not. */
  by?: string;
  on: boolean;
  down: boolean;
  onSort: () => void;
}) {
  return (
    <button
      type="button"
      className={`whitespace-nowrap ${on ? "font-[650] text-ink" : "hover:text-ink"}`}
      aria-label={`Sort by ${name.toLowerCase()}${by ? `, ${by}` : ""}${on ? (down ? ", now falling" : ", now rising") : ""}`}
      onClick={onSort}
    >
      {name} {on && (down ? "↓" : "↑")}
    </button>
  );
}
