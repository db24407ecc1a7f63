// One line to the server for all windows of a browser: six of them would use up the
// connections that a browser has for one server.
import { Line, type Seat } from "./line";

interface Port {
  seats: Seat[];
  heard: number;
}

/** FromWindow is what a window tells: where it is now, that somebody has signed in, that it is put aside, or only that it is still there. */
export interface FromWindow {
  seats: Seat[];
  again?: boolean;
  gone?: boolean;
}

/** gone is after how long a window that says nothing has gone, ms; a window behind others speaks once a minute. */
const gone = 200_000;

const ports = new Map<MessagePort, Port>();
/** the windows that have been here once */
const known = new WeakSet<MessagePort>();
const line = new Line((e) => {
  for (const [port, p] of ports) if (!e.at || p.seats.some((s) => s.room === e.at)) port.postMessage(e);
});

function seated() {
  line.sit([...ports.values()].flatMap((p) => p.seats));
}

setInterval(() => {
  for (const [port, p] of ports) if (Date.now() - p.heard > gone) ports.delete(port);
  seated();
}, gone / 4);

(self as unknown as { onconnect: (e: MessageEvent) => void }).onconnect = (e) => {
  const port = e.ports[0];
  port.onmessage = (m: MessageEvent<FromWindow>) => {
    if (m.data.gone) ports.delete(port);
    else {
      // One that was away, asleep or put aside, may have missed something meanwhile.
      if (known.has(port) && !ports.has(port)) port.postMessage({ missed: true });
      known.add(port);
      ports.set(port, { seats: m.data.seats, heard: Date.now() });
    }
    if (m.data.again) line.again();
    seated();
  };
};
