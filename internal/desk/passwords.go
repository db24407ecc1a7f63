package desk

import (
	"fmt"
	"strings"
	"sync"
	"unicode/utf8"

	"github.com/ccojocar/zxcvbn-go/data"
	"github.com/go-json-experiment/json"
	"golang.org/x/text/unicode/norm"
)

// The lengths of a password: NIST SP 800-63B-4 section 3.1.1.2 asks for at least
// 15 where a password is all there is (8 in the edition before), lets verifiers
// bound it at 64 or more, and forbids rules of composition. From memory. Twelve
// lies between the two editions; the list of common ones does the rest.
const (
	leastPassword = 12
	mostPassword  = 256
)

// common are passwords that turn up most often in leaks, in lower case. The list is
// unpacked when it is first asked for: the package that ships it reads all of its lists
// at every start.
var common = sync.OnceValue(func() map[string]bool {
	var file struct {
		List []string
	}
	raw, err := data.Asset("data/Passwords.json")
	if err == nil {
		err = json.Unmarshal(raw, &file, json.MatchCaseInsensitiveNames(true))
	}
	if err != nil || len(file.List) < 1000 {
		panic(fmt.Sprintf("the list of common passwords does not read: %v", err)) // it ships in the binary
	}
	out := make(map[string]bool, len(file.List))
	for _, p := range file.List {
		out[strings.ToLower(p)] = true
	}
	return out
})

// normal is how a password is kept and compared: the same letters typed on
// another keyboard are the same password (Unicode NFKC, as SP 800-63B asks).
func normal(password string) string { return norm.NFKC.String(password) }

// checkPassword says why somebody should not choose a password. There are no
// rules of composition.
func checkPassword(password, name, email string) error {
	bad := func(why string, args ...any) error {
		return &Problem{Status: 422, Title: fmt.Sprintf(why, args...), Field: "password"}
	}
	p := normal(password)
	n := utf8.RuneCountInString(p)
	low := strings.ToLower(p)
	local, _, _ := strings.Cut(strings.ToLower(email), "@")
	switch {
	case !utf8.ValidString(password) || strings.ContainsRune(password, 0):
		return bad("This password has bytes in it that are no text.")
	case n < leastPassword:
		return bad("A password has at least %d letters. A few plain words in a row do well.", leastPassword)
	case len(p) > mostPassword:
		return bad("A password has at most %d letters.", mostPassword)
	case common()[low], common()[strings.TrimRight(low, "0123456789!?.")]:
		return bad("This password is on the list of those tried first. Take another.")
	case repeats(low):
		return bad("This password repeats itself. Take another.")
	case low == strings.ToLower(name), low == strings.ToLower(email), len(local) > 3 && strings.TrimRight(low, "0123456789!?.") == local, strings.Trim(low, "0123456789!?. ") == "inklatch":
		return bad("This password is your name, your address or this program’s. Take another.")
	}
	return nil
}

// repeats reports whether a text is one short piece over and over, or a run of
// the keyboard's or the alphabet's own order.
func repeats(s string) bool {
	for k := 1; k <= 4 && k < len(s); k++ {
		if strings.Repeat(s[:k], len(s)/k+1)[:len(s)] == s {
			return true
		}
	}
	for _, run := range []string{"abcdefghijklmnopqrstuvwxyz", "01234567890123456789", "qwertyuiopasdfghjklzxcvbnm"} {
		if strings.Contains(run, s) {
			return true
		}
	}
	return false
}
