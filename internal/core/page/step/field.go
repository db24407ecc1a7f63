package step

import (
	"errors"
	"fmt"
	"math"
	"strings"

	"inklatch/internal/core/engine"
	"inklatch/internal/core/unit"
)

// FieldReading is what somebody typed into a field of a step.
type FieldReading struct {
	// Value is what the step holds then, as in JSON: words, a number, or stages.
	Value any `json:"value"`
	// Text is the value as it is written; Problem why it is refused, a sentence.
	Text    string `json:"text"`
	Problem string `json:"problem,omitzero"`
}

// ReadField reads what was typed into the field of a verb; a bare number takes
// the field's unit, nothing typed empties the field. It is an error when the verb
// has no such field, or one that is chosen and not typed.
func ReadField(verb Verb, key, text string) (FieldReading, error) {
	spec := registry[verb]
	if spec == nil {
		return FieldReading{}, fmt.Errorf("there is no verb %q", verb)
	}
	if key == "when" {
		return readWhenField(strings.TrimSpace(text)), nil
	}
	for _, f := range spec.Fields {
		if f.Key != key {
			continue
		}
		r, err := f.read(strings.TrimSpace(text))
		if err != nil {
			return FieldReading{Problem: sentence(err.Error())}, nil
		}
		return r, nil
	}
	return FieldReading{}, fmt.Errorf("“%s” has no field %q", verb, key)
}

// readWhenField reads for which engines a step of any verb is.
func readWhenField(text string) FieldReading {
	if text == "" {
		return FieldReading{Value: engine.When{}}
	}
	w, ok := engine.ReadWhen(text, optionsIn(text))
	if !ok {
		return FieldReading{Problem: "Write years, builds or options, such as “from 2022”, “2019 to 2021” or “with cold pack”."}
	}
	return FieldReading{Value: w, Text: w.Said()}
}

func (f *Field) read(text string) (FieldReading, error) {
	switch f.Kind {
	case QuantityIn:
		if text == "" {
			return FieldReading{Value: ""}, nil
		}
		q, err := unit.Judge(unit.Bare(text, f.Unit))
		return FieldReading{Value: q.String(), Text: q.String()}, err
	case StagesIn:
		if text == "" {
			return FieldReading{Value: []engine.Stage{}}, nil
		}
		stages, err := engine.ParseStages(unit.Bare(text, f.Unit))
		return FieldReading{Value: stages, Text: engine.StagesText(stages)}, err
	case StagesByIn:
		by, err := ParseBy(text, f.Unit, nil)
		return FieldReading{Value: by, Text: ByText(by)}, err
	case NumberIn:
		if text == "" {
			return FieldReading{Value: 0.0}, nil
		}
		q, err := unit.Judge(unit.Bare(text, unit.Turn))
		n := q.Value
		if err != nil || q.Unit != unit.Turn || q.Range || q.Tol != 0 || n < 0 || n > MostTurns || f.Key == "readings" && n != math.Trunc(n) {
			return FieldReading{}, errors.New("a number goes here, such as 2")
		}
		return FieldReading{Value: n, Text: unit.Number(n)}, nil
	case TextIn:
		return FieldReading{Value: text, Text: text}, nil
	}
	return FieldReading{}, fmt.Errorf("%s is chosen, not typed", f.Label)
}

// sentence makes a sentence of an error.
func sentence(s string) string {
	r := []rune(strings.TrimSuffix(s, "."))
	if len(r) == 0 {
		return s
	}
	end := "."
	if r[len(r)-1] == '?' {
		end = ""
	}
	return strings.ToUpper(string(r[:1])) + string(r[1:]) + end
}

// MostTurns is more than anybody turns an engine by hand in one step; the door
// refuses more.
const MostTurns = 1000
