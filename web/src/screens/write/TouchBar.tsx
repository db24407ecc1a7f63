/** TouchBar has what the keys do to the step that is met, for those who write with a finger. */
export function TouchBar({
  met,
  opened,
  onOpen,
  onDone,
  onShift,
  onRemove,
  onBack,
}: {
  /** the number of the step that is met, 0 for none */
  met: number;
  opened: boolean;
  onOpen: () => void;
  onDone: () => void;
  onShift: (by: 1 | -1) => void;
  onRemove: () => void;
  onBack: (redo: boolean) => void;
}) {
  const step = met ? `step ${met}` : "the step";
  return (
    <div role="toolbar" aria-label={`What is done to ${step}`} className="touch-bar">
      <button type="button" className="button" disabled={!met} onClick={opened ? onDone : onOpen}>
        {opened ? "Fold away" : met ? `Open ${met}` : "Open"}
      </button>
      <button type="button" className="button" disabled={!met} aria-label={`Move ${step} up`} onClick={() => onShift(-1)}>
        ↑ Up
      </button>
      <button type="button" className="button" disabled={!met} aria-label={`Move ${step} down`} onClick={() => onShift(1)}>
        ↓ Down
      </button>
      <button type="button" className="button" disabled={!met} onClick={onRemove}>
        Remove
      </button>
      <button type="button" className="button ml-auto" onClick={() => onBack(false)}>
        Undo
      </button>
      <button type="button" className="button" onClick={() => onBack(true)}>
        Redo
      </button>
    </div>
  );
}
