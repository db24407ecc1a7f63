package main

import (
	"bufio"
	"errors"
	"fmt"
	"io"
	"strings"

	"github.com/go-json-experiment/json"
	"github.com/spf13/cobra"

	"inklatch/internal/core/engine"
	"inklatch/internal/core/page/quickline"
	"inklatch/internal/core/page/step"
)

// readLine is what became of one line of a page.
type readLine struct {
	Line string `json:"line"`
	// Read is false for a line that stays free text.
	Read     bool      `json:"read"`
	Verb     step.Verb `json:"verb"`
	Sentence string    `json:"sentence"`
	Step     step.Step `json:"step"`
	// Text is a line of free text as it is kept; empty for a step with effects.
	Text string `json:"text"`
	// Why says why a line stays free text.
	Why     string   `json:"why,omitzero"`
	Unread  []string `json:"unread"`
	Choices []string `json:"choices"`
	// Parts are the lines that a line with several instructions can be taken apart
	// into.
	Parts []string `json:"parts,omitzero"`
}

func readCommand() *cobra.Command {
	var asJSON bool
	c := &cobra.Command{
		Use: "read ENGINE.json", Short: "Read a page from the standard input line by line, as the quick line does",
		Args: cobra.ExactArgs(1),
		RunE: func(cmd *cobra.Command, args []string) error {
			s, err := readSheet(args[0])
			if err != nil {
				return fmt.Errorf("%s: %w", args[0], err)
			}
			return readPage(s, cmd.InOrStdin(), cmd.OutOrStdout(), asJSON)
		},
	}
	c.Flags().BoolVar(&asJSON, "json", false, "an object for each line")
	return c
}

// readPage reads a page and writes what became of each line.
func readPage(s *engine.Sheet, in io.Reader, out io.Writer, asJSON bool) (err error) {
	x := engine.NewIndex(s)
	lex := quickline.NewLexicon(x)
	lines := bufio.NewReader(in)
	w := bufio.NewWriter(out)
	defer func() {
		if e := w.Flush(); err == nil {
			err = e
		}
	}()
	var here step.Phase
	for n := 1; ; n++ {
		raw, more, err := nextLine(lines)
		if err != nil {
			return fmt.Errorf("reading line %d: %w", n, err)
		}
		if n == 1 {
			raw = strings.TrimPrefix(raw, "\ufeff") // a byte order mark, as some editors write
		}
		line := strings.ToValidUTF8(strings.TrimRight(raw, "\r\n"), "�")
		if strings.TrimSpace(line) == "" {
			if !more {
				return nil
			}
			continue
		}
		r := quickline.Read(lex, line)
		here = step.PhaseAfter(here, r.Phase)
		o := readLine{Line: line, Read: r.Read(), Verb: r.Action.Verb(), Step: r.Step("line", here), Why: r.Problem, Unread: r.Words(), Choices: r.Choices, Parts: r.Parts}
		o.Sentence = r.Sentence(x)
		if d, ok := r.Action.(*step.Do); ok {
			o.Text = d.Text
		}
		if asJSON {
			b, err := json.Marshal(o)
			if err != nil {
				return err
			}
			_, _ = w.Write(append(b, '\n'))
		} else {
			o.print(w)
		}
		if !more {
			return nil
		}
	}
}

// mostRead is how much of one line is read, bytes: more is no line of a page.
const mostRead = 1 << 20

// nextLine reads a line, however long, and keeps as much as is read of one; more is false
// at the end.
func nextLine(in *bufio.Reader) (line string, more bool, err error) {
	var b strings.Builder
	for {
		part, err := in.ReadSlice('\n')
		if room := mostRead - b.Len(); room > 0 {
			b.Write(part[:min(len(part), room)])
		}
		switch {
		case err == nil:
			return b.String(), true, nil
		case errors.Is(err, io.EOF):
			return b.String(), false, nil
		case !errors.Is(err, bufio.ErrBufferFull):
			return "", false, err
		}
	}
}

func (o *readLine) print(w io.Writer) {
	if o.Read {
		fmt.Fprintf(w, "  %s\n", o.Sentence)
		return
	}
	fmt.Fprintf(w, "? %s\n    stays free text: %s\n", o.Line, o.Why)
	for _, c := range o.Choices {
		fmt.Fprintf(w, "    meant? %s\n", c)
	}
	if len(o.Parts) > 0 {
		fmt.Fprintf(w, "    %d steps? %s\n", len(o.Parts), strings.Join(o.Parts, " / "))
	}
}
