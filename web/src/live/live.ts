import { me } from "../api/client";
import { type Heard, Line } from "./line";
import type { FromWindow } from "./worker";

/** speaks is how often a window tells that it is still there, ms. */
const speaks = 25_000;

interface Listener {
  room: string;
  hear: (e: Heard) => void;
}

const listeners = new Set<Listener>();
let tell: ((m: FromWindow) => void) | undefined;

function heard(e: Heard) {
  for (const l of listeners) if (!e.at || e.at === l.room) l.hear(e);
}

const seats = () => [...listeners].map((l) => ({ client: me, room: l.room }));

/** alone is a line of this window's own, where the browser has none that windows share. */
function alone() {
  const line = new Line(heard);
  return (m: FromWindow) => {
    if (m.again) line.again();
    line.sit(m.seats);
  };
}

function shared() {
  const worker = new SharedWorker(new URL("./worker.ts", import.meta.url), { type: "module", name: "inklatch" });
  worker.port.onmessage = (m: MessageEvent<Heard>) => heard(m.data);
  worker.onerror = () => {
    tell = alone();
    tell({ seats: seats() });
  };
  setInterval(() => tell?.({ seats: seats() }), speaks);
  return (m: FromWindow) => worker.port.postMessage(m);
}

function said(again = false) {
  if (!tell) {
    tell = typeof SharedWorker === "undefined" ? alone() : shared();
    addEventListener("pagehide", () => tell?.({ seats: [], gone: true }));
    addEventListener("pageshow", (e) => e.persisted && said());
  }
  tell({ seats: seats(), again });
}

/** listen has hear called with what comes of a room, until the given function is called. All windows of a browser share one line. */
export function listen(room: string, hear: (e: Heard) => void) {
  const l = { room, hear };
  listeners.add(l);
  said();
  return () => {
    listeners.delete(l);
    said();
  };
}

/** listenAgain makes the line anew, after somebody has signed in. */
export const listenAgain = () => said(true);
