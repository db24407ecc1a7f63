package main

import (
	"bufio"
	"fmt"
	"io"
	"strings"

	"github.com/go-json-experiment/json"
	"github.com/spf13/cobra"

	"inklatch/internal/core/engine"
	"inklatch/internal/core/step"
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
	lex := step.NewLexicon(x)
	sc := bufio.NewScanner(in)
	sc.Buffer(make([]byte, 64<<10), 1<<20)
	w := bufio.NewWriter(out)
	defer func() {
		if e := w.Flush(); err == nil {
			err = e
		}
	}()
	var here step.Phase
	for sc.Scan() {
		line := strings.ToValidUTF8(strings.TrimRight(sc.Text(), "\r"), "�")
		if strings.TrimSpace(line) == "" {
			continue
		}
		r := step.Read(lex, line)
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
			continue
		}
		o.print(w)
	}
	return sc.Err()
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
