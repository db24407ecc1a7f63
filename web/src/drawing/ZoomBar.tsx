import type { Zoom } from "./useZoom";

/** ZoomBar goes nearer and back again, for those without a wheel on their mouse. */
export function ZoomBar({ zoom }: { zoom: Zoom }) {
  const near = zoom.k > 1;
  return (
    <div className="absolute right-2 bottom-2 flex items-center gap-0.5" role="group" aria-label="Size of the drawing">
      {near && (
        <>
          <button type="button" className="button quiet slim" onClick={zoom.whole}>
            Show all
          </button>
          <button
            type="button"
            className="button quiet slim !px-2"
            aria-label="Smaller"
            onClick={() => zoom.by(1 / 1.5)}
          >
            −
          </button>
        </>
      )}
      <button type="button" className="button quiet slim !px-2" aria-label="Larger" onClick={() => zoom.by(1.5)}>
        +
      </button>
    </div>
  );
}
