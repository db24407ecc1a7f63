package desk

import (
	"context"
	"fmt"
	"slices"
	"strings"
	"time"

	"inklatch/internal/store"
)

// The beat at which letters are thought of, the hour of the day, in the server's
// time, before which none goes out, and the most lines of one.
const (
	lettersEvery = 5 * time.Minute
	lettersFrom  = 6
	mostLines    = 40
)

// letters writes to everybody for whom something waits, at most once a day each,
// whichever server does it; to nobody who is away or wants none.
func (d *Jobs) letters(ctx context.Context) {
	if d.mail == nil || store.Now().Hour() < lettersFrom {
		return
	}
	d.tell("writing letters of what waits", d.writeLetters(ctx))
}

func (d *Jobs) writeLetters(ctx context.Context) error {
	ids, err := d.store.Reads(ctx).Unlettered(store.Now())
	if err != nil {
		return err
	}
	for _, id := range ids {
		u, err := d.rooms.Access.UserByID(ctx, id)
		if err != nil {
			return err
		}
		tasks, err := d.rooms.Drafts.MyDesk(ctx, u)
		if err != nil {
			return err
		}
		tasks = slices.DeleteFunc(tasks, func(t Task) bool { return !t.Waits })
		// The day is taken before the letter goes out: rather none than two.
		mine, err := d.store.TakeLetter(ctx, id, store.Now())
		if err != nil {
			return err
		}
		if !mine || len(tasks) == 0 {
			continue
		}
		subject, body := letterOf(u, tasks, d.address, store.Now())
		if err := d.mail.Send(ctx, u.Email, subject, body); err != nil {
			d.log.Error("a letter of what waits could not be sent", "person", id, "error", err)
		}
	}
	return nil
}

// letterOf is the letter of what waits for somebody.
func letterOf(u *User, tasks []Task, address string, now time.Time) (subject, body string) {
	today := now.Format(time.DateOnly)
	late := 0
	for i := range tasks {
		late += b2i(tasks[i].Due != "" && tasks[i].Due < today)
	}
	subject = fmt.Sprintf("Ink Latch: %d %s for you", len(tasks), many(len(tasks), "thing waits", "things wait"))
	if late > 0 {
		subject += fmt.Sprintf(", %d late", late)
	}
	var b strings.Builder
	fmt.Fprintf(&b, "Good morning, %s.\n\n", u.Name)
	for i := range tasks[:min(len(tasks), mostLines)] {
		t := &tasks[i]
		fmt.Fprintf(&b, "- %s: %s %s", strings.ToUpper(t.Kind[:1])+t.Kind[1:], t.Engine, t.Title)
		if t.Number > 0 {
			fmt.Fprintf(&b, ", revision %d", t.Number)
		}
		if t.Due != "" {
			fmt.Fprintf(&b, ", by %s", t.Due)
			if t.Due < today {
				b.WriteString(", late")
			}
		}
		fmt.Fprintf(&b, "\n  %s\n", t.Says)
	}
	if n := len(tasks) - mostLines; n > 0 {
		fmt.Fprintf(&b, "\nAnd %d more.\n", n)
	}
	if address != "" {
		fmt.Fprintf(&b, "\nAll of it stands on your desk: %s\n", address)
	}
	b.WriteString("\nThis letter comes once a day when something waits. It can be switched off under your name.\n")
	return subject, b.String()
}
