package web

import (
	"context"
	"encoding/json"
	"fmt"
	"net/http"
	"time"

	"inklatch/internal/desk"
)

// pump writes server-sent events until the context ends.
func pump(ctx context.Context, w http.ResponseWriter, events <-chan desk.Event) error {
	w.Header().Set("Content-Type", "text/event-stream")
	w.WriteHeader(http.StatusOK)
	rc := http.NewResponseController(w)
	tick := time.NewTicker(20 * time.Second)
	defer tick.Stop()
	if _, err := fmt.Fprint(w, ": here\n\n"); err != nil {
		return nil
	}
	_ = rc.Flush()
	for {
		select {
		case <-ctx.Done():
			return nil
		case e, ok := <-events:
			if !ok {
				return nil
			}
			b, err := json.Marshal(e)
			if err != nil {
				return err
			}
			if _, err := fmt.Fprintf(w, "data: %s\n\n", b); err != nil {
				return nil
			}
		case <-tick.C:
			if _, err := fmt.Fprint(w, ": still here\n\n"); err != nil {
				return nil
			}
		}
		_ = rc.Flush()
	}
}
