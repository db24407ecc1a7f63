package desk

import "sync"

// Event is something a watcher hears: a new version, or who is at which step.
type Event struct {
	Version int64  `json:"version,omitzero"`
	Client  string `json:"client,omitzero"`
	Name    string `json:"name,omitzero"`
	Step    string `json:"step,omitzero"`
	Left    bool   `json:"left,omitzero"`
}

// Watchers carries events between the people in one draft.
type Watchers struct {
	mu   sync.Mutex
	here map[int64]map[string]*watcher
}

type watcher struct {
	out  chan Event
	name string
	step string
}

func newWatchers() *Watchers { return &Watchers{here: map[int64]map[string]*watcher{}} }

// Join starts hearing of a revision. Call leave when done.
func (w *Watchers) Join(revision int64, client, name string) (events <-chan Event, leave func()) {
	w.mu.Lock()
	defer w.mu.Unlock()
	me := &watcher{out: make(chan Event, 64), name: name}
	room := w.here[revision]
	if room == nil {
		room = map[string]*watcher{}
		w.here[revision] = room
	}
	if old := room[client]; old != nil {
		close(old.out)
	}
	for c, o := range room {
		if c != client {
			me.tell(Event{Client: c, Name: o.name, Step: o.step})
		}
	}
	room[client] = me
	return me.out, func() {
		w.mu.Lock()
		defer w.mu.Unlock()
		if room[client] != me {
			return
		}
		delete(room, client)
		w.others(revision, client, Event{Client: client, Left: true})
	}
}

// tell never waits: a watcher that does not listen misses events and reads the
// revision again.
func (o *watcher) tell(e Event) {
	select {
	case o.out <- e:
	default:
	}
}

func (w *Watchers) others(revision int64, client string, e Event) {
	for c, o := range w.here[revision] {
		if c != client {
			o.tell(e)
		}
	}
}

// At says which step a client is at.
func (w *Watchers) At(revision int64, client, step string) {
	w.mu.Lock()
	defer w.mu.Unlock()
	if me := w.here[revision][client]; me != nil {
		me.step = step
		w.others(revision, client, Event{Client: client, Name: me.name, Step: step})
	}
}

func (w *Watchers) version(revision, version int64) {
	w.mu.Lock()
	defer w.mu.Unlock()
	w.others(revision, "", Event{Version: version})
}
