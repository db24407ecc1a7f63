package desk

import (
	"context"
	"sync"

	"inklatch/internal/store"
)

// Event is something a watcher hears: a new version, or who is at which step.
type Event struct {
	Version int64  `json:"version,omitzero"`
	Client  string `json:"client,omitzero"`
	Name    string `json:"name,omitzero"`
	Step    string `json:"step,omitzero"`
	Left    bool   `json:"left,omitzero"`
	// Talk is set where something was said of the page, or arranged.
	Talk bool `json:"talk,omitzero"`
	// Missed asks to read the page again: events may have been lost.
	Missed bool `json:"missed,omitzero"`
}

// Watchers carries events between the people in one draft, on this server and on
// every other on the same database.
type Watchers struct {
	d       *Desk
	mu      sync.Mutex
	here    map[Room]map[string]*watcher
	persons map[int]func(person int64)
	next    int
}

// Room is where people meet: a revision, or the engine sheets of a code.
type Room struct {
	Revision int64
	Code     string
}

// event is an event in the room.
func (r Room) event(e store.Event) store.Event {
	e.Revision, e.Code = r.Revision, r.Code
	return e
}

type watcher struct {
	out     chan Event
	session string
	name    string
	step    string
}

func newWatchers(d *Desk) *Watchers {
	return &Watchers{d: d, here: map[Room]map[string]*watcher{}, persons: map[int]func(int64){}}
}

// hear takes in an event of any server, this one's own along.
func (w *Watchers) hear(e store.Event) {
	w.mu.Lock()
	at := Room{e.Revision, e.Code}
	switch {
	case e.Missed:
		for _, room := range w.here {
			for _, o := range room {
				o.tell(Event{Missed: true})
			}
		}
	case e.Who:
		for c, o := range w.here[at] {
			go w.announce(at.event(store.Event{Client: c, Name: o.name, Step: o.step}))
		}
	case at != Room{}:
		for c, o := range w.here[at] {
			if c != e.Client {
				o.tell(Event{Version: e.Version, Client: e.Client, Name: e.Name, Step: e.Step, Left: e.Left, Talk: e.Talk})
			}
		}
	}
	var told []func(int64)
	if e.Person != 0 || e.Missed {
		for _, f := range w.persons {
			told = append(told, f)
		}
	}
	w.mu.Unlock()
	for _, f := range told {
		f(e.Person)
	}
}

// announce tells every server. That somebody is at a step may get lost; it is
// said again when they move on.
func (w *Watchers) announce(e store.Event) {
	ctx, cancel := context.WithTimeout(context.Background(), store.LockLimit)
	defer cancel()
	if err := w.d.store.Tell(ctx, e); err != nil {
		w.d.log.Warn("telling who is where", "error", err)
	}
}

// OnPerson calls f, until forget, whenever somebody has changed or a session of
// theirs has ended; with 0 when that may have been missed.
func (w *Watchers) OnPerson(f func(person int64)) (forget func()) {
	w.mu.Lock()
	defer w.mu.Unlock()
	n := w.next
	w.next++
	w.persons[n] = f
	return func() {
		w.mu.Lock()
		defer w.mu.Unlock()
		delete(w.persons, n)
	}
}

// Join starts hearing of a room under a client's name, which belongs to the
// session that took it. Call leave when done.
func (w *Watchers) Join(at Room, client, session, name string) (events <-chan Event, leave func(), err error) {
	w.mu.Lock()
	defer w.mu.Unlock()
	room := w.here[at]
	if room == nil {
		room = map[string]*watcher{}
		w.here[at] = room
	}
	if old := room[client]; old != nil {
		if old.session != session {
			return nil, nil, problem(409, "Somebody else is here under that name.")
		}
		close(old.out) // the same window, come back after a cut line
	}
	me := &watcher{out: make(chan Event, 64), session: session, name: name}
	room[client] = me
	go w.announce(at.event(store.Event{Who: true}))
	return me.out, func() {
		w.mu.Lock()
		defer w.mu.Unlock()
		if room[client] != me {
			return
		}
		delete(room, client)
		if len(room) == 0 && len(w.here[at]) == 0 {
			delete(w.here, at)
		}
		go w.announce(at.event(store.Event{Client: client, Left: true}))
	}, nil
}

// tell never waits: a watcher that does not listen is told to read again as soon
// as it does.
func (o *watcher) tell(e Event) {
	select {
	case o.out <- e:
	default:
		select { // make room for the one event that makes up for all others
		case <-o.out:
		default:
		}
		select {
		case o.out <- Event{Missed: true}:
		default:
		}
	}
}

// At says which step a client of the session is at; nothing happens where that
// session has no such client.
func (w *Watchers) At(at Room, client, session, step string) {
	w.mu.Lock()
	defer w.mu.Unlock()
	me := w.here[at][client]
	if me == nil || me.session != session || me.step == step {
		return
	}
	me.step = step
	go w.announce(at.event(store.Event{Client: client, Name: me.name, Step: step}))
}
